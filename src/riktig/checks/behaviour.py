"""Rules about how the circuit behaves: what an emergency stop reaches, what starts by itself, what can be in together, what stops first.

All of them ask the circuit as it is wired (`plan.answers.feeding`): which contacts could close, not which do.
"""

from collections.abc import Iterator
from functools import partial

from riktig.checks.closing import (
    BUTTONS,
    contactors_of,
    devices_of_kind,
    is_closed_anyhow,
    is_not_broken_by,
    pressed_of,
    tags_of,
)
from riktig.checks.finding import Finding, Severity
from riktig.checks.wired import about_wiring
from riktig.job.roles import groups_of, restarts
from riktig.plan.answers.feeding import Feeding, Settled, feeding_of
from riktig.plan.answers.links import Link, Sort
from riktig.plan.plan import Plan

_TELLS = frozenset({"overload", "drive", "soft-starter"})
"""Kinds whose make contacts tell of a trip or of running: open while nobody does anything."""


@about_wiring
def check_emergency_stop_reach(plan: Plan) -> Iterator[Finding]:
    """Yield motors that an emergency stop of their group does not take the power from, whatever else is closed.

    Source:
        IEC 60204-1:2016 9.2.3.4.2 and ISO 13850:2015 4.1.1: it overrides all other functions; NFPA 79 9.2.5.4.1, from memory.
    """
    feeding = feeding_of(plan)
    yield from _reach_nothing(plan, feeding)
    for button, motors in _emergency_stops(plan):
        pressed = pressed_of(feeding, button)
        for motor in motors:
            if motor in plan.parts and feeding.turns(motor, pressed):
                by = [f"{plan.tags[d]} stays in" for d in contactors_of(plan, motor) if d in pressed.on]
                by = by or [
                    f"{plan.tags[d]} stays enabled" for d in devices_of_kind(plan, motor, {"drive", "soft-starter"})
                ]
                yield Finding(
                    rule="emergency-stop-reach", severity=Severity.MUST, subject=motor,
                    message=f"{plan.tags[button]} pressed does not take the power from {plan.tags[motor]}: lead its contactor, or the "
                    "safe-torque-off input of its drive, through the contacts of the emergency stop",
                    evidence=", ".join(by) or "no contact of it lies in the way", limit="no way past the emergency stop",
                    source="IEC 60204-1:2016 9.2.3.4.2, ISO 13850:2015 4.1.1, NFPA 79 9.2.5.4.1, from memory",
                )  # fmt: skip


def _reach_nothing(plan: Plan, feeding: Feeding) -> Iterator[Finding]:
    """Yield emergency stops of one's own that take the power from no motor at all."""
    own = [device.id for device in plan.circuit.devices if device.kind == "emergency-stop" and device.owner is None]
    if not own:
        return
    motors = [motor for motor in plan.power_circuits if motor in plan.parts and plan.parts[motor].kind == "motor"]
    all_in = feeding.settled(is_closed_anyhow, feeding.coiled, grows=False)
    running = [motor for motor in motors if feeding.turns(motor, all_in)]
    for button in own if running else ():
        if all(feeding.turns(motor, pressed_of(feeding, button)) for motor in running):
            yield Finding(
                rule="emergency-stop-reach", severity=Severity.MUST, subject=button,
                message=f"{plan.tags[button]} pressed takes the power from no motor: lead what it is to stop, contactors or the "
                "safe-torque-off inputs of drives, over its break contacts",
                evidence=", ".join(plan.tags[motor] for motor in running) + " can run on", limit="it stops something",
                source="IEC 60204-1:2016 9.2.3.4.2, ISO 13850:2015 4.1.1, NFPA 79 9.2.5.4.1, from memory",
            )  # fmt: skip


@about_wiring
def check_emergency_stop_opening(plan: Plan) -> Iterator[Finding]:
    """Yield emergency stops whose contacts are not known to open by force, or that stop by closing.

    Source:
        IEC 60947-5-1 Annex K and ISO 13850:2015 4.4 (direct opening), from memory.
    """
    feeding = feeding_of(plan)
    coils = [d.id for d in plan.circuit.devices if d.id in feeding.coiled]
    stops = {b for b, _ in _emergency_stops(plan)}
    makes = {
        link.device
        for coil in coils
        for link in feeding.links_of(coil)
        if link.device in stops and link.sort is Sort.MAKE
    }
    for button in sorted(stops):
        part = plan.parts[button]
        if button in makes or not part.traits.get("opening"):
            yield Finding(
                rule="emergency-stop-opening", severity=Severity.MUST if button in makes else Severity.NOTE, subject=button,
                message=f"{plan.tags[button]} stops by a make contact, which a broken wire takes away unseen: use its break contact"
                if button in makes
                else f"nothing says that the contacts of {plan.tags[button]} open by force: take one that does, or write opening in it",
                evidence=part.code, limit="break contacts with direct opening", asks="" if button in makes else "opening",
                source="ISO 13850:2015 4.4, IEC 60947-5-1 Annex K, from memory",
            )  # fmt: skip


@about_wiring
def check_emergency_stop_release(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by the release of an emergency stop alone.

    Source:
        ISO 13850:2015 4.1.4 and IEC 60204-1:2016 9.2.3.4.2: the reset permits a start and makes none, from memory.
    """
    feeding = feeding_of(plan)
    for button, motors in _emergency_stops(plan):
        pressed = pressed_of(feeding, button)
        released = feeding.settled(partial(_closed_by_nobody, plan), pressed.on, grows=True)
        for motor in motors:
            if motor in plan.parts and feeding.turns(motor, released) and not feeding.turns(motor, pressed):
                yield Finding(
                    rule="emergency-stop-release", severity=Severity.MUST, subject=motor,
                    message=f"{plan.tags[motor]} starts when {plan.tags[button]} is let go of: let its reset pull in a relay by a button "
                    '(reset = "button"), or start it by a button of its own',
                    evidence=_fed_words(plan, feeding, motor, released), limit="no start by the reset",
                    source="ISO 13850:2015 4.1.4, IEC 60204-1:2016 9.2.3.4.2, from memory",
                )  # fmt: skip


@about_wiring
def check_supply_return(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by themselves when the supply comes back, where nobody said that they may.

    Source:
        IEC 60204-1:2016 7.5, NFPA 79 7.5.3, from memory.
    """
    feeding = feeding_of(plan)
    back = feeding.settled(partial(_closed_by_nobody, plan), (), grows=True)
    for motor in plan.power_circuits if not plan.job.risk.restart else ():
        if plan.job.starter(motor) is None and plan.parts[motor].kind == "motor" and feeding.turns(motor, back):
            yield Finding(
                rule="supply-return", severity=Severity.NOTE, subject=motor, evidence=_fed_words(plan, feeding, motor, back),
                message=f"{plan.tags[motor]} starts by itself when the supply comes back: put its warning up and let whoever judged the "
                "risk say why it may ([risk] restart), or start it by a button",
                limit="a start by hand, or deliberate", source="IEC 60204-1:2016 7.5, NFPA 79 7.5.3, from memory",
            )  # fmt: skip
    for starter in plan.job.starters:
        if starter.name in plan.parts and not restarts(starter, plan.job) and feeding.turns(starter.name, back):
            yield Finding(
                rule="supply-return", severity=Severity.MUST, subject=starter.name,
                message=f"{plan.tags[starter.name]} starts by itself when the supply comes back: start it by a button, "
                'or write restart = "automatic" where that is meant and its warning stands at it',
                evidence=_fed_words(plan, feeding, starter.name, back), limit="a start by hand",
                source="IEC 60204-1:2016 7.5, NFPA 79 7.5.3, from memory",
            )  # fmt: skip


@about_wiring
def check_overload_reset(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by the reset of their overload relay: by itself where that resets itself, else by whoever resets it.

    Source:
        IEC 60204-1:2016 7.3.1 (no automatic restart after it acted, where that is a danger), NEC 430.43, from memory.
    """
    feeding = feeding_of(plan)
    for starter in plan.job.starters:
        circuit = plan.power_circuits.get(starter.name)
        own = frozenset(contactors_of(plan, starter.name))
        for guard in circuit.of_role("F") if circuit is not None and not restarts(starter, plan.job) else ():
            if guard not in plan.parts or not own or not _starts_after(plan, feeding, own, guard):
                continue
            by_itself = plan.parts[guard].traits.get("reset") == "automatic"
            yield Finding(
                rule="overload-reset", severity=Severity.MUST if by_itself else Severity.NOTE, subject=starter.name,
                message=f"{plan.tags[starter.name]} starts when {plan.tags[guard]} is reset: "
                + ("take one that is reset by hand, or start it by a button" if by_itself else "say so beside it, or start it by a button"),
                evidence=f"{plan.tags[guard]} resets {'by itself' if by_itself else 'by hand'}", limit="a start by hand",
                source="IEC 60204-1:2016 7.3.1, NEC 430.43, from memory",
            )  # fmt: skip


def _starts_after(plan: Plan, feeding: Feeding, own: frozenset[str], guard: str) -> bool:
    """Return whether a contactor that its overload relay has dropped comes in again by its reset, with what dropped along."""
    out = own.union(*(feeding.dropped(contactor, partial(is_not_broken_by, guard)) for contactor in own))
    return bool(own & feeding.come_back(out, partial(_closed_by_nobody, plan)))


@about_wiring
def check_alarm_ahead(plan: Plan) -> Iterator[Finding]:
    """Yield trip and alarm lamps that go dark when an emergency stop is pressed.

    Source:
        Common practice, no source: what tells why a machine stands still is fed ahead of what stops it.
    """
    feeding = feeding_of(plan)
    buttons = [button for button, _ in _emergency_stops(plan)]
    for device in plan.circuit.devices:
        if device.role != "HT" and device.kind not in {"beacon", "horn"}:
            continue
        links = feeding.links_of(device.id)
        dark = next((b for b in buttons if any(link.device == b for link in links)), None)
        relays = {link.device for link in links if link.device in feeding.coiled and link.sort is Sort.MAKE}
        if dark is None and relays:
            dark = next((b for b in buttons if not _can_light(feeding, device.id, b)), None)
        elif dark is not None and feeding.can_feed(device.id, partial(is_not_broken_by, dark)):
            dark = None
        if dark is not None:
            yield Finding(
                rule="alarm-ahead", severity=Severity.SHOULD, subject=device.id,
                message=f"{plan.tags[device.id]} goes dark when {plan.tags[dark]} is pressed: feed it ahead of the emergency stop, so that "
                "it tells why the machine stands still",
                evidence=f"hangs on {plan.tags[dark]}", limit="fed ahead of the emergency stop", source="common practice, no source",
            )  # fmt: skip


def _emergency_stops(plan: Plan) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield each emergency stop of a group or starter with the motors that it is to stop."""
    for device in plan.circuit.devices:
        if device.kind != "emergency-stop" or device.owner is None:
            continue
        motors = [s.name for s in plan.job.starters if any(g.name == device.owner for g in groups_of(s, plan.job))]
        if plan.job.starter(device.owner) is not None:
            motors = [device.owner]
        yield device.id, tuple(motors)


def _closed_by_nobody(plan: Plan, link: Link) -> bool:
    """Return whether a link can be closed with nobody at the buttons and nothing tripped: switches, floats and outputs as they may be."""
    part = plan.parts[link.device]
    if part.kind in BUTTONS or (part.kind == "selector" and part.traits.get("return") == "spring"):
        return link.sort is Sort.BREAK
    return not (part.kind in _TELLS and link.sort is Sort.MAKE)


def _fed_words(plan: Plan, feeding: Feeding, motor: str, settled: Settled) -> str:
    """Return over which contacts the contactors of a motor that are in can be fed."""
    found = [d for d in contactors_of(plan, motor) if d in settled.on]
    words = [f"{plan.tags[d]} over {tags_of(plan, feeding.links_of(d)) or 'nothing'}" for d in found]
    return "; ".join(words) or "nothing switches it"


def _can_light(feeding: Feeding, lamp: str, button: str) -> bool:
    pressed = pressed_of(feeding, button)
    return any(all(node in pressed.nodes for node in ends) for ends in feeding.ends_of(lamp))
