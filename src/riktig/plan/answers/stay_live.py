"""Owns what stays live with the main switch off, found from the circuit as it is, not as declared. Must not judge it."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from riktig.catalogue.model import CONTACT_KINDS, ElementKind
from riktig.job.paths import MAINS
from riktig.plan.answers.wired import of_wiring
from riktig.plan.basis.union import UnionFind

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

_PASSING = CONTACT_KINDS | {ElementKind.POLE, ElementKind.THROUGH}
_NEUTRAL = ("N", "PE")


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveGroup:
    """What one way in keeps live: its name (`mains`, an extra supply, a device that brings a circuit in) and the ids of
    the devices behind it, in drawing order.
    """

    source: str
    devices: tuple[str, ...]


@of_wiring
def find_live_groups(plan: "Plan") -> tuple[LiveGroup, ...]:
    """Return what is live with the main switch open and every contact, breaker and other switch closed."""
    reach = UnionFind[str]()
    _join_circuit(plan, reach)
    live: dict[str, str] = {}
    for source, point in _ways_in(plan):
        live.setdefault(reach.find(point), source)
    found: dict[str, dict[str, None]] = {}
    for device, part in plan.parts.items():
        if device == "Q0":
            continue
        for element in part.elements:
            for mark in element.marks:
                reached = live.get(reach.find(f"{device}:{mark}"))
                if reached is not None and element.kind is not ElementKind.EARTH:
                    found.setdefault(reached, {}).setdefault(device)
    groups = (LiveGroup(source=source, devices=tuple(devices)) for source, devices in found.items())
    return tuple(sorted(groups, key=lambda group: group.source != "mains"))


def _join_circuit(plan: "Plan", reach: UnionFind[str]) -> None:
    for potential in plan.potentials:
        for terminal in potential.net.terminals:
            reach.join(f"={potential.number}", terminal)
    for device, part in plan.parts.items():
        if device == "Q0" or part.kind == "link":
            continue
        for element in part.elements:
            if element.kind in _PASSING:
                for mark in element.marks[1:]:
                    reach.join(f"{device}:{element.marks[0]}", f"{device}:{mark}")
        ends = {e.kind: e.marks for e in part.elements}
        if ElementKind.PRIMARY in ends and ElementKind.SECONDARY in ends:
            live, secondary = ends[ElementKind.PRIMARY][0], ends[ElementKind.SECONDARY]
            reach.join(f"{device}:{live}", f"{device}:{secondary[0 if part.kind == 'transformer' else 1]}")


def _ways_in(plan: "Plan") -> list[tuple[str, str]]:
    """Return (source, point) of every line that comes in, neutral and earth left out."""
    found = []
    for potential in plan.potentials:
        for name in potential.net.names:
            head, _, line = name.rpartition(".")
            if line in MAINS and line not in _NEUTRAL and head:
                source = "mains" if head == "in" else head.removeprefix("in.")
                if head.startswith("in") or any(e.name == head for e in plan.job.extra_supplies):
                    found.append((source, f"={potential.number}"))
    for device, part in plan.parts.items():
        if part.kind == "source":
            found.append((device, f"{device}:{part.elements[0].marks[0]}"))
    return found
