"""Rules about what stands on the panel and its wires: nameplate, degree of protection, colours and insulation."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.job.mends import Mend
from riktig.job.practice import Standard
from riktig.plan.answers.nameplate import ASKED
from riktig.plan.plan import Plan
from riktig.standards.colours import SOURCE as SOURCE_COLOURS
from riktig.standards.colours import ConductorFunction
from riktig.standards.degrees import DEGREE_HINT, read_degree
from riktig.standards.degrees import SOURCE as SOURCE_DEGREES

_FIELDS = {
    "maker": "who makes the panel",
    "serial": "its serial number",
    "year": "its year",
    "document": "its main document",
}
SOURCE_NAMEPLATE = {
    Standard.IEC: "IEC 60204-1:2016 16.4, IEC 61439-1:2020 6.1, from memory",
    Standard.UL: "NFPA 79:2021 16.4, UL 508A SB5 and 55, from memory",
}


def check_nameplate(plan: Plan) -> Iterator[Finding]:
    """Yield the fields of the nameplate that only a person knows and nobody has stated. What follows from the design stands on it anyway.

    Source:
        IEC 60204-1:2016 16.4 (maker, serial number, main document), IEC 61439-1:2020 6.1 (maker, identification, date of manufacture);
        NFPA 79:2021 16.4 (maker, diagram number), UL 508A 55; from memory.
    """
    world = plan.job.practice.standard
    missing = [name for name in ASKED[world] if not getattr(plan.job.info, name)]
    if missing:
        yield Finding(
            rule="nameplate", severity=Severity.NOTE, subject="job", evidence=f"no {', '.join(missing)}",
            limit="every field",
            message=f"the nameplate does not say {' nor '.join(_FIELDS[name] for name in missing)}: write [job] {', '.join(missing)}",
            source=SOURCE_NAMEPLATE[world], asks=f"job.{missing[0]}",
        )  # fmt: skip


def check_degree(plan: Plan) -> Iterator[Finding]:
    """Yield enclosures whose degree of protection is none, is none of their world, or does not stand the weather they are in.

    Source:
        IEC 60529, UL 50E, UL 508A 19 and 55 (an enclosure has a Type), from memory.
    """
    enclosure, world = plan.job.enclosure, plan.job.practice.standard
    degree = read_degree(enclosure.rating)
    if degree is None:
        yield Finding(
            rule="enclosure-degree", severity=Severity.MUST, subject="job", evidence=enclosure.rating, limit="IEC 60529 or UL 50E",
            message=f"'{enclosure.rating}' is no degree of protection: {DEGREE_HINT}", source=SOURCE_DEGREES, asks="enclosure.rating",
        )  # fmt: skip
    elif world is Standard.UL and not degree.is_type:
        yield Finding(
            rule="enclosure-degree", severity=Severity.SHOULD, subject="job", evidence=enclosure.rating, limit="a Type of UL 50E",
            message=f"{enclosure.rating} is no Type, and an enclosure in North America is marked with one: write [enclosure] "
            'rating = "Type 12", or the one that it has',
            source="UL 50E, UL 508A 19, from memory", asks="enclosure.rating",
        )  # fmt: skip
    elif enclosure.outdoors and not degree.stands_weather:
        limit = "Type 3R, 4 or 4X" if degree.is_type else "IPX4"
        yield Finding(
            rule="enclosure-degree", severity=Severity.MUST, subject="job", evidence=enclosure.rating, limit=limit,
            message=f"it stands outdoors and {enclosure.rating} does not keep rain out from all sides: take an enclosure of {limit} at "
            "least",
            source=SOURCE_DEGREES,
        )  # fmt: skip


_EARTH = {Standard.IEC: ("green-yellow",), Standard.UL: ("green", "green-yellow")}
_NEUTRAL = {Standard.IEC: ("light blue", "blue"), Standard.UL: ("white", "grey", "white-yellow", "white-blue")}
_GROUNDED = (
    ConductorFunction.NEUTRAL, ConductorFunction.CONTROL_AC_RETURN, ConductorFunction.CONTROL_DC_RETURN, ConductorFunction.EXCEPTED_RETURN,
    ConductorFunction.EXCEPTED_NEUTRAL, ConductorFunction.GROUNDED_LINE,
)  # fmt: skip


def check_colours(plan: Plan) -> Iterator[Finding]:
    """Yield colours of a house that people read otherwise: of earth, of the neutral, and either of these on something else.

    Source:
        IEC 60204-1:2016 13.2.2 (green-yellow for earth alone) and 13.2.3 (light blue for the neutral, and for nothing else where it can
        be taken for one); NFPA 79 13.2.2 and 13.2.3, UL 508A 66.5 (green for earth alone, white or grey for what is grounded alone);
        from memory. All other colours are recommended.
    """
    world, house = plan.job.practice.standard, plan.job.colours
    earth, neutral = _EARTH[world], _NEUTRAL[world]
    for function in ConductorFunction:
        own = getattr(house, function.name.lower())
        if own is None:
            continue
        wrong = _wrong(
            function, own, earth, neutral, has_neutral=plan.job.supply.has_neutral, is_ul=world is Standard.UL
        )
        if wrong:
            yield Finding(
                rule="colours", severity=Severity.MUST, subject="job", evidence=f"{function.value}: {own}", limit=wrong,
                message=f"{own} for {function.value} is read as something else: it takes {wrong}; write [colours] "
                f"{function.name.lower()}, or leave it out",
                source=SOURCE_COLOURS[world.value], mend=Mend(table="colours", changes=((function.name.lower(), None),)),
            )  # fmt: skip


def _wrong(
    function: ConductorFunction,
    own: str,
    earth: tuple[str, ...],
    neutral: tuple[str, ...],
    *,
    has_neutral: bool,
    is_ul: bool,
) -> str:
    """Return what a function takes where its colour is wrong, "" where it is right."""
    if function is ConductorFunction.EARTH:
        return "" if own in earth else " or ".join(earth)
    if own in {"green-yellow", "green"}:
        return "any colour but that of earth"
    if is_ul:
        is_grounded = function in _GROUNDED
        if is_grounded and function is not ConductorFunction.CONTROL_AC_RETURN and own not in neutral:
            return "white or grey, or white with a stripe"
        return (
            "any colour but white and grey, which are for what is grounded"
            if not is_grounded and own in neutral
            else ""
        )
    if function in {ConductorFunction.NEUTRAL, ConductorFunction.EXCEPTED_NEUTRAL}:
        return "" if own in neutral else "light blue"
    return "any colour but that of the neutral" if own == "light blue" and has_neutral else ""


WIRE_VOLTS = {Standard.IEC: 750.0, Standard.UL: 600.0}
CABLE_VOLTS = {Standard.IEC: 1000.0, Standard.UL: 600.0}
"""For what volts between lines wires and cables are insulated as a rule: H07V and 0.6/1 kV; MTW, THHN and tray cable (common practice,
no source).
"""


def check_insulation(plan: Plan) -> Iterator[Finding]:
    """Yield wires and cables whose insulation is for less than the highest volts beside them.

    Source:
        Conductors of different circuits that lie together are insulated for the highest volts of all: IEC 60204-1:2016 13.1.3, NFPA 79
        13.1.3, NEC 300.3(C)(1), UL 508A 29, from memory.
    """
    job = plan.job
    highest = max(way.line_to_line for way in (job.supply, *job.extra_supplies))
    wire = job.practice.wire_volts or WIRE_VOLTS[job.practice.standard]
    rows = [("the wires in the panel", "practice.wire_volts", wire, "job")]
    used = {device.location for device in plan.circuit.devices}
    rows += [
        (f"the cables to {place.title or place.name}", f"location.{place.name}.cable_volts",
        place.cable_volts or CABLE_VOLTS[job.practice.standard], place.name)
        for place in job.locations if place.name in used or place.cable_volts is not None
    ]  # fmt: skip
    for what, key, volts, subject in rows:
        if volts < highest:
            yield Finding(
                rule="insulation", severity=Severity.MUST, subject=subject, evidence=f"{volts:g} V", limit=f"{highest:g} V",
                message=f"{what} are insulated for {volts:g} V, and {highest:g} V lie beside them: take a sort for more, and write {key}",
                source="IEC 60204-1:2016 13.1.3, NFPA 79 13.1.3, NEC 300.3(C)(1), from memory", asks=key,
            )  # fmt: skip
