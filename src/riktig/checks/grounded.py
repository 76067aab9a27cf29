"""Rules about a line that is grounded at its source."""

from collections.abc import Iterator

from riktig.catalogue.model import ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.plan.plan import Plan
from riktig.standards.colours import ConductorFunction

_OPENS = frozenset({"fuse", "breaker", "disconnect", "contactor", "motor-breaker"})


def check_grounded_line(plan: Plan) -> Iterator[Finding]:
    """Yield devices that open the grounded line of a corner-grounded delta by itself, and fuses in it.

    Source:
        NEC 240.22 (no overcurrent device in series with a grounded conductor unless it opens all conductors at once), 404.2(B), from
        memory.
    """
    grounded = plan.job.supply.grounded_line
    if grounded is None:
        return
    for device in plan.circuit.devices:
        if device.kind not in _OPENS:
            continue
        poles = [e for e in plan.parts[device.id].elements if e.kind is ElementKind.POLE]
        in_line = [e for e in poles if _is_grounded(plan, device.id, e.marks, grounded)]
        if not in_line or (len(poles) > 1 and device.kind != "fuse"):
            continue
        what = "is a fuse in" if device.kind == "fuse" else "opens by itself"
        yield Finding(
            rule="grounded-line", severity=Severity.MUST, subject=device.id, evidence=f"{plan.tags[device.id]} in {grounded}",
            message=f"{plan.tags[device.id]} {what} the grounded line {grounded}: take a breaker that opens all lines at once, or lead the "
            "circuit between the two other lines",
            limit="all conductors at once", source="NEC 240.22, 404.2(B), from memory",
        )  # fmt: skip


def _is_grounded(plan: Plan, device: str, marks: tuple[str, ...], grounded: str) -> bool:
    for mark in marks:
        potential = plan.potential_of(f"{device}:{mark}")
        if potential is not None and potential.net.function is ConductorFunction.POWER:
            names = {name.removeprefix("in.") for name in potential.net.names}
            if grounded in names or potential.net.phase == grounded:
                return True
    return False


def check_one_pole(plan: Plan) -> Iterator[Finding]:
    """Yield loads between two lines that one-pole devices protect.

    Source:
        A one-pole device never protects a line-to-line circuit: NEC 240.15(B), IEC 60204-1:2016 7.2.3, from memory.
    """
    for name, one in plan.power_circuits.items():
        lines = [line for line in one.lines if line.rpartition(".")[2] not in {"N", "PE"}]
        if len(lines) < 2 or (name not in plan.own_loads and name not in plan.starters):
            continue
        single = [d for d in one.of_role("Q") if plan.parts[d].poles == 1]
        if single:
            yield Finding(
                rule="one-pole", severity=Severity.MUST, subject=name, evidence=f"{plan.tags[single[0]]}, 1 pole",
                message=f"{plan.tags[name]} hangs on {len(lines)} lines and {plan.tags[single[0]]} opens one of them alone: take a device "
                f"with {len(lines)} poles",
                limit=f"{len(lines)} poles", source="NEC 240.15(B), IEC 60204-1:2016 7.2.3, from memory",
            )  # fmt: skip
