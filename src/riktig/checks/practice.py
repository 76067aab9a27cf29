"""Rules that depend on the world of standards and on the practice chosen."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.checks.protection import ampacity_inside
from riktig.job.model import Standard
from riktig.plan.coils import control_volts
from riktig.plan.plan import Plan

UL_CONTROL_VOLTS = 120.0


def check_control_voltage(plan: Plan) -> Iterator[Finding]:
    """Yield control supplies that the standard does not allow.

    Source:
        NFPA 79 9.1.1 (120 V, from a transformer), IEC 60204-1:2016 9.1.1 (control transformer), from memory.
    """
    job = plan.job
    for control in job.controls:
        volts = control_volts(control, job)
        if job.practice.standard is Standard.UL and volts > UL_CONTROL_VOLTS:
            yield Finding(
                rule="control-voltage",
                severity=Severity.MUST,
                subject=control.name,
                message=f"control supply {control.name} has {volts:.0f} V: take a transformer with 120 V or less",
                evidence=f"{volts:.0f} V",
                limit="120 V",
                source="NFPA 79 9.1.1, from memory",
            )
        operators = sum(d.kind in {"pushbutton", "emergency-stop", "switch"} for d in plan.circuit.devices)
        is_simple = len(job.starters) <= 1 and operators <= 2
        is_machine = job.practice.scope == "machine" and job.practice.standard is Standard.IEC
        if control.kind == "direct" and is_machine and not is_simple:
            yield Finding(
                rule="control-transformer",
                severity=Severity.SHOULD,
                subject=control.name,
                message=f"a machine beyond one starter and two control devices has a control transformer: make {control.name} "
                'one, or write scope = "assembly" if this is no machine',
                evidence=f"{len(job.starters)} starters, {operators} control devices",
                limit="1 starter, 2 control devices",
                source="IEC 60204-1:2016 9.1.1, from memory",
            )


def check_emergency_stop(plan: Plan) -> Iterator[Finding]:
    """Yield a machine with motors and no emergency stop.

    Source:
        IEC 60204-1:2016 9.2.3.4 and ISO 13850: by risk assessment, from memory.
    """
    has_stop = any(device.kind == "emergency-stop" for device in plan.circuit.devices)
    if plan.job.starters and plan.job.practice.scope == "machine" and not has_stop:
        yield Finding(
            rule="emergency-stop",
            severity=Severity.NOTE,
            subject="job",
            message="no emergency stop is in the circuit: a competent person decides by risk assessment whether one is needed",
            evidence="none",
            limit="as the risk assessment says",
            source="ISO 13850, IEC 60204-1:2016 9.2.3.4, from memory",
        )


def check_schools(plan: Plan) -> Iterator[Finding]:
    """Yield practices that this version does not follow yet.

    Source:
        Riktig itself.
    """
    practice = plan.job.practice
    for key, value, used in (("tags", practice.tags, "letter-number"), ("numbering", practice.numbering, "sequence")):
        if value != used:
            yield Finding(
                rule="school-not-built",
                severity=Severity.SHOULD,
                subject="job",
                message=f'{key} = "{value}" is not built yet, "{used}" is used: check before you print labels',
                evidence=used,
                limit=value,
                source="Riktig",
            )


def check_supply_protection(plan: Plan) -> Iterator[Finding]:
    """Yield the protection that the incoming supply must have ahead of the panel.

    Source:
        IEC 60204-1:2016 7.2.2 (the supplier states the device for the supply), from memory.
    """
    line = plan.job.supply.lines[0]
    size = plan.sections.inside.get(line)
    carries = ampacity_inside(plan, size) if size is not None else None
    if size is not None and carries is not None:
        yield Finding(
            rule="supply-protection",
            severity=Severity.NOTE,
            subject="Q0",
            message=f"protect the supply of this panel with no more than {carries:.0f} A ({size.label()} behind the main "
            "switch): say so to whoever installs it",
            evidence=f"full load {plan.panel.full_load_a:.1f} A",
            limit=f"{carries:.0f} A",
            source="IEC 60204-1:2016 7.2.2, from memory",
        )
