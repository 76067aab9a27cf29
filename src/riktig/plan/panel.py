"""Owns the totals of the whole panel: load, short-circuit rating, heat. Must not judge them."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.model import Part
from riktig.job.model import Job, Standard
from riktig.plan.circuit import PLATE, Circuit
from riktig.plan.ratings import PanelLoad

UL_DEFAULT_KA = {"contactor": 5.0, "overload": 5.0, "disconnect": 5.0}
"""Assumed rating of unmarked components, UL 508A Table SB4.1 (motor controllers up to 50 hp), from memory."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelTotals:
    """Currents in A, short-circuit rating in kA with the device ids that limit it, losses inside in W."""

    full_load_a: float
    largest_motor_a: float
    sccr_ka: float
    sccr_limited_by: tuple[str, ...]
    heat_w: float


def total_panel(job: Job, circuit: Circuit, parts: Mapping[str, Part], load: PanelLoad) -> PanelTotals:
    """Return the panel's totals; its short-circuit rating is that of its weakest power component."""
    ratings: dict[str, float] = {}
    for device in circuit.devices:
        part = parts[device.id]
        rating = part.rating("breaking_ka")
        if not rating and job.practice.standard is Standard.UL:
            rating = UL_DEFAULT_KA.get(part.kind, 0.0)
        is_behind_transformer = device.role == "F" and {f"{device.owner}.T", f"{device.owner}.G"} & parts.keys()
        if rating and not is_behind_transformer:
            ratings[device.id] = rating
    least = min(ratings.values(), default=0.0)
    heat = sum(parts[d.id].losses_w for d in circuit.devices if d.location == PLATE)
    return PanelTotals(
        full_load_a=load.full_load, largest_motor_a=load.largest_motor, sccr_ka=least, heat_w=heat,
        sccr_limited_by=tuple(d for d, ka in ratings.items() if ka == least),
    )  # fmt: skip
