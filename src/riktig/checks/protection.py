"""Rules about protection: every circuit has its own device, with as many poles as it needs."""

from collections.abc import Iterator

from riktig.catalogue.model import CONSUMER_KINDS, ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.checks.wired import about_wiring
from riktig.plan.basis.union import UnionFind
from riktig.plan.circuit.model import PASS_THROUGH
from riktig.plan.plan import Plan

_PASSING = {ElementKind.POLE, ElementKind.NO, ElementKind.NC, ElementKind.CO, ElementKind.THROUGH}
_NO_PROTECTION = frozenset({PASS_THROUGH})
"""What is protected where it leads to: a feed carried on unchanged."""


@about_wiring
def check_own_protection(plan: Plan) -> Iterator[Finding]:
    """Yield loads that a line reaches through no breaker at all.

    Source:
        Each circuit has its own protective device: IEC 60204-1:2016 7.2, from memory.
    """
    reach = UnionFind[str]()
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
        poles = breaker.poles if breaker is not None else 0
        if breaker is not None and poles < len(lines):
            yield Finding(
                rule="poles",
                severity=Severity.MUST,
                subject=control.name,
                message=f"{control.name} hangs on {len(lines)} lines behind a {poles}-pole breaker: take a {len(lines)}-pole one",
                evidence="1 pole" if poles == 1 else f"{poles} poles",
                limit=f"{len(lines)} poles",
                source="common practice, no source",
            )
