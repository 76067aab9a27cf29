"""Rules about what is joined: supplies that meet."""

from collections.abc import Iterator

from riktig.catalogue.model import ElementKind
from riktig.checks.finding import Finding, Severity
from riktig.plan.plan import Plan
from riktig.plan.zones import device_of, mark_of

_CHANGEOVERS = frozenset({ElementKind.CO, ElementKind.TIMED_CO})


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


def _source_of(name: str, plan: Plan) -> str:
    """Return which live side a name stands for; the return of a direct supply is the line or neutral that it is taken from."""
    if name.rpartition(".")[2] == "PE":
        return "PE"
    control = plan.job.control(name[:-1]) if name[-1:] in {"+", "-"} else None
    if control is None or control.kind != "direct" or name.endswith("+"):
        return name
    lines = control.from_lines or ()
    return lines[1] if len(lines) > 1 else "N"


def _is_common(plan: Plan, terminal: str) -> bool:
    part = plan.parts.get(device_of(terminal))
    return part is not None and any(e.kind in _CHANGEOVERS and e.marks[0] == mark_of(terminal) for e in part.elements)
