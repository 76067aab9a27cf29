"""Owns what hangs on each contact of the control circuits: what it carries, makes and breaks. Must not judge it."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial

from riktig.catalogue.model import CONSUMER_KINDS, CONTACT_KINDS, Element, ElementKind
from riktig.plan.answers.blocks import spread
from riktig.plan.answers.feeding import Feeding, feeding_of
from riktig.plan.answers.links import Sort
from riktig.plan.answers.wired import of_wiring
from riktig.plan.circuit.uses import Use, holds_marks
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import control_volts, feeds_device

INPUT_V = 24.0
"""Digital inputs are for 24 V DC: IEC 61131-2 Table 8, from memory."""
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
    controls = {control.name: control for control in plan.job.controls}
    volts_of = {name: control_volts(control, plan.job) for name, control in controls.items()}
    drawn = {(d, name): plan.circuit.device(d).held_va(plan.parts[d], volts_of[name]) for d, name in _consumers(plan)}
    extra = {d: plan.parts[d].rating("inrush_va") - plan.parts[d].rating("hold_va") for d, _ in drawn}
    for use, is_output, name, consumers in _switched(plan):
        holds = {d: drawn[d, name] for d in consumers}
        held = sum(holds.values())
        yield ContactLoad(
            use=use, marks=plan.contacts[use.key], heaviest=max(holds, key=holds.__getitem__), is_output=is_output,
            is_dc=controls[name].is_dc, volts=volts_of[name], hold_va=held,
            make_va=held + max(0.0, *(extra[d] for d in consumers)),
        )  # fmt: skip


def _consumers(plan: Plan) -> set[tuple[str, str]]:
    return {(device, name) for _, _, name, consumers in _switched(plan) for device in consumers}


@of_wiring
def _switched(plan: Plan) -> tuple[tuple[Use, bool, str, tuple[str, ...]], ...]:
    """Return of each contact and output that switches something: its mention, whether it is an output, the control supply, consumers."""
    supply_of = {path.key: path.supply for path in plan.circuit.paths if path.supply is not None and not path.is_power}
    behind: defaultdict[str, list[Use]] = defaultdict(list)
    ahead: defaultdict[str, list[Use]] = defaultdict(list)
    uses = [use for use in plan.uses if use.path in supply_of]
    for use in uses:
        behind[use.left].append(use)
        ahead[use.right].append(use)
    found = []
    for use in uses:
        element = _contact_of(plan, use)
        if element is None:
            continue
        consumers = _reach(plan, behind, use.right, "right") or _reach(plan, ahead, use.left, "left")
        if consumers:
            is_output = element.kind is ElementKind.OUTPUT
            found.append((use, is_output, supply_of[use.path] or "", tuple(sorted(consumers))))
    return tuple(found)


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


@dataclass(frozen=True, slots=True, kw_only=True)
class SignalContact:
    """A contact through which nothing flows but what an input draws: its device, the device with the input, its volts and mA (0: its part
    says nothing).
    """

    device: str
    to: str
    volts: float
    milliamps: float


@of_wiring
def _signalled(plan: Plan) -> tuple[tuple[str, str], ...]:
    """Return the devices with contacts on which inputs alone hang, each with the device of the input."""
    feeding = feeding_of(plan)
    inputs = [(d.id, ends) for d in plan.circuit.devices for ends in feeding.ends_of(d.id, _INPUTS)]
    if not inputs:
        return ()
    loaded = {node for d in plan.circuit.devices for ends in feeding.ends_of(d.id) for node in ends}
    found: dict[tuple[str, str], None] = {}
    for device, ends in inputs:
        near = spread((node for node in ends if not feeding.is_hub(node)), partial(_beside, feeding))
        if not near & loaded:
            contacts = (link for node in near for link in feeding.at.get(node, ()))
            found.update(
                dict.fromkeys((link.device, device) for link in contacts if link.sort in {Sort.MAKE, Sort.BREAK})
            )
    return tuple(found)


_INPUTS = frozenset({ElementKind.INPUT, ElementKind.ENABLE})


def _beside(feeding: Feeding, node: int) -> Iterator[int]:
    others = (link.other(node) for link in feeding.at.get(node, ()))
    return (other for other in others if not feeding.is_hub(other))


def signal_contacts(plan: Plan) -> Iterator[SignalContact]:
    """Yield the contacts that feed inputs alone, of controllers, drives, soft starters and safety relays, in drawing order."""
    for device, to in _signalled(plan):
        yield SignalContact(device=device, to=to, volts=INPUT_V, milliamps=plan.parts[to].rating("in_ma"))
