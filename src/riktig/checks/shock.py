"""Rules about electric shock beyond the loops: earthing in TT, residual-current devices of drives, charge that stays, earth currents."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.job.practice import Standard
from riktig.plan.plan import Plan
from riktig.standards import iec_60204_1, iec_60364_4
from riktig.standards.colours import ConductorFunction
from riktig.units.numbers import format_number

SOURCE_WAVE = "IEC 60364-5-53 531.3.3, IEC 61800-5-1, from memory"
SOURCE_LEAKAGE = "IEC 60204-1:2016 8.2.6, IEC 61800-5-1 4.3.5.5, from memory"


def check_electrode(plan: Plan) -> Iterator[Finding]:
    """Yield circuits in TT whose residual-current device trips too late for the resistance of the earth electrode, or of which that is not
    known.

    Source:
        IEC 60364-4-41 411.5.3: R_A · I_Δn at most 50 V, from memory.
    """
    for way_in, name in (
        (plan.job.supply, "supply"),
        *((extra, f"extra_supply.{extra.name}") for extra in plan.job.extra_supplies),
    ):
        own = way_in.rcd_ma / 1000.0 if way_in.rcd_ma is not None else None
        trips = (
            [loop.residual_a for loop in plan.loops if loop.is_tt and loop.residual_a is not None]
            if way_in is plan.job.supply
            else []
        )
        worst = max((*trips, *([own] if own is not None else ())), default=None)
        if way_in.earthing != "tt" or worst is None:
            continue
        most = iec_60364_4.residual_earthing_ohm(worst)
        known = way_in.earth_ohm
        if known is None or known > most:
            is_known = known is not None
            yield Finding(
                rule="earth-electrode", severity=Severity.MUST if is_known else Severity.NOTE, subject="job",
                evidence=f"{known:g} Ω" if is_known else "no earth_ohm", limit=f"{format_number(most)} Ω",
                message=f"the earth electrode has {known:g} Ω, and a device that trips at {1000 * worst:g} mA asks for "
                f"{format_number(most)} Ω at most: take one that trips at less, or improve the electrode"
                if is_known
                else f"the resistance of the earth electrode is not stated: have it measured, at most {format_number(most)} Ω go with "
                f"{1000 * worst:g} mA, and write [{name}] earth_ohm",
                source="IEC 60364-4-41 411.5.3, from memory", asks="" if is_known else f"{name}.earth_ohm",
            )  # fmt: skip


def check_drive_guard(plan: Plan) -> Iterator[Finding]:
    """Yield residual-current devices ahead of drives on three lines that smooth direct current blinds.

    Source:
        IEC 60364-5-53 531.3.3, IEC 61800-5-1 4.2 (type B), from memory.
    """
    for name, circuit in plan.power_circuits.items():
        way_in = plan.job.way_in(circuit.supply or None)
        driven = [device for device in circuit.of_role("A") if plan.parts[device].kind == "drive"]
        if not driven or len(circuit.lines) == 1:
            continue
        if way_in.rcd_ma is not None and way_in.rcd_type != "B":
            key = f"extra_supply.{circuit.supply}.rcd_type" if circuit.supply else "supply.rcd_type"
            known = way_in.rcd_type
            yield Finding(
                rule="drive-guard", severity=Severity.MUST if known else Severity.NOTE, subject=driven[0],
                evidence=f"type {known} ahead" if known else "no rcd_type", limit="type B", source=SOURCE_WAVE, asks="" if known else key,
                message=f"a residual-current device ahead of the panel feeds drive {plan.tags[driven[0]]} of "
                f"{plan.tags.get(name, name)}, whose faults may be smooth direct current: "
                + (f"type {known} does not see it, have type B put in" if known else f"see that it is type B, and write {key}"),
            )  # fmt: skip
        for guard in (d for d, _ in circuit.devices if d in plan.parts and plan.parts[d].kind == "rcd"):
            wave = plan.parts[guard].traits.get("wave", "")
            if wave != "B":
                yield Finding(
                    rule="drive-guard", severity=Severity.MUST if wave else Severity.NOTE, subject=guard,
                    evidence=f"type {wave}" if wave else plan.parts[guard].code, limit="type B",
                    message=f"{plan.tags[guard]} stands ahead of drive {plan.tags[driven[0]]} of {plan.tags.get(name, name)}, whose faults "
                    "may be smooth direct current that "
                    + (f"a type {wave} does not see: take type B" if wave else "only type B sees: write wave for it in the catalogue"),
                    source=SOURCE_WAVE, asks="" if wave else "wave",
                )  # fmt: skip


def check_residual_voltage(plan: Plan) -> Iterator[Finding]:
    """Yield drives that hold charge for longer than they may without a warning, or of which nobody knows for how long.

    Source:
        IEC 60204-1:2016 6.2.4 (60 V within 5 s, else a warning with the time), NFPA 79:2021 6.5, from memory.
    """
    for device in plan.circuit.devices:
        if device.kind != "drive":
            continue
        seconds = plan.parts[device.id].rating("discharge_s")
        if seconds > iec_60204_1.RESIDUAL_S or not seconds:
            yield Finding(
                rule="residual-voltage", severity=Severity.NOTE, subject=device.id,
                evidence=f"{seconds:g} s" if seconds else plan.parts[device.id].code,
                limit=f"{iec_60204_1.TOUCH_V:g} V after {iec_60204_1.RESIDUAL_S:g} s, or a warning",
                message=f"{plan.tags[device.id]} holds charge for {seconds:g} s after it is switched off: its warning belongs beside "
                "it, and is among the labels"
                if seconds
                else f"for how long {plan.tags[device.id]} holds charge is not known: take discharge_s from its manual into the catalogue",
                source="IEC 60204-1:2016 6.2.4, NFPA 79:2021 6.5, from memory", asks="" if seconds else "discharge_s",
            )  # fmt: skip


def check_leakage(plan: Plan) -> Iterator[Finding]:
    """Yield drives whose earth current may be large and that have one thin protective conductor.

    Source:
        IEC 60204-1:2016 8.2.6 (above 10 mA: 10 mm² of copper, a second protective conductor, or monitoring), IEC 61800-5-1 4.3.5.5,
        from memory.
    """
    most = 1000 * iec_60204_1.LEAKAGE_A
    earth = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    for device in plan.circuit.devices:
        if device.kind != "drive":
            continue
        leaks, tag = plan.parts[device.id].rating("leakage_ma"), plan.tags[device.id]
        if not leaks:
            yield Finding(
                rule="earth-current", severity=Severity.NOTE, subject=device.id, evidence=plan.parts[device.id].code, limit=f"{most:g} mA",
                message=f"how much earth current {tag} leaks is not known: take leakage_ma from its manual into the catalogue",
                source=SOURCE_LEAKAGE, asks="leakage_ma",
            )  # fmt: skip
            continue
        earths = [c for c in plan.conductors_of.get(device.id, ()) if c.is_wired and c.number in earth]
        if leaks > most and len(earths) < 2 and not any(c.size.mm2 >= iec_60204_1.LEAKAGE_MM2 for c in earths):
            yield Finding(
                rule="earth-current", severity=Severity.MUST, subject=device.id,
                evidence=f"{leaks:g} mA over {', '.join(c.size.label() for c in earths) or 'no earth'}", limit=f"{most:g} mA",
                message=f"{tag} may leak {leaks:g} mA to earth and has {len(earths)} protective conductor thinner than "
                f"{iec_60204_1.LEAKAGE_MM2:g} mm²: lead a second one to it, or make it so thick",
                source=SOURCE_LEAKAGE,
            )  # fmt: skip


def check_monitor(plan: Plan) -> Iterator[Finding]:
    """Yield, once, a supply in IT whose insulation nothing watches: a first fault opens nothing.

    Source:
        IEC 60364-4-41 411.6, IEC 60204-1:2016 6.3.3, from memory.
    """
    if plan.job.practice.standard is Standard.IEC and plan.job.supply.earthing == "it":
        is_watched = plan.job.supply.monitored
        yield Finding(
            rule="disconnection-it", severity=Severity.NOTE if is_watched else Severity.SHOULD, subject="job",
            evidence=f"earthing = it, monitored = {str(is_watched).lower()}", limit="insulation is monitored",
            message="in IT a first fault to earth opens nothing: "
            + ("" if is_watched else "an insulation monitor belongs to the supply, write [supply] monitored = true where it has one; and ")
            + "a competent person proves that a second fault is cleared, which is not computed here",
            source="IEC 60364-4-41 411.6, from memory",
        )  # fmt: skip
