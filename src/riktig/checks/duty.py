"""Rules about what contacts and outputs of the control circuits switch."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.plan.answers.contact_loads import ContactLoad, contact_loads
from riktig.plan.plan import Plan
from riktig.standards.iec_60947_5_1 import SOURCE_DUTY, contact_duty
from riktig.units.numbers import format_number


def check_duty(plan: Plan) -> Iterator[Finding]:
    """Yield contacts that switch more than they are rated for, and digital outputs that feed more than they give.

    A part that states no duty is not judged.

    Source:
        AC-15 and DC-13: IEC 60947-5-1 Table A.1, pilot duty: UL 60947-5-1; an output: as its part states; from memory.
    """
    over: dict[str, list[tuple[ContactLoad, str, str]]] = {}
    for load in contact_loads(plan):
        found = _output_words(plan, load) if load.is_output else _contact_words(plan, load)
        if found is not None:
            over.setdefault(load.heaviest, []).append((load, *found))
    for heaviest, loads in over.items():
        first, what, limit = loads[0]
        contacts = ", ".join(dict.fromkeys(f"{plan.tags[load.use.device]}:{load.marks}" for load, _, _ in loads))
        yield Finding(
            rule="contact-duty", severity=Severity.MUST, subject=first.use.device, evidence=what, limit=limit, source=str(SOURCE_DUTY),
            message=f"{contacts} on the way to {plan.tags[heaviest]}: {what}, and may {limit} at most: let a relay or contactor in between "
            "take it, spread what hangs there over several contacts, or take higher control volts",
        )  # fmt: skip


def _contact_words(plan: Plan, load: ContactLoad) -> tuple[str, str] | None:
    """Return what a contact switches and what it may, None where that is enough or nothing is stated."""
    duty = contact_duty(plan.parts[load.use.device].traits.get("duty", ""), is_dc=load.is_dc)
    if duty is None:
        return None
    unit = "W" if load.is_dc else "VA"
    if load.volts > duty.volts_max:
        return f"{load.volts:g} V", f"{duty.volts_max:g} V ({duty.code})"
    if load.hold_va / load.volts > duty.thermal_a:
        return f"{format_number(load.hold_va / load.volts)} A", f"carry {duty.thermal_a:g} A ({duty.code})"
    if load.hold_va > duty.break_va:
        return f"{format_number(load.hold_va)} {unit} off", f"break {duty.break_va:g} {unit} ({duty.code})"
    if load.make_va > duty.make_va and not load.is_dc:
        return f"{format_number(load.make_va)} VA on", f"make {duty.make_va:g} VA ({duty.code})"
    return None


def _output_words(plan: Plan, load: ContactLoad) -> tuple[str, str] | None:
    most, amps = plan.parts[load.use.device].rating("out_amps"), load.hold_va / load.volts
    if most and amps > most:
        return f"{format_number(amps)} A", f"give {most:g} A"
    return None
