"""Owns the figures of a plate that people watch while they arrange it: reserve, longest wire, fill, heat. Must not judge them."""

from dataclasses import dataclass

from riktig.plan.place.stack import packed_width
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor


@dataclass(frozen=True, slots=True, kw_only=True)
class RailReserve:
    """How much of a rail is free: mm, and share of its length in percent."""

    code: str
    free_mm: float
    percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateFigures:
    """What a plate comes to. `longest` is the longest wire inside, None without wires; `fullest` the fullest duct and its fill in
    percent; losses and inside temperature in W and degC; `wire_m` all wire inside, `copper_kg` its copper.
    """

    reserves: tuple[RailReserve, ...]
    longest: Conductor | None
    fullest: tuple[str, float] | None
    losses_w: float
    inside_c: float
    wire_m: float
    copper_kg: float
    free_height: float

    @property
    def reserve_percent(self) -> float:
        """The smallest reserve of a rail in percent, 0 without rails."""
        return min((r.percent for r in self.reserves), default=0.0)


COPPER_KG_PER_DM3 = 8.96
"""Density of copper (IEC 60028: 8.89 g/cm3 for annealed wire; handbook value 8.96, from memory)."""


def plate_figures(plan: Plan) -> PlateFigures:
    """Return the figures of the plate of a Plan."""
    wires = [c for c in plan.conductors if c.kind == "wire" and c.legs]
    fills = plan.fill_percent
    mm3 = sum(c.length_mm * c.size.mm2 for c in plan.conductors if c.kind == "wire")
    return PlateFigures(
        reserves=rail_reserves(plan),
        longest=max(wires, key=lambda c: c.length_mm, default=None),
        fullest=max(fills.items(), key=lambda f: f[1]) if fills else None,
        losses_w=plan.panel.heat_w,
        inside_c=plan.panel.heat.inside_c,
        wire_m=sum(c.length_mm for c in plan.conductors if c.kind == "wire") / 1000,
        copper_kg=mm3 / 1e6 * COPPER_KG_PER_DM3,
        free_height=plan.plate.height - plan.plate.height_used,
    )


def rail_reserves(plan: Plan) -> tuple[RailReserve, ...]:
    """Return how much of each rail is free, what stands on it as close as it may counted as taken."""
    plate = plan.plate
    found = []
    for rail in plate.rails:
        names = sorted((n for n, code in plate.rail_of.items() if code == rail.code), key=lambda n: plate.boxes[n].x)
        items = [plate.items[n] for n in names]
        free = rail.length - packed_width(items) + sum(item.reserve for item in items)
        found.append(RailReserve(code=rail.code, free_mm=free, percent=100 * free / rail.length))
    return tuple(found)
