"""Owns which warnings a panel needs by its own circuit, and where each is put. Must not print them."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from riktig.job.practice import Standard
from riktig.job.roles import restarts
from riktig.plan.answers.stay_live import find_live_groups
from riktig.standards import iec_60204_1

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

_HOT = frozenset({"heater", "resistor"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Warning:  # noqa: A001 what the trade calls it
    """A warning: its words, what it is about, and where it is put; `name` tells it from others about the same."""

    name: str
    about: str
    text: str
    place: str


def warnings_of(plan: "Plan") -> tuple[Warning, ...]:
    """Return the warnings of a panel: shock, what stays live, further supplies, charge, surge, heat, starts by itself, field wiring.

    Source:
        IEC 60204-1:2016 16.2.1 (shock), 16.2.2 (hot surfaces), 5.3.5 (excepted circuits), 6.2.4 (charge), NFPA 79 16.2, UL 508A 53 to 59
        (copper, torque, more than one supply), from memory.
    """
    return tuple(_warnings(plan))


def _warnings(plan: "Plan") -> Iterator[Warning]:
    volts = max(way.line_to_line for way in (plan.job.supply, *plan.job.extra_supplies))
    yield Warning(
        name="shock", about="job", text=f"DANGER, electric shock: {volts:g} V inside", place="outside of the door"
    )
    yield Warning(
        name="isolate", about="Q0", text="Isolate, lock off and prove dead before opening", place="outside of the door"
    )
    groups = find_live_groups(plan)
    sources = [group for group in groups if group.source != "mains"]
    if sources:
        text = f"MORE THAN ONE SUPPLY: {1 + len(sources)} places to isolate"
        yield Warning(name="supplies", about="Q0", text=text, place="outside of the door")
    for group in groups:
        if group.source == "mains":
            owners = dict.fromkeys(plan.circuit.device(d).owner or d for d in group.devices)
            for owner in owners:
                words = f"LIVE with the main switch off: {_what(owner, plan)}{_isolated_at(owner, plan)}"
                yield Warning(name="live", about=owner, text=words, place=f"beside {_what(owner, plan)}")
        else:
            supply, where = group.source.partition(".")[0], _where(group.source, plan)
            yield Warning(
                name="second",
                about=supply,
                text=f"SECOND SUPPLY {supply}: isolate it at {where}",
                place="outside of the door",
            )
    for device in plan.circuit.devices:
        tag, part = plan.tags[device.id], plan.parts[device.id]
        seconds = part.rating("discharge_s")
        if seconds > iec_60204_1.RESIDUAL_S:
            words = f"{tag} HOLDS CHARGE: wait {seconds / 60:g} min after isolating, and prove it dead"
            yield Warning(name="charge", about=device.id, text=words, place=f"beside {tag}")
        if device.kind == "surge":
            words = f"{tag}: disconnect it before insulation is tested; replace it when it shows that it is spent"
            yield Warning(name="surge", about=device.id, text=words, place=f"beside {tag}")
        if device.kind in _HOT and (device.id in plan.plate.boxes or device.id in plan.door.boxes):
            yield Warning(name="hot", about=device.id, text=f"HOT SURFACE: {tag}", place=f"beside {tag}")
    for starter in plan.job.starters:
        if restarts(starter, plan.job):
            tag = plan.tags[starter.name]
            words = f"{tag} STARTS BY ITSELF: isolate before any work"
            yield Warning(name="starts", about=starter.name, text=words, place=f"at motor {tag}")
    if plan.job.practice.standard is Standard.UL:
        most = f"{plan.job.practice.terminal_c} °C"
        yield Warning(
            name="copper", about="job", text=f"Field wiring: copper conductors only, {most}", place="inside of the door"
        )
        yield Warning(
            name="torque",
            about="job",
            text="Tighten field terminals to the torque marked on them",
            place="inside of the door",
        )


def _what(owner: str, plan: "Plan") -> str:
    """Return what a module or device is for: the title of its load, else its tag."""
    load = plan.circuit.index.get(f"{owner}.E")
    return load.title if load is not None else plan.tags.get(owner, owner)


_ISOLATING = frozenset({"disconnect", "breaker", "fuse"})


def _isolated_at(owner: str, plan: "Plan") -> str:
    """Return where what an excepted circuit feeds is isolated, in words behind it; "" where it has nothing of its own for that."""
    own = (d.id for d in plan.circuit.devices if d.owner == owner and d.kind in _ISOLATING)
    first = next(own, None)
    return f", isolate it at {plan.tags[first]}" if first is not None else ""


def _where(source: str, plan: "Plan") -> str:
    """Return where a second supply is isolated."""
    for extra in plan.job.extra_supplies:
        if extra.name == source:
            return "its own switch here" if extra.isolated == "here" else extra.title or "its source"
    for circuit in plan.job.excepted:
        if f"{circuit.name}.G" == source:
            return "its own switch here" if circuit.isolated == "here" else circuit.source
    return "its source"
