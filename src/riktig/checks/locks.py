"""Rules about what goes before what: stop and overload before start, contactors against each other, and which way motors turn by them."""

from collections.abc import Iterator
from functools import partial
from itertools import combinations

from riktig.catalogue.model import ElementKind
from riktig.checks.closing import BUTTONS, contactors_of, is_not_broken_by, tags_of
from riktig.checks.finding import Finding, Severity
from riktig.checks.wired import about_wiring
from riktig.plan.answers.blocks import spread
from riktig.plan.answers.feeding import Feeding, feeding_of
from riktig.plan.answers.links import Link, Sort
from riktig.plan.plan import Plan


@about_wiring
def check_stop_first(plan: Plan) -> Iterator[Finding]:
    """Yield contactors that can be held in while their stop button is pressed.

    Source:
        IEC 60204-1:2016 9.2.2 (stop functions override start functions), NFPA 79 9.2.2, from memory.
    """
    feeding = feeding_of(plan)
    for motor in plan.power_circuits:
        own = {d.id: None for d in plan.circuit.devices if d.owner == motor and (d.role or "").startswith("S0")}
        for contactor in contactors_of(plan, motor):
            links = feeding.links_of(contactor)
            starts = {link.device for link in links if link.sort is Sort.MAKE}
            breaks = (
                link.device for link in links if link.sort is Sort.BREAK and plan.parts[link.device].kind in BUTTONS
            )
            for stop in own | dict.fromkeys(breaks):
                if stop in starts - set(own) or not feeding.can_hold(contactor, partial(is_not_broken_by, stop)):
                    continue
                ways = [link for link in links if link.device != stop]
                yield Finding(
                    rule="stop-first", severity=Severity.MUST, subject=contactor,
                    message=f"{plan.tags[contactor]} can be held in while {plan.tags[stop]} is pressed: lead every way to its coil, the "
                    f"start and the seal-in contact too, over a break contact of {plan.tags[stop]}",
                    evidence=f"past it: {tags_of(plan, ways)}", limit=f"every way behind {plan.tags[stop]}",
                    source="IEC 60204-1:2016 9.2.2, NFPA 79 9.2.2, from memory",
                )  # fmt: skip


@about_wiring
def check_overload_first(plan: Plan) -> Iterator[Finding]:
    """Yield contactors that can be held in while the overload relay of their motor has tripped, by hand or in automatic.

    Source:
        IEC 60204-1:2016 7.3.2 (overload protection switches the motor off), NEC 430.37 and 430.40, from memory.
    """
    feeding = feeding_of(plan)
    tripping = {link.device for link in feeding.links if link.sort is Sort.BREAK and plan.number_at(link.ends[0])}
    for motor, circuit in plan.power_circuits.items():
        guards = [d for d in circuit.of_role("F") if d in plan.parts and plan.parts[d].kind == "overload"]
        for contactor in contactors_of(plan, motor):
            for guard in guards:
                guarded = circuit.is_star_delta or _leads_through(feeding, plan, motor, contactor, guard)
                if guard in tripping and guarded and feeding.can_hold(contactor, partial(is_not_broken_by, guard)):
                    yield Finding(
                        rule="overload-first", severity=Severity.MUST, subject=contactor,
                        message=f"{plan.tags[contactor]} can be held in while {plan.tags[guard]} has tripped: lead every way to its coil, "
                        f"by hand too, over the trip contact of {plan.tags[guard]}",
                        evidence="a way past the trip contact", limit=f"every way over {plan.tags[guard]}",
                        source="IEC 60204-1:2016 7.3.2, NEC 430.37, from memory",
                    )  # fmt: skip


@about_wiring
def check_contradictory(plan: Plan) -> Iterator[Finding]:
    """Yield pairs of contactors that short the supply together and are not locked against each other both ways.

    Source:
        IEC 60204-1:2016 9.3.4 (contactors for reversing are interlocked), NFPA 79 9.3.4, from memory; that each coil hangs on the other's
        break contact, against seal-ins too: common practice, no source.
    """
    feeding = feeding_of(plan)
    for one, other in _contradictory(plan, feeding):
        for held, locked in ((one, other), (other, one)):
            if feeding.can_hold(locked, partial(is_not_broken_by, held)):
                yield Finding(
                    rule="interlock-open", severity=Severity.MUST, subject=locked,
                    message=f"{plan.tags[locked]} can pull in while {plan.tags[held]} is in, and both short the supply: lead every way "
                    f"to the coil of {plan.tags[locked]} over a break contact of {plan.tags[held]}",
                    evidence=f"a way without a break contact of {plan.tags[held]}", limit="locked both ways",
                    source="IEC 60204-1:2016 9.3.4, NFPA 79 9.3.4, from memory",
                )  # fmt: skip


@about_wiring
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


@about_wiring
def check_reversal(plan: Plan) -> Iterator[Finding]:
    """Yield reversing contactors that turn the motor the same way, or not both of whose ways lead all lines to it.

    Source:
        Two lines exchanged turn a motor round: common practice, no source.
    """
    feeding = feeding_of(plan)
    for motor in plan.power_circuits:
        starter = plan.job.starter(motor)
        is_reversing = starter is not None and starter.kind == "reversing"
        for one, other in combinations(contactors_of(plan, motor), 2):
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


@about_wiring
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


@about_wiring
def check_hold_to_run(plan: Plan) -> Iterator[Finding]:
    """Yield motors that are to run only while a button is held, and have a contact that seals them in.

    Source:
        IEC 60204-1:2016 9.2.3.7 (hold-to-run controls), NFPA 79 9.2.6.1, from memory.
    """
    feeding = feeding_of(plan)
    for starter in plan.job.starters:
        if not starter.hold_to_run:
            continue
        for contactor in contactors_of(plan, starter.name):
            if feeding.can_feed(
                contactor, lambda link: link.sort is not Sort.MAKE or plan.parts[link.device].kind not in BUTTONS
            ):
                yield Finding(
                    rule="hold-to-run", severity=Severity.MUST, subject=contactor,
                    message=f"{plan.tags[contactor]} stays in when its button is let go of, and {starter.name} is to run only while it is "
                    "held: take the contact beside the button out",
                    evidence="a way past the button", limit="no way past the button",
                    source="IEC 60204-1:2016 9.2.3.7, NFPA 79 9.2.6.1, from memory",
                )  # fmt: skip


def _contradictory(plan: Plan, feeding: Feeding) -> Iterator[tuple[str, str]]:
    """Yield the pairs of contactors of a motor that join two lines when both are closed."""
    for motor in plan.power_circuits:
        contactors = contactors_of(plan, motor)
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

    def passes(link: Link) -> bool:
        is_pole = link.device in own and link.sort in {Sort.POLE, Sort.PASS}
        return is_pole and (plan.parts[link.device].kind != "contactor" or link.device in contactors)

    return spread((start,), lambda node: feeding.beside(node, passes))


def _line_nodes(feeding: Feeding, plan: Plan, motor: str) -> dict[str, int]:
    lines = (name for name in plan.power_circuits[motor].lines if name.rpartition(".")[2] != "N")
    return {name: feeding.named[name] for name in lines if name in feeding.named}


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
