"""Rules about what contacts and outputs of the control circuits switch, much or little."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.plan.answers.contact_loads import ContactLoad, SignalContact, contact_loads, signal_contacts
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


def check_low_level(plan: Plan) -> Iterator[Finding]:
    """Yield contacts that feed inputs alone and need more current or volts to close surely, or of which nobody knows what they need.

    Source:
        IEC 60947-5-4 (contacts at low level), IEC 61131-2 (inputs), from memory; a feedback to a controller has a contact for so little:
        common practice, no source.
    """
    unknown: dict[str, list[SignalContact]] = {}
    for one in signal_contacts(plan):
        part = plan.parts[one.device]
        volts, milliamps = part.rating("least_v"), part.rating("least_ma")
        if not volts or not milliamps:
            unknown.setdefault(part.code, []).append(one)
        elif one.milliamps and (milliamps > one.milliamps or volts > one.volts):
            yield Finding(
                rule="low-level", severity=Severity.SHOULD, subject=one.device, evidence=f"{one.milliamps:g} mA at {one.volts:g} V",
                message=f"a contact of {plan.tags[one.device]} feeds an input of {plan.tags[one.to]}, {one.milliamps:g} mA at "
                f"{one.volts:g} V, and closes surely from {milliamps:g} mA and {volts:g} V on: take one for so little, or let a relay for "
                "it in between",
                limit=f"{milliamps:g} mA and {volts:g} V at least", source=SOURCE_LOW,
            )  # fmt: skip
    for code, several in unknown.items():
        tags = ", ".join(dict.fromkeys(plan.tags[one.device] for one in several))
        yield Finding(
            rule="low-level", severity=Severity.NOTE, subject=several[0].device, evidence=code, limit="sure at a few mA", asks="least_ma",
            message=f"contacts of {tags} feed inputs, and nothing says from how little current on they close surely: write least_v and "
            f"least_ma for {code} in the catalogue",
            source=SOURCE_LOW,
        )  # fmt: skip


SOURCE_LOW = "IEC 60947-5-4, IEC 61131-2, from memory"


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
