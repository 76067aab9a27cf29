"""Owns every text that is printed and stuck on. Must not know printers."""

from collections import Counter
from dataclasses import dataclass
from typing import TYPE_CHECKING

from riktig.job.roles import restarts
from riktig.plan.answers.nameplate import nameplate_fields
from riktig.plan.answers.stay_live import find_live_groups
from riktig.standards import iec_60204_1

if TYPE_CHECKING:
    from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Label:
    """A text to print, how often, and its size in mm as `WxH`."""

    kind: str
    text: str
    count: int
    size: str


_SIZES = {"wire": "12x4", "device": "17x9", "plate": "17x9", "terminal": "5x10", "cable": "40x10", "legend": "30x12", "heading": "80x12",
          "piece": "20x8", "nameplate": "100x60", "warning": "80x40"}  # fmt: skip


def build_labels(plan: "Plan") -> tuple[Label, ...]:
    """Return all labels: two for each wire and cable, device and plate, terminals, door legends and headings, pieces, nameplate."""
    counts: Counter[tuple[str, str]] = Counter()
    for conductor in plan.conductors:
        for text in filter(None, plan.markers_of(conductor)):
            counts[("wire", text)] += 1
    for clamp in plan.clamps:
        counts[("terminal", clamp.label)] += 1
    for device in plan.circuit.devices:
        tag = plan.tags[device.id]
        counts[("device", tag)] += 1
        if device.id in plan.plate.boxes:
            counts[("plate", tag)] += 1
        elif device.place != "plate":
            counts[("legend", device.title or tag)] += 1
    for owner in plan.door.frames:
        counts[("heading", " ".join(filter(None, plan.heading_of(owner))))] += 1
    for strip in dict.fromkeys(clamp.piece for clamp in plan.clamps):
        counts[("plate", strip)] += 1
    for cable in plan.cables:
        begin = f" from {cable.origin}" if cable.origin else ""
        counts[("cable", f"{cable.name} {cable.size_label}{begin} to {cable.target}")] += 2
    for cut in plan.cuts:
        counts[("piece", cut.code)] += 1
    counts[("nameplate", _nameplate(plan))] += 1
    counts[("warning", "Isolate, lock off and prove dead before opening")] += 1
    for text in _warnings(plan):
        counts[("warning", text)] += 1
    return tuple(Label(kind=k, text=t, count=n, size=_SIZES[k]) for (k, t), n in counts.items())


def _warnings(plan: "Plan") -> list[str]:
    """Return the words at what stays live, at second supplies, at what holds charge, and at motors that start by themselves."""
    words: list[str] = []
    for group in find_live_groups(plan):
        if group.source == "mains":
            owners = dict.fromkeys(plan.circuit.device(d).owner or d for d in group.devices)
            words.extend(f"LIVE with the main switch off: {_what(owner, plan)}" for owner in owners)
        else:
            words.append(f"SECOND SUPPLY {group.source.partition('.')[0]}: isolate it at {_where(group.source, plan)}")
    for device in plan.circuit.devices:
        seconds = plan.parts[device.id].rating("discharge_s")
        if seconds > iec_60204_1.RESIDUAL_S:
            words.append(
                f"{plan.tags[device.id]} HOLDS CHARGE: wait {seconds / 60:g} min after isolating, and prove it dead"
            )
    starting = [s.name for s in plan.job.starters if restarts(s, plan.job)]
    words.extend(f"{name} STARTS BY ITSELF: isolate before any work" for name in starting)
    return words


def _what(owner: str, plan: "Plan") -> str:
    """Return what a module or device is for: the title of its load, else its tag."""
    load = plan.circuit.index.get(f"{owner}.E")
    return load.title if load is not None else plan.tags.get(owner, owner)


def _where(source: str, plan: "Plan") -> str:
    """Return where a second supply is isolated."""
    for extra in plan.job.extra_supplies:
        if extra.name == source:
            return "its own switch here" if extra.isolated == "here" else extra.title or "its source"
    for circuit in plan.job.excepted:
        if f"{circuit.name}.G" == source:
            return "its own switch here" if circuit.isolated == "here" else circuit.source
    return "its source"


def _nameplate(plan: "Plan") -> str:
    return " · ".join(f"{field.heading}: {field.text or '...'}" for field in nameplate_fields(plan))
