"""Rules about what is joined and how it lands: supplies that meet, clamps and what lies in them, taps, two wires in one clamp."""

from collections.abc import Iterator, Mapping, Set

from riktig.catalogue.model import CONSUMER_KINDS, LANE_KINDS, ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.checks.wired import about_wiring
from riktig.job.mends import Mend
from riktig.job.practice import Standard
from riktig.plan.answers.clamping import Clamping, clamping_of
from riktig.plan.answers.remembered import Sifted, remembered
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import EARTH_BAR, bar_for
from riktig.plan.circuit.power import PowerCircuit
from riktig.plan.circuit.zones import device_of, mark_of, zone_of
from riktig.plan.plan import Plan
from riktig.plan.sizes.distribution import FEEDING
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.taps import LONGEST_TAP_MM, long_taps
from riktig.standards.colours import ConductorFunction

_EPS = 1e-6

_CHANGEOVERS = frozenset({ElementKind.CO, ElementKind.TIMED_CO})
_OF_LOADS = CONSUMER_KINDS - {ElementKind.COIL, ElementKind.LAMP}
_OF_POWER = LANE_KINDS | {ElementKind.WINDING}


def check_joined_supplies(plan: Plan) -> Iterator[Finding]:
    """Yield potentials on which two supplies, two lines or both sides of a supply meet: a short circuit.

    Source:
        A changeover takes two voltages only by its own design, and then its common belongs to one: common practice, no source.
    """
    for potential in plan.potentials:
        names = [name.removeprefix("in.") for name in potential.net.names if not name.startswith("@")]
        sources = sorted({_source_of(name, plan) for name in names})
        if len(sources) < 2:
            continue
        at = [plan.terminal_label(t) for t in potential.net.terminals if _is_common(plan, t)]
        where = f" at the changeover {' and '.join(at)}" if at else ""
        yield Finding(
            rule="supplies-joined", severity=Severity.MUST, subject=f"net:{potential.number}", evidence=", ".join(sources),
            message=f"{' and '.join(sources)} meet on number {potential.number}{where}: a short circuit; give each its own contact",
            limit="one supply", source="common practice, no source",
        )  # fmt: skip


@about_wiring
def check_mains_in_control(plan: Plan) -> Iterator[Finding]:
    """Yield potentials of a control circuit with a source of its own that are a line of a motor or load as well: most often one name of
    a point for two.

    Source:
        Separated circuits stay apart: IEC 61558-1, IEC 60364-4-41 413.3 and 414.4, from memory.
    """
    fed = {device for one in plan.power_circuits.values() if one.supply is not None for device, _ in one.devices}
    for potential in plan.potentials:
        net = potential.net
        control = plan.job.control(net.supply) if net.supply is not None else None
        if control is None or control.kind == "direct":
            continue
        joined = [t for t in net.terminals if device_of(t) in fed and _leads_power(plan, t)]
        if joined:
            names = ", ".join(name for name in net.names if name.startswith("@")) or f"number {potential.number}"
            yield Finding(
                rule="supplies-joined", severity=Severity.MUST, subject=device_of(joined[0]), evidence=plan.terminal_label(joined[0]),
                message=f"{names} lies on {plan.terminal_label(joined[0])}, a line of the supply, and in the control circuit of "
                f"{control.name}: give one of the two points another name",
                limit="one supply", source="IEC 60364-4-41 413.3, from memory",
            )  # fmt: skip


def _leads_power(plan: Plan, terminal: str) -> bool:
    """Return whether a terminal is one of a pole or winding."""
    mark = mark_of(terminal)
    return any(e.kind in _OF_POWER and mark in e.marks for e in plan.parts[device_of(terminal)].elements)


def check_fed_twice(plan: Plan) -> Iterator[Finding]:
    """Yield motors and loads that two protective devices feed side by side from one supply: neither knows what both let through.

    Source:
        Parallel protective devices: IEC 60364-4-43 433.4, NEC 240.8, from memory.
    """
    at = {str(t): p.number for p in plan.potentials for t in p.net.terminals}
    lines = {
        p.number: {name.removeprefix("in.").rpartition(".")[0] for name in p.net.names}
        for p in plan.potentials
        if p.net.is_line
    }
    for name, one in plan.power_circuits.items():
        guards = one.of_role("Q")
        if len(guards) < 2 or one.supply is None:
            continue
        own = {number for number, supplies in lines.items() if one.supply in supplies}
        beside = [guard for guard in guards if _reaches(plan, one, at, own, but=guard)]
        if len(beside) > 1:
            tags = " and ".join(plan.tags[guard] for guard in beside)
            yield Finding(
                rule="fed-twice", severity=Severity.MUST, subject=name, evidence=tags, limit="one device in each way",
                message=f"{tags} feed {plan.tags[name]} side by side: most often one name of a point stands for two; give each its own",
                source="IEC 60364-4-43 433.4, NEC 240.8, from memory",
            )  # fmt: skip


def _reaches(plan: Plan, one: PowerCircuit, at: Mapping[str, str], lines: Set[str], *, but: str) -> bool:
    """Return whether a load hangs on a line of its supply without one of the devices of its circuit."""
    joined = UnionFind[str]()
    for device, _ in one.devices:
        for element in plan.parts[device].elements if device != but else ():
            numbers = [at[t] for mark in element.marks[:2] if (t := f"{device}:{mark}") in at]
            if element.kind in LANE_KINDS and len(numbers) > 1:
                joined.join(*numbers)
    leads = {
        at[t]
        for e in plan.parts[one.load].elements
        for mark in e.marks
        if (t := f"{one.load}:{mark}") in at and e.kind in _OF_LOADS
    }
    sources = {joined.find(number) for number in lines}
    return any(joined.find(lead) in sources for lead in leads)


def _source_of(name: str, plan: Plan) -> str:
    """Return which live side a name stands for; the return of a direct supply is the line or neutral that it is taken from."""
    if name.rpartition(".")[2] == "PE":
        return "PE"
    control = plan.job.control(name[:-1]) if name[-1:] in {"+", "-"} else None
    if control is None or control.kind != "direct" or name.endswith("+"):
        return f"{control.group_of}-" if control is not None and control.group_of and name.endswith("-") else name
    lines = control.from_lines or ()
    return lines[1] if len(lines) > 1 else "N"


def _is_common(plan: Plan, terminal: str) -> bool:
    part = plan.parts.get(device_of(terminal))
    return part is not None and any(e.kind in _CHANGEOVERS and e.marks[0] == mark_of(terminal) for e in part.elements)


def check_clamp_sizes(plan: Plan) -> Iterator[Finding]:
    """Yield ends of conductors that are too thick or too thin for their clamp, one for each device.

    Source:
        The part says which sections its clamps take: IEC 60947-1 8.1.8, UL 486E, from memory.
    """
    worst: dict[str, Finding] = {}
    clamps = clamping_of(plan)
    for conductor, end in _unfit_ends(plan):
        clamp, subject = clamps[end], device_of(end)
        is_thick = conductor.size.mm2 > clamp.mm2_max
        mend = _mend_of_clamp(plan, end) if is_thick else "choose a part with other clamps, or lead it over a terminal"
        finding = Finding(
            rule="clamp-size", severity=Severity.MUST if is_thick else Severity.SHOULD, subject=subject,
            message=f"{plan.terminal_label(end)} takes {clamp.mm2_min:g} to {clamp.mm2_max:g} mm² and would get "
            f"{conductor.size.label()} of number {conductor.number}: {mend}",
            evidence=conductor.size.label(), limit=f"{clamp.mm2_min:g} to {clamp.mm2_max:g} mm²", source="the part's own data",
        )  # fmt: skip
        if subject not in worst or (is_thick and worst[subject].severity is not Severity.MUST):
            worst[subject] = finding
    yield from worst.values()


@remembered("conductors", clamping_of)
def _unfit_ends(plan: Plan) -> tuple[tuple[Conductor, str], ...]:
    """Return the ends of conductors whose clamps are not made for their section."""
    clamps = clamping_of(plan)
    wires = _UNFIT.of(plan.conductors, clamps)
    return tuple((wire, end) for wire in wires for end in (wire.a, wire.b) if not _is_fit(wire, end, clamps))


def _is_fit(wire: Conductor, end: str, clamps: Clamping) -> bool:
    clamp = clamps[end]
    return clamp.mm2_min - _EPS <= wire.size.mm2 <= clamp.mm2_max + _EPS or device_of(end) == EARTH_BAR


_UNFIT: Sifted[Conductor, Clamping] = Sifted(
    lambda wire, clamps: wire.is_wired and not (_is_fit(wire, wire.a, clamps) and _is_fit(wire, wire.b, clamps))
)


def _mend_of_clamp(plan: Plan, end: str) -> str:
    """Return what mends a conductor that is too thick for its clamp: a block where it is a main conductor that is looped through."""
    potential = plan.potential_of(end)
    is_main = potential is not None and potential.number in plan.job.supply.conductors and device_of(end) not in FEEDING
    if is_main and potential is not None and bar_for(potential.number) not in plan.circuit.index:
        return 'write [practice] distribution = "block", so that a block leads the main conductors on, or choose a larger part'
    return "choose a part with larger clamps, or lead it over a terminal"


def check_pairs(plan: Plan) -> Iterator[Finding]:
    """Yield clamps in which two conductors of unequal section lie on one side.

    Source:
        A clamp holds the thicker and leaves the thinner loose; a twin ferrule makes two wires of equal section one; under a bolt lie the
        rings of two: common practice, no source.
    """
    unlike = {id(landed) for landed in _UNLIKE.of(plan.conductors_at.values(), None)}
    ends = [at for at, landed in plan.conductors_at.items() if id(landed) in unlike] if unlike else []
    for end, wires in ((at, wires) for at in ends for wires in plan.wires_at(at)):
        sizes = sorted({wire.size.mm2: wire.size.label() for wire in wires}.items())
        if len(sizes) > 1 and plan.clamp_at(end).clamp != "bolt":
            yield Finding(
                rule="unequal-pair", severity=Severity.MUST, subject=device_of(end), evidence=" and ".join(s for _, s in sizes),
                message=f"{plan.terminal_label(end)} would hold {' and '.join(s for _, s in sizes)} in one clamp: make them equal, or "
                "lead one over a terminal of its own",
                limit="equal sections", source="common practice, no source",
            )  # fmt: skip


_UNLIKE: Sifted[tuple[Conductor, ...], None] = Sifted(
    lambda landed, _: len(landed) > 1 and len({wire.size.mm2 for wire in landed if wire.is_wired}) > 1
)


def check_class_2(plan: Plan) -> Iterator[Finding]:
    """Yield cables in which wires of a Class 2 supply lie with others.

    Source:
        NEC 725.136(A), from memory: not in one cable with conductors of power and of Class 1 circuits; that what is behind such a supply is
        not evaluated hangs on it.
    """
    class_2 = {control.name for control in plan.job.controls if control.class_2}
    of_class_2 = {p.number for p in plan.potentials if p.net.supply in class_2}
    earths = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    for run in plan.runs.all if class_2 and plan.job.practice.standard is Standard.UL else ():
        live = [number for number in run.numbers if number not in earths]
        mixed = [number for number in live if number in of_class_2]
        if mixed and len(mixed) < len(live):
            device = next(d for d in plan.circuit.devices if zone_of(d) == run.zone)
            place = plan.job.location(device.location)
            assert place is not None, "a cable leads to a place of the job"
            is_shared = place.bands == "shared"
            own = f'[location.{place.name}] bands = "apart"' if is_shared else "or feed all of it from that supply"
            yield Finding(
                rule="class-2-cable", severity=Severity.MUST, subject=device.id, evidence=f"{', '.join(mixed)} beside others",
                message=f"the cable to {place.title or place.name} has wires of a Class 2 supply ({', '.join(mixed)}) with others: give "
                f"them one of their own, {own}",
                limit="Class 2 by itself", source="NEC 725.136(A), from memory",
                mend=Mend(table="location", name=place.name, changes=(("bands", "apart"),)) if is_shared else None,
            )  # fmt: skip


def check_taps(plan: Plan) -> Iterator[Finding]:
    """Yield wires thinner than the main conductors that they hang on and longer than a tap may be.

    Source:
        3 m, laid short-circuit-proof: IEC 60364-4-43 434.2.1; 10 ft: NEC 240.21(B)(1); from memory.
    """
    for wire in _long_taps(plan):
        yield Finding(
                    rule="long-tap", severity=Severity.MUST, subject=device_of(wire.b), evidence=f"{wire.laid_mm:g} mm",
                    message=f"{plan.terminal_label(wire.a)} to {plan.terminal_label(wire.b)} is {wire.laid_mm:.0f} mm of "
                    f"{wire.size.label()} ahead of its own protection, {LONGEST_TAP_MM:g} mm at most: arrange the plate, or "
                    "move the device nearer to its block",
                    limit=f"{LONGEST_TAP_MM:g} mm", source="IEC 60364-4-43 434.2.1, NEC 240.21(B)(1), from memory",
                )  # fmt: skip


@remembered("conductors", "potentials", "sections")
def _long_taps(plan: Plan) -> tuple[Conductor, ...]:
    return tuple(long_taps(plan.conductors, plan.potentials, plan.sections))
