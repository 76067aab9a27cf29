"""Owns what a design assumes because nobody stated it. Must not judge it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from riktig.job.model import Location
from riktig.job.practice import Standard
from riktig.plan.basis.motor import START_RATIO
from riktig.plan.place.heights import floor_to_bottom
from riktig.standards.editions import editions_of

if TYPE_CHECKING:
    from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Assumption:
    """What is taken for what, what hangs on it, and the key of the brief that states it otherwise."""

    what: str
    taken: str
    decides: str
    key: str


def list_assumptions(plan: "Plan") -> tuple[Assumption, ...]:
    """Return what is assumed, the supply first."""
    return (*_of_standards(plan), *_of_supplies(plan), *_of_air(plan), *_of_motors(plan), *_of_ways(plan))


def _of_standards(plan: "Plan") -> Iterator[Assumption]:
    practice = plan.job.practice
    newest = editions_of(practice.edition.standard)[0]
    if practice.edition is newest:
        key = "iec_60204_1" if practice.standard is Standard.IEC else "nec"
        yield Assumption(
            what=f"edition of {newest.standard} that is law", taken=newest.title, decides="numbers of the clauses that are cited",
            key=f"practice.{key}",
        )  # fmt: skip


def _of_supplies(plan: "Plan") -> Iterator[Assumption]:
    job = plan.job
    ways = (("supply", job.supply), *((f"extra_supply.{extra.name}", extra) for extra in job.extra_supplies))
    for key, way in ways:
        if way.fault_ka is None:
            yield Assumption(
                what=f"fault current of [{key}]", taken=f"{way.available_ka:g} kA", decides="short-circuit rating, disconnection",
                key=f"{key}.fault_ka",
            )  # fmt: skip
        if way.loop_ohm is None and job.practice.standard is Standard.IEC:
            yield Assumption(
                what=f"earth fault current of [{key}] at the panel", taken=f"{way.available_ka / 2:g} kA, half of that between lines",
                decides="disconnection at the far end of cables", key=f"{key}.loop_ohm",
            )  # fmt: skip
        if way.protection_a is None:
            yield Assumption(
                what=f"device ahead of [{key}]", taken="no larger than the nameplate says", decides="main conductors and main switch",
                key=f"{key}.protection_a",
            )  # fmt: skip


def _of_air(plan: "Plan") -> Iterator[Assumption]:
    box = plan.job.enclosure
    yield Assumption(
        what="air around the panel", taken=f"{box.ambient_min:g} to {box.ambient:g} °C, {box.altitude:g} m above the sea",
        decides="sizes, heat inside", key="enclosure.ambient",
    )  # fmt: skip
    yield Assumption(
        what="air inside for conductors", taken=f"{box.inside_rise:g} K above that around it", decides="conductors in the panel",
        key="enclosure.inside_rise",
    )  # fmt: skip
    if box.floor_to_bottom is None:
        yield Assumption(
            what="height of its lower edge above the floor", taken=f"{floor_to_bottom(box):.0f} mm", decides="reach of handles and buttons",
            key="enclosure.floor_to_bottom",
        )  # fmt: skip
    yield Assumption(
        what="losses and limits of parts", taken="as the generic catalogue has them", decides="heat inside, ratings",
        key="import-parts, part of a [device]",
    )  # fmt: skip


def _of_motors(plan: "Plan") -> Iterator[Assumption]:
    starters = plan.job.starters
    for what, field, taken, decides in (
        ("nameplate current", "amps", "that of its table", "overload, conductors, branch device"),
        ("start current", "start_ratio", "as is usual for its kind", "branch device, voltage drop"),
    ):
        names = [starter.name for starter in starters if getattr(starter, field) is None]
        if names:
            words = (
                f"{START_RATIO:g} times the rated one, 3.5 behind a soft starter, 1.5 on a drive"
                if field == "start_ratio"
                else taken
            )
            yield Assumption(
                what=f"{what} of {_named(names)}", taken=words, decides=decides, key=f"starter.NAME.{field}"
            )
    seconds = sorted({starter.start_seconds for starter in starters})
    if seconds:
        yield Assumption(
            what="how long starts take", taken=", ".join(f"{value:g} s" for value in seconds), decides="trip class, branch device",
            key="starter.NAME.start_seconds",
        )  # fmt: skip


def _of_ways(plan: "Plan") -> Iterator[Assumption]:
    job = plan.job
    yield Assumption(
        what="loaded circuits together in a duct", taken=f"{job.practice.grouped} at least", decides="conductors in the panel",
        key="practice.grouped",
    )  # fmt: skip
    declared = {place.name: place for place in job.locations}
    for place in dict.fromkeys(device.location for device in plan.circuit.devices):
        if place not in declared and job.location(place) is not None:
            usual = Location(name=place)
            yield Assumption(
                what=f"cable route to {place}", taken=f"{usual.distance:g} m, in {usual.laid}", decides="section, voltage drop, "
                "disconnection",
                key=f"location.{place}.distance",
            )  # fmt: skip


def _named(names: list[str]) -> str:
    return ", ".join(names[:6]) + (f" and {len(names) - 6} more" if len(names) > 6 else "")
