"""Rules about how the circuit behaves: what an emergency stop reaches, what starts by itself, what can be in together, what stops first.

All of them ask the circuit as it is wired (`plan.answers.feeding`): which contacts could close, not which do.
"""

from collections.abc import Iterable, Iterator
from functools import partial
from itertools import combinations

from riktig.catalogue.model import ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.job.roles import groups_of, restarts
from riktig.plan.answers.feeding import Feeding, Settled, feeding_of
from riktig.plan.answers.links import Link, Sort
from riktig.plan.plan import Plan

_BUTTONS = frozenset({"pushbutton"})
_TELLS = frozenset({"overload", "drive", "soft-starter"})
"""Kinds whose make contacts tell of a trip or of running: open while nobody does anything."""


def check_emergency_stop_reach(plan: Plan) -> Iterator[Finding]:
    """Yield motors that an emergency stop of their group does not take the power from, whatever else is closed.

    Source:
        IEC 60204-1:2016 9.2.3.4.2 and ISO 13850:2015 4.1.1: it overrides all other functions; NFPA 79 9.2.5.4.1, from memory.
    """
    feeding = feeding_of(plan)
    for button, motors in _emergency_stops(plan):
        pressed = feeding.settled(partial(_not_broken_by, button), feeding.coiled, grows=False)
        for motor in motors:
            if motor in plan.parts and feeding.turns(motor, pressed):
                by = [f"{plan.tags[d]} stays in" for d in _contactors(plan, motor) if d in pressed.on]
                by = by or [f"{plan.tags[d]} stays enabled" for d in _of_kind(plan, motor, {"drive", "soft-starter"})]
                yield Finding(
                    rule="emergency-stop-reach", severity=Severity.MUST, subject=motor,
                    message=f"{plan.tags[button]} pressed does not take the power from {plan.tags[motor]}: lead its contactor, or the "
                    "safe-torque-off input of its drive, through the contacts of the emergency stop",
                    evidence=", ".join(by) or "no contact of it lies in the way", limit="no way past the emergency stop",
                    source="IEC 60204-1:2016 9.2.3.4.2, ISO 13850:2015 4.1.1, NFPA 79 9.2.5.4.1, from memory",
                )  # fmt: skip


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


def check_emergency_stop_release(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by the release of an emergency stop alone.

    Source:
        ISO 13850:2015 4.1.4 and IEC 60204-1:2016 9.2.3.4.2: the reset permits a start and makes none, from memory.
    """
    feeding = feeding_of(plan)
    for button, motors in _emergency_stops(plan):
        pressed = feeding.settled(partial(_not_broken_by, button), feeding.coiled, grows=False)
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


def check_supply_return(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by themselves when the supply comes back, where nobody said that they may.

    Source:
        IEC 60204-1:2016 7.5, NFPA 79 7.5.3, from memory.
    """
    feeding = feeding_of(plan)
    back = feeding.settled(partial(_closed_by_nobody, plan), (), grows=True)
    for starter in plan.job.starters:
        if starter.name in plan.parts and not restarts(starter, plan.job) and feeding.turns(starter.name, back):
            yield Finding(
                rule="supply-return", severity=Severity.MUST, subject=starter.name,
                message=f"{plan.tags[starter.name]} starts by itself when the supply comes back: start it by a button, "
                'or write restart = "automatic" where that is meant and its warning stands at it',
                evidence=_fed_words(plan, feeding, starter.name, back), limit="a start by hand",
                source="IEC 60204-1:2016 7.5, NFPA 79 7.5.3, from memory",
            )  # fmt: skip


def check_stop_first(plan: Plan) -> Iterator[Finding]:
    """Yield contactors that can be held in while their stop button is pressed.

    Source:
        IEC 60204-1:2016 9.2.2 (stop functions override start functions), NFPA 79 9.2.2, from memory.
    """
    feeding = feeding_of(plan)
    for motor in plan.power_circuits:
        own = {d.id: None for d in plan.circuit.devices if d.owner == motor and (d.role or "").startswith("S0")}
        for contactor in _contactors(plan, motor):
            links = feeding.links_of(contactor)
            starts = {link.device for link in links if link.sort is Sort.MAKE}
            breaks = (
                link.device for link in links if link.sort is Sort.BREAK and plan.parts[link.device].kind in _BUTTONS
            )
            for stop in own | dict.fromkeys(breaks):
                if stop in starts - set(own) or not feeding.can_hold(contactor, partial(_not_broken_by, stop)):
                    continue
                ways = [link for link in links if link.device != stop]
                yield Finding(
                    rule="stop-first", severity=Severity.MUST, subject=contactor,
                    message=f"{plan.tags[contactor]} can be held in while {plan.tags[stop]} is pressed: lead every way to its coil, the "
                    f"start and the seal-in contact too, over a break contact of {plan.tags[stop]}",
                    evidence=f"past it: {_tags(plan, ways)}", limit=f"every way behind {plan.tags[stop]}",
                    source="IEC 60204-1:2016 9.2.2, NFPA 79 9.2.2, from memory",
                )  # fmt: skip


def check_overload_first(plan: Plan) -> Iterator[Finding]:
    """Yield contactors that can be held in while the overload relay of their motor has tripped, by hand or in automatic.

    Source:
        IEC 60204-1:2016 7.3.2 (overload protection switches the motor off), NEC 430.37 and 430.40, from memory.
    """
    feeding = feeding_of(plan)
    tripping = {link.device for link in feeding.links if link.sort is Sort.BREAK and plan.number_at(link.ends[0])}
    for motor, circuit in plan.power_circuits.items():
        guards = [d for d in circuit.of_role("F") if d in plan.parts and plan.parts[d].kind == "overload"]
        for contactor in _contactors(plan, motor):
            for guard in guards:
                guarded = circuit.is_star_delta or _leads_through(feeding, plan, motor, contactor, guard)
                if guard in tripping and guarded and feeding.can_hold(contactor, partial(_not_broken_by, guard)):
                    yield Finding(
                        rule="overload-first", severity=Severity.MUST, subject=contactor,
                        message=f"{plan.tags[contactor]} can be held in while {plan.tags[guard]} has tripped: lead every way to its coil, "
                        f"by hand too, over the trip contact of {plan.tags[guard]}",
                        evidence="a way past the trip contact", limit=f"every way over {plan.tags[guard]}",
                        source="IEC 60204-1:2016 7.3.2, NEC 430.37, from memory",
                    )  # fmt: skip


def check_overload_reset(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by the reset of their overload relay: by itself where that resets itself, else by whoever resets it.

    Source:
        IEC 60204-1:2016 7.3.1 (no automatic restart after it acted, where that is a danger), NEC 430.43, from memory.
    """
    feeding = feeding_of(plan)
    for starter in plan.job.starters:
        circuit = plan.power_circuits.get(starter.name)
        own = frozenset(_contactors(plan, starter.name))
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
    dropped, front = set(own), list(own)
    for device in front:
        for relay in {
            link.device for link in feeding.links_of(device) if link.sort is Sort.MAKE
        } & feeding.coiled - dropped:
            if not feeding.can_feed(relay, lambda link: _not_broken_by(guard, link) and not _is_out(link, dropped)):
                dropped.add(relay)
                front.append(relay)
    back: set[str] = set()
    while True:
        out = dropped - back
        more = {
            device for device in out
            if feeding.can_feed(device, lambda link, out=out: _closed_by_nobody(plan, link) and not _is_out(link, out))  # type: ignore[misc]
        }  # fmt: skip
        if not more:
            return bool(back & own)
        back |= more


def _is_out(link: Link, out: set[str]) -> bool:
    return link.device in out and link.sort is Sort.MAKE


def check_contradictory(plan: Plan) -> Iterator[Finding]:
    """Yield pairs of contactors that short the supply together and are not locked against each other both ways.

    Source:
        IEC 60204-1:2016 9.3.4 (contactors for reversing are interlocked), NFPA 79 9.3.4, from memory; that each coil hangs on the other's
        break contact, against seal-ins too: common practice, no source.
    """
    feeding = feeding_of(plan)
    for one, other in _contradictory(plan, feeding):
        for held, locked in ((one, other), (other, one)):
            if feeding.can_hold(locked, partial(_not_broken_by, held)):
                yield Finding(
                    rule="interlock-open", severity=Severity.MUST, subject=locked,
                    message=f"{plan.tags[locked]} can pull in while {plan.tags[held]} is in, and both short the supply: lead every way "
                    f"to the coil of {plan.tags[locked]} over a break contact of {plan.tags[held]}",
                    evidence=f"a way without a break contact of {plan.tags[held]}", limit="locked both ways",
                    source="IEC 60204-1:2016 9.3.4, NFPA 79 9.3.4, from memory",
                )  # fmt: skip


def check_mirror_contacts(plan: Plan) -> Iterator[Finding]:
    """Yield interlocks whose break contacts may close while the poles are welded.

    Source:
        IEC 60947-4-1:2018 Annex F (mirror contacts), from memory.
    """
    feeding = feeding_of(plan)
    for pair in _contradictory(plan, feeding):
        for held, locked in (pair, pair[::-1]):
            has_lock = any(link.device == held and link.sort is Sort.BREAK for link in feeding.links_of(locked))
            if has_lock and not plan.parts[held].traits.get("mirror"):
                yield Finding(
                    rule="mirror-contact", severity=Severity.NOTE, subject=held,
                    message=f"nothing says whether the contact of {plan.tags[held]} that locks {plan.tags[locked]} is a mirror contact: "
                    "it would close while a pole is welded; ask its maker and write mirror in its catalogue entry",
                    evidence=f"{plan.parts[held].code} without mirror", limit="a mirror contact", asks="mirror",
                    source="IEC 60947-4-1:2018 Annex F, from memory",
                )  # fmt: skip


def check_reversal(plan: Plan) -> Iterator[Finding]:
    """Yield reversing contactors that turn the motor the same way, or not both of whose ways lead all lines to it.

    Source:
        Two lines exchanged turn a motor round: common practice, no source.
    """
    feeding = feeding_of(plan)
    for motor in plan.power_circuits:
        starter = plan.job.starter(motor)
        is_reversing = starter is not None and starter.kind == "reversing"
        for one, other in combinations(_contactors(plan, motor), 2):
            orders = [_order_behind(feeding, plan, motor, contactor) for contactor in (one, other)]
            if not all(orders) or not _is_even(orders[0], orders[1]) or (orders[0] == orders[1] and not is_reversing):
                continue
            yield Finding(
                rule="reversal", severity=Severity.MUST, subject=other,
                message=f"{plan.tags[motor]} turns the same way by {plan.tags[one]} and by {plan.tags[other]}: exchange two lines behind "
                f"{plan.tags[other]}",
                evidence=f"{' '.join(orders[0])} and {' '.join(orders[1])}", limit="two lines exchanged",
                source="common practice, no source",
            )  # fmt: skip


def check_star_delta(plan: Plan) -> Iterator[Finding]:
    """Yield star-delta motors whose windings do not lie between two lines each in delta, or do not meet in star.

    Source:
        IEC 60034-8 (terminal markings): in delta U2 V2 W2 on the lines of W1 U1 V1, or of V1 W1 U1, from memory.
    """
    feeding = feeding_of(plan)
    for motor, circuit in plan.power_circuits.items():
        star, delta = circuit.of_role("KS"), circuit.of_role("KD")
        if len(star) != 1 or len(delta) != 1:
            continue
        windings = [
            (f"{motor}:{e.marks[0]}", f"{motor}:{e.marks[1]}") for e in plan.parts[motor].elements
            if e.kind is ElementKind.WINDING and len(e.marks) == 2
        ]  # fmt: skip
        in_delta = _lines_at(
            feeding, plan, motor, {*circuit.of_role("K"), *delta}, [end for ends in windings for end in ends]
        )
        lines = [(in_delta[a], in_delta[b]) for a, b in windings]
        is_delta = all(a and b and a != b for a, b in lines) and len({a for a, _ in lines}) == len(lines)
        far = {feeding.node(b) for _, b in windings}
        if not is_delta or len(windings) != 3 or not far <= _walk(feeding, plan, motor, {star[0]}, min(far)):
            yield Finding(
                rule="star-delta-ends", severity=Severity.MUST, subject=motor,
                message=f"{plan.tags[motor]} is no delta with {plan.tags[delta[0]]} or no star with {plan.tags[star[0]]}: in delta U2 V2 "
                "W2 lie on the lines of W1 U1 V1 or of V1 W1 U1, in star they meet",
                evidence="; ".join(f"{a or '–'} to {b or '–'}" for a, b in lines), limit="each winding between two lines",
                source="IEC 60034-8, from memory",
            )  # fmt: skip


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
        elif dark is not None and feeding.can_feed(device.id, partial(_not_broken_by, dark)):
            dark = None
        if dark is not None:
            yield Finding(
                rule="alarm-ahead", severity=Severity.SHOULD, subject=device.id,
                message=f"{plan.tags[device.id]} goes dark when {plan.tags[dark]} is pressed: feed it ahead of the emergency stop, so that "
                "it tells why the machine stands still",
                evidence=f"hangs on {plan.tags[dark]}", limit="fed ahead of the emergency stop", source="common practice, no source",
            )  # fmt: skip


def check_hold_to_run(plan: Plan) -> Iterator[Finding]:
    """Yield motors that are to run only while a button is held, and have a contact that seals them in.

    Source:
        IEC 60204-1:2016 9.2.3.6 (hold-to-run controls), NFPA 79 9.2.6.1, from memory.
    """
    feeding = feeding_of(plan)
    for starter in plan.job.starters:
        if not starter.hold_to_run:
            continue
        for contactor in _contactors(plan, starter.name):
            if feeding.can_feed(
                contactor, lambda link: link.sort is not Sort.MAKE or plan.parts[link.device].kind not in _BUTTONS
            ):
                yield Finding(
                    rule="hold-to-run", severity=Severity.MUST, subject=contactor,
                    message=f"{plan.tags[contactor]} stays in when its button is let go of, and {starter.name} is to run only while it is "
                    "held: take the contact beside the button out",
                    evidence="a way past the button", limit="no way past the button",
                    source="IEC 60204-1:2016 9.2.3.6, NFPA 79 9.2.6.1, from memory",
                )  # fmt: skip


# -- what they ask


def _emergency_stops(plan: Plan) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield each emergency stop of a group or starter with the motors that it is to stop."""
    for device in plan.circuit.devices:
        if device.kind != "emergency-stop" or device.owner is None:
            continue
        motors = [s.name for s in plan.job.starters if any(g.name == device.owner for g in groups_of(s, plan.job))]
        if plan.job.starter(device.owner) is not None:
            motors = [device.owner]
        yield device.id, tuple(motors)


def _not_broken_by(device: str, link: Link) -> bool:
    """Return whether a link can be closed while the break contacts of a device are open: of what follows no coil its make contacts are
    closed then; those of a relay are closed while it is in.
    """
    return not (link.device == device and link.sort is Sort.BREAK)


def _closed_by_nobody(plan: Plan, link: Link) -> bool:
    """Return whether a link can be closed with nobody at the buttons and nothing tripped: switches, floats and outputs as they may be."""
    part = plan.parts[link.device]
    if part.kind in _BUTTONS or (part.kind == "selector" and part.traits.get("return") == "spring"):
        return link.sort is Sort.BREAK
    return not (part.kind in _TELLS and link.sort is Sort.MAKE)


def _of_kind(plan: Plan, motor: str, kinds: Iterable[str]) -> list[str]:
    circuit = plan.power_circuits.get(motor)
    wanted = frozenset(kinds)
    return (
        [d for d, _ in circuit.devices if d in plan.parts and plan.parts[d].kind in wanted]
        if circuit is not None
        else []
    )


def _contactors(plan: Plan, motor: str) -> list[str]:
    return _of_kind(plan, motor, {"contactor"})


def _tags(plan: Plan, links: Iterable[Link]) -> str:
    return ", ".join(dict.fromkeys(plan.tags[link.device] for link in links))


def _fed_words(plan: Plan, feeding: Feeding, motor: str, settled: Settled) -> str:
    """Return over which contacts the contactors of a motor that are in can be fed."""
    found = [d for d in _contactors(plan, motor) if d in settled.on]
    words = [f"{plan.tags[d]} over {_tags(plan, feeding.links_of(d)) or 'nothing'}" for d in found]
    return "; ".join(words) or "nothing switches it"


def _contradictory(plan: Plan, feeding: Feeding) -> Iterator[tuple[str, str]]:
    """Yield the pairs of contactors of a motor that join two lines when both are closed."""
    for motor in plan.power_circuits:
        contactors = _contactors(plan, motor)
        for one, other in combinations(contactors, 2):
            if _shorts(feeding, plan, motor, {one, other, *_mains_of(plan, motor, {one, other})}):
                yield one, other


def _mains_of(plan: Plan, motor: str, pair: set[str]) -> set[str]:
    """Return the line contactor of a star-delta motor, which is in with both of the others."""
    circuit = plan.power_circuits[motor]
    return set(circuit.of_role("K")) if circuit.is_star_delta and not pair & set(circuit.of_role("K")) else set()


def _leads_through(feeding: Feeding, plan: Plan, motor: str, contactor: str, guard: str) -> bool:
    """Return whether all that a motor gets over a contactor goes through an overload relay."""
    leads = {
        feeding.node(f"{motor}:{mark}")
        for e in plan.parts[motor].elements
        if e.kind is ElementKind.WINDING
        for mark in e.marks
    }
    lines = _line_nodes(feeding, plan, motor).values()
    return not any(leads & _walk(feeding, plan, motor, {contactor}, node, without=guard) for node in lines)


def _walk(feeding: Feeding, plan: Plan, motor: str, contactors: set[str], start: int, *, without: str = "") -> set[int]:
    """Return the nodes that the poles of a motor's circuit join to one, of its contactors those that are named, but for one device's."""
    own = {device for device, _ in plan.power_circuits[motor].devices} - {without}
    front, seen = [start], {start}
    for here in front:
        for link in feeding.at.get(here, ()):
            passes = link.device in own and link.sort in {Sort.POLE, Sort.PASS}
            passes = passes and (plan.parts[link.device].kind != "contactor" or link.device in contactors)
            other = link.other(here)
            if passes and other not in seen:
                seen.add(other)
                front.append(other)
    return seen


def _line_nodes(feeding: Feeding, plan: Plan, motor: str) -> dict[str, int]:
    wanted = plan.power_circuits[motor].lines
    return {
        name: feeding.node(p.net.terminals[0]) for p in plan.potentials for name in p.net.names
        if name in wanted and p.net.terminals and name.rpartition(".")[2] != "N"
    }  # fmt: skip


def _shorts(feeding: Feeding, plan: Plan, motor: str, contactors: set[str]) -> bool:
    lines = _line_nodes(feeding, plan, motor)
    return any(lines[b] in _walk(feeding, plan, motor, contactors, lines[a]) for a, b in combinations(lines, 2))


def _lines_at(feeding: Feeding, plan: Plan, motor: str, contactors: set[str], ends: list[str]) -> dict[str, str]:
    """Return terminal -> the line that comes to it with some contactors closed, "" where none or several do."""
    reached = {
        name: _walk(feeding, plan, motor, contactors, node) for name, node in _line_nodes(feeding, plan, motor).items()
    }
    found = {}
    for end in ends:
        names = [name for name, nodes in reached.items() if feeding.node(end) in nodes]
        found[end] = names[0] if len(names) == 1 else ""
    return found


def _order_behind(feeding: Feeding, plan: Plan, motor: str, contactor: str) -> tuple[str, ...]:
    """Return the lines at U V W of a motor with one contactor closed; () where they are not one each."""
    marks = [mark for e in plan.parts[motor].elements if e.kind is ElementKind.WINDING for mark in e.marks][:3]
    found = _lines_at(feeding, plan, motor, {contactor}, [f"{motor}:{mark}" for mark in marks])
    lines = tuple(found.values())
    return lines if all(lines) and len(set(lines)) == 3 else ()


def _is_even(one: tuple[str, ...], other: tuple[str, ...]) -> bool:
    places = [one.index(line) for line in other if line in one]
    return len(places) == len(one) and sum(a > b for a, b in combinations(places, 2)) % 2 == 0


def _can_light(feeding: Feeding, lamp: str, button: str) -> bool:
    pressed = feeding.settled(partial(_not_broken_by, button), feeding.coiled, grows=False)
    return any(all(node in pressed.nodes for node in ends) for ends in feeding.ends_of(lamp))
