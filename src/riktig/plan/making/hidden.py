"""Owns what hides terminals once it is put on: covers and shrouds; wires that land under it are laid before. Must not order work."""

from collections.abc import Mapping
from typing import TYPE_CHECKING

from riktig.plan.answers.remembered import remembered
from riktig.plan.place.covers import covers
from riktig.plan.place.layout import Box

if TYPE_CHECKING:
    from riktig.plan.plan import Plan
    from riktig.plan.wiring.conductors import Conductor


_LEFT_FREE = frozenset({"socket", "light", "heater", "fan", "thermostat", "limit-switch", "transformer", "psu"})
"""Kinds over which no cover goes: people use them, they give off heat, or have a housing of their own (common practice, no source)."""


@remembered("plate", "parts")
def covers_of(plan: "Plan") -> Mapping[str, tuple[tuple[str, ...], Box]]:
    """Return the covers of the plate by the first thing that each goes over: all that is under it, and its box in mm of the plate."""
    free = {device for device, part in plan.parts.items() if part.kind in _LEFT_FREE}
    return {names[0]: (names, box) for names, box in covers(plan.plate, free)}


@remembered("plate", "parts", "job.incoming")
def hidden_items(plan: "Plan") -> frozenset[str]:
    """Return the parts and strips on the plate whose terminals nobody reaches once covers and the shroud of the main switch are on.

    Source:
        What stays live is covered: IEC 60204-1:2016 6.2.2, NFPA 79 5.3.3, from memory; its wires go first: common practice, no source.
    """
    under = {name for names, _ in covers_of(plan).values() for name in names}
    main = plan.parts.get("Q0")
    if main is not None and plan.job.incoming.shrouded and any(t.clamp.clamp == "bolt" for t in main.terminals):
        under.add("Q0")
    return frozenset(under)


def is_hidden(plan: "Plan", wire: "Conductor") -> bool:
    """Return whether an end of a wire lies under a cover or shroud."""
    hidden = hidden_items(plan)
    return bool(hidden) and any(plan.item_of(end) in hidden for end in (wire.a, wire.b))
