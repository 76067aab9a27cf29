"""Owns the loom of the door: a trunk along the hinges, a branch to each device, where it is tied. It is made beside the panel and put in.

The frame is that of the door seen from behind, as the loom lies there: mm from the edge at the hinges, and up from the lower edge.
"""

from dataclasses import dataclass

from riktig.plan.answers.remembered import remembered
from riktig.plan.circuit.model import DOOR_STUD
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.numbers import natural_key
from riktig.plan.place.layout import EDGE_MM
from riktig.plan.plan import Plan
from riktig.plan.stages import run_of
from riktig.plan.wiring.conductors import HINGE_LOOP_MM, Conductor
from riktig.plan.wiring.geometry import TAIL_MM, Geometry
from riktig.plan.wiring.links import HINGE

TIE_MM = 80.0
"""From one tie to the next along the trunk (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Branch:
    """Wires that leave the trunk to one device: where it sits in mm, how far along the trunk that is (upward above zero) from where the
    loom comes over the hinge, how far across to it, and what lies beyond the hinge for each wire, to be led into the ducts, in mm.
    """

    device: str
    x: float
    y: float
    along_mm: float
    across_mm: float
    wires: tuple[Conductor, ...]
    inside_mm: tuple[float, ...]

    @property
    def numbers(self) -> tuple[str, ...]:
        """The numbers of its wires."""
        return tuple(wire.number for wire in self.wires)


@dataclass(frozen=True, slots=True, kw_only=True)
class Loom:
    """The loom: the height in mm at which it comes over the hinge, its branches from the lowest to the highest, and at which heights it is
    tied to the door.
    """

    entry_y: float
    branches: tuple[Branch, ...]
    ties: tuple[float, ...]

    @property
    def wires(self) -> int:
        """How many wires it has."""
        return sum(len(branch.wires) for branch in self.branches)

    @property
    def span(self) -> tuple[float, float]:
        """The lowest and the highest point of its trunk, in mm."""
        heights = [self.entry_y, *(branch.y for branch in self.branches)]
        return min(heights), max(heights)


@remembered("conductors", "door", "plate", "job.enclosure")
def loom_of(plan: Plan) -> Loom | None:
    """Return the loom of the door without its bond, None where no wire goes over the hinge.

    Source:
        A loom is made on a board and put in as one: common practice, no source.
    """
    wires = [wire for wire in plan.conductors if wire.location == HINGE and wire.kind == "wire" and not _is_bond(wire)]
    if not wires:
        return None
    geometry: Geometry = run_of(plan.job)["geometry"]
    _, height = geometry.hinge
    entry = height + EDGE_MM / 2
    by_device: dict[str, list[tuple[Conductor, str]]] = {}
    for wire in wires:
        end = wire.a if device_of(wire.a) in plan.door.boxes else wire.b
        by_device.setdefault(device_of(end), []).append((wire, end))
    branches = []
    for device, members in by_device.items():
        members.sort(key=lambda pair: (natural_key(pair[0].number), pair[0].id))
        x, y = plan.door.boxes[device].centre
        out = geometry.from_hinge(members[0][1], height)
        across = out - abs(y - entry)
        branches.append(Branch(
            device=device, x=across, y=y, along_mm=y - entry, across_mm=across, wires=tuple(wire for wire, _ in members),
            inside_mm=tuple(max(wire.length_mm - out - HINGE_LOOP_MM - TAIL_MM, 0.0) for wire, _ in members),
        ))  # fmt: skip
    branches.sort(key=lambda branch: (branch.y, branch.x))
    low, high = min(entry, branches[0].y), max(entry, branches[-1].y)
    ties = {round(branch.y) for branch in branches} | {round(entry)}
    ties |= {round(low + TIE_MM * n) for n in range(int((high - low) / TIE_MM) + 1)}
    return Loom(entry_y=entry, branches=tuple(branches), ties=tuple(sorted(float(tie) for tie in _apart(ties))))


def _is_bond(wire: Conductor) -> bool:
    """Return whether a wire bonds the door: it goes straight to its stud, by itself."""
    return DOOR_STUD in {device_of(wire.a), device_of(wire.b)}


def _apart(heights: set[int]) -> list[int]:
    """Return heights of which none is much nearer to the next than half of what is usual."""
    kept: list[int] = []
    for height in sorted(heights):
        if not kept or height - kept[-1] >= TIE_MM / 2:
            kept.append(height)
    return kept
