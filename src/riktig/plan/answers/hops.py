"""Owns where one may go from what is selected: its coil, its contacts, plate, strips, wires. Must not know screens.

A hop names a bench, what is selected there, and for a sheet the target on it.
"""

from dataclasses import dataclass

from riktig.plan.answers.lookup import Lookup
from riktig.plan.circuit.model import DOOR
from riktig.plan.plan import Plan

_MOST_CONTACTS, _MOST_CLAMPS = 9, 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Hop:
    """One way on: what a button says, the bench, what is selected there, and the target on a sheet, empty elsewhere."""

    words: str
    bench: str
    ref: str
    target: str = ""


def find_hops(plan: Plan, lookup: Lookup, ref: str) -> tuple[Hop, ...]:
    """Return the ways on from a selection, nearest first; none where nothing is known of it."""
    number = lookup.number(ref) if ref not in plan.tags else None
    if number is not None:
        return (*_clamp_hops(plan, number), Hop(words="Wires", bench="wires", ref=ref))
    device = lookup.device(ref)
    if device is None or device not in plan.tags:
        return ()
    return tuple(_device_hops(plan, device))


def _clamp_hops(plan: Plan, number: str) -> list[Hop]:
    found = [clamp.id for clamp in plan.clamps if clamp.number == number]
    return [Hop(words=f"Terminal {clamp}", bench="terminals", ref=clamp) for clamp in found[:_MOST_CLAMPS]]


def _device_hops(plan: Plan, device: str) -> list[Hop]:
    hops = []
    main = plan.sheet_places.get(device)
    if main is not None:
        hops.append(Hop(words=f"Drawn at {main.label}", bench="circuit", ref=device, target=f"device:{device}"))
    if device in plan.plate.boxes:
        hops.append(Hop(words="Plate", bench="plate", ref=device))
    elif plan.circuit.device(device).location == DOOR:
        hops.append(Hop(words="Door", bench="plate", ref=device))
    hops.append(Hop(words="Wires", bench="wires", ref=device))
    near = (end for c in plan.conductors_of.get(device, ()) if c.is_wired for end in (c.a, c.b))
    strips = dict.fromkeys(end for end in near if end in plan.clamp_by_id)
    hops.extend(Hop(words=f"Terminal {clamp}", bench="terminals", ref=clamp) for clamp in list(strips)[:_MOST_CLAMPS])
    uses = [use for use in plan.uses_of.get(device, ()) if use.key in plan.contacts]
    for use in uses[:_MOST_CONTACTS]:
        place = plan.sheets.mentions[use.mention]
        words = f"{plan.contacts[use.key]} at {place.label}"
        hops.append(Hop(words=words, bench="circuit", ref=device, target=f"use:{use.key}"))
    return hops
