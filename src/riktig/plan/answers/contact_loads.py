"""Owns what hangs on each contact of the control circuits: what it carries, makes and breaks. Must not judge it."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from riktig.catalogue.model import CONSUMER_KINDS, CONTACT_KINDS, Element, ElementKind
from riktig.plan.circuit.uses import Use, holds_marks
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import control_volts, feeds_device

_SWITCHES = CONTACT_KINDS | {ElementKind.OUTPUT}


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactLoad:
    """What lies behind a contact, as if all of it were on at once: held and, with the largest pulling in, made, in VA (W on DC); of
    which `heaviest` holds most.
    """

    use: Use
    marks: str
    heaviest: str
    is_output: bool
    is_dc: bool
    volts: float
    hold_va: float
    make_va: float


def contact_loads(plan: Plan) -> Iterator[ContactLoad]:
    """Yield the load of every contact and digital output of the control circuits that switches something, in drawing order.

    What lies behind a contact is what can be reached from it along the paths to the return; of one on the return's side, what lies
    ahead of it.
    """
    supply_of = {path.key: path.supply for path in plan.circuit.paths if path.supply is not None and not path.is_power}
    controls = {control.name: control for control in plan.job.controls}
    behind: defaultdict[str, list[Use]] = defaultdict(list)
    ahead: defaultdict[str, list[Use]] = defaultdict(list)
    uses = [use for use in plan.uses if use.path in supply_of]
    for use in uses:
        behind[use.left].append(use)
        ahead[use.right].append(use)
    for use in uses:
        element = _contact_of(plan, use)
        if element is None:
            continue
        consumers = _reach(plan, behind, use.right, "right") or _reach(plan, ahead, use.left, "left")
        if consumers:
            control = controls[supply_of[use.path] or ""]
            volts = control_volts(control, plan.job)
            holds = {d: plan.circuit.device(d).held_va(plan.parts[d], volts) for d in sorted(consumers)}
            held = sum(holds.values())
            extra = max(plan.parts[d].rating("inrush_va") - plan.parts[d].rating("hold_va") for d in consumers)
            heaviest = max(holds, key=lambda device: holds[device])
            yield ContactLoad(
                use=use, marks=plan.contacts[use.key], heaviest=heaviest, is_output=element.kind is ElementKind.OUTPUT,
                is_dc=control.is_dc, volts=volts, hold_va=held, make_va=held + max(extra, 0.0),
            )  # fmt: skip


def _contact_of(plan: Plan, use: Use) -> Element | None:
    """Return the contact or output that a mention uses, None where it uses something else or found none."""
    left, _, right = plan.contacts.get(use.key, "").partition("-")
    for element in plan.parts[use.device].elements:
        if right and element.kind in _SWITCHES and holds_marks(element, (left, right)):
            return element
    return None


def _reach(plan: Plan, lanes: Mapping[str, list[Use]], start: str, side: str) -> frozenset[str]:
    """Return the consumers that can be reached from a point along the paths, the mentions' `side` being where one goes on."""
    seen, waiting, found = {start}, [start], set()
    while waiting:
        for use in lanes.get(waiting.pop(), ()):
            if feeds_device(use.ref) and any(e.kind in CONSUMER_KINDS for e in plan.parts[use.device].elements):
                found.add(use.device)
                continue
            point = use.right if side == "right" else use.left
            if point not in seen:
                seen.add(point)
                waiting.append(point)
    return frozenset(found)
