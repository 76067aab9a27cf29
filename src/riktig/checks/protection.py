"""Rules about protection: every circuit has its own device, and each conductor and overload fits it."""

from collections.abc import Iterator

from riktig.catalogue.model import CONSUMER_KINDS, ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.job.model import Standard
from riktig.job.paths import Path, refs_of
from riktig.plan.netlist import UnionFind
from riktig.plan.plan import Plan
from riktig.plan.sections import GROUPED_CIRCUITS, INSIDE_RISE_K
from riktig.standards import iec_60204_1, nec
from riktig.units.conductor_size import ConductorSize

_PASSING = {ElementKind.POLE, ElementKind.NO, ElementKind.NC, ElementKind.CO, ElementKind.THROUGH}
_NO_PROTECTION = frozenset({"pass_through"})
"""What is protected where it leads to: a feed carried on unchanged."""


def check_own_protection(plan: Plan) -> Iterator[Finding]:
    """Yield loads that a line reaches through no breaker at all.

    Source:
        Each circuit has its own protective device: IEC 60204-1:2016 7.2, from memory.
    """
    reach = UnionFind()
    for potential in plan.potentials:
        for terminal in potential.net.terminals:
            reach.join(f"={potential.number}", terminal)
    for device, part in plan.parts.items():
        if part.kind in {"breaker", "fuse", "motor-breaker", "link"}:
            continue
        for element in part.elements:
            if element.kind in _PASSING:
                for mark in element.marks[1:]:
                    reach.join(f"{device}:{element.marks[0]}", f"{device}:{mark}")
    live = {reach.find(f"={line}") for line in plan.job.supply.lines}
    for device, part in plan.parts.items():
        if plan.circuit.device(device).owner in _NO_PROTECTION:
            continue
        for element in part.elements:
            ends = [f"{device}:{mark}" for mark in element.marks]
            if element.kind in CONSUMER_KINDS and any(reach.find(end) in live for end in ends):
                yield Finding(
                    rule="own-protection",
                    severity=Severity.MUST,
                    subject=device,
                    message=f"{plan.tags[device]} is fed from the mains through no breaker: put a breaker into its path",
                    evidence="a path without a breaker from a line",
                    limit="one protective device in each circuit",
                    source="IEC 60204-1:2016 7.2.1, from memory",
                )
                break


def check_poles(plan: Plan) -> Iterator[Finding]:
    """Yield transformers fed line to line with one pole protected only.

    Source:
        Both primary lines are protected: common practice, no source.
    """
    for control in plan.job.controls:
        breaker = plan.parts.get(f"{control.name}.F" if control.kind == "direct" else f"{control.name}.FP")
        lines = [line for line in control.from_lines if line != "N"]
        poles = sum(e.kind is ElementKind.POLE for e in breaker.elements) if breaker is not None else 0
        if breaker is not None and poles < len(lines):
            yield Finding(
                rule="poles",
                severity=Severity.MUST,
                subject=control.name,
                message=f"{control.name} hangs on {len(lines)} lines behind a {poles}-pole breaker: take a {len(lines)}-pole one",
                evidence=f"{poles} poles",
                limit=f"{len(lines)} poles",
                source="common practice, no source",
            )


def ampacity_inside(plan: Plan, size: ConductorSize, circuits: int = GROUPED_CIRCUITS) -> float | None:
    """Return what a conductor carries in A in the panel's ducts, None if the table has no such size."""
    air = plan.job.enclosure.ambient + INSIDE_RISE_K
    if plan.job.practice.standard is Standard.IEC:
        base, warm = iec_60204_1.ampacity_a(size.mm2, "b1"), iec_60204_1.ambient_factor(min(air, 60.0))
        grouping = iec_60204_1.grouping_factor(circuits, "b1")
    else:
        base, warm, grouping = nec.ampacity_a(size.awg), nec.ambient_factor(min(air, 70.0)), 1.0
    return None if base is None or warm is None else base * warm * grouping


def check_conductors(plan: Plan) -> Iterator[Finding]:
    """Yield circuits whose conductor carries less than its protection lets through.

    Source:
        IEC 60204-1:2016 7.2.4 and 12.4; NEC 430.22 and 240.4, from memory.
    """
    limits: list[tuple[str, str, float, str]] = []
    for starter in plan.job.starters:
        size = plan.motors[starter.name]
        number = next((p.number for p in plan.potentials if f"{starter.name}.Q:2" in p.net.terminals), None)
        if number is not None:
            limits.append((starter.name, number, size.carry, "overload setting"))
    for control in plan.job.controls:
        rating = plan.parts[f"{control.name}.F"].rating("amps")
        limits.append((control.name, _number_named(plan, f"{control.name}+"), rating, "breaker"))
    for feeder in plan.job.feeders:
        found = [(r.device, plan.parts[r.device]) for r in refs_of(_items(plan, feeder.name)) if r.device in plan.parts]
        for device, part in found:
            if part.kind == "breaker":
                end = part.elements[0].marks[1]
                number = next((p.number for p in plan.potentials if f"{device}:{end}" in p.net.terminals), "")
                limits.append((device, number, part.rating("amps"), "breaker"))
    for subject, number, amps, what in limits:
        chosen = plan.sections.inside.get(number)
        carries = ampacity_inside(plan, chosen) if chosen is not None else None
        if chosen is not None and carries is not None and carries < amps - 1e-9:
            yield Finding(
                rule="conductor-protection",
                severity=Severity.MUST,
                subject=subject,
                message=f"{chosen.label()} of {number} carries {carries:.3g} A, less than the {what} of {amps:.3g} A: "
                "take a lower rating or part the circuit",
                evidence=f"{carries:.3g} A",
                limit=f"{amps:.3g} A",
                source="IEC 60204-1:2016 7.2.4, NEC 240.4, from memory",
            )


def _items(plan: Plan, key: str) -> Path:
    return next(path.items for path in plan.circuit.paths if path.key == key)


def _number_named(plan: Plan, name: str) -> str:
    return next((p.number for p in plan.potentials if name in p.net.names), "")


def check_overloads(plan: Plan) -> Iterator[Finding]:
    """Yield overload relays whose range does not hold the setting.

    Source:
        IEC 60947-4-1 8.2.1.5; NEC 430.32, from memory.
    """
    for starter in plan.job.starters:
        if f"{starter.name}.F" not in plan.parts:
            continue
        part, setting = plan.parts[f"{starter.name}.F"], plan.motors[starter.name].setting
        low, high = part.rating("amps_min"), part.rating("amps_max")
        if not low <= setting <= high:
            yield Finding(
                rule="overload-range",
                severity=Severity.MUST,
                subject=f"{starter.name}.F",
                message=f"the overload of {starter.name} must be set to {setting:.3g} A but reaches {low:g} to {high:g} A: "
                "choose another part, or add one to the catalogue",
                evidence=f"{setting:.3g} A",
                limit=f"{low:g} to {high:g} A",
                source="IEC 60947-4-1 8.2.1.5, from memory",
            )


def check_short_circuit(plan: Plan) -> Iterator[Finding]:
    """Yield a panel that is weaker than the fault current of its supply.

    Source:
        The panel has the rating of its weakest power component: UL 508A SB4 and IEC 61439-1 10.11, from memory.
    """
    fault, rating = plan.job.supply.fault_ka, plan.panel.sccr_ka
    if rating < fault:
        weakest = ", ".join(plan.tags[d] for d in plan.panel.sccr_limited_by) or "no rated device"
        yield Finding(
            rule="short-circuit-rating",
            severity=Severity.MUST,
            subject=next(iter(plan.panel.sccr_limited_by), ""),
            message=f"the supply can deliver {fault:g} kA, the panel stands {rating:g} kA because of {weakest}: "
            "choose stronger parts or limit the fault current ahead of the panel",
            evidence=f"{rating:g} kA",
            limit=f"{fault:g} kA",
            source="UL 508A SB4, IEC 61439-1 10.11, from memory",
        )
