"""Rules about sizes: conductors, overloads, drops and short-circuit strength, and what a person set by hand."""

from collections.abc import Iterator
from dataclasses import replace

from riktig.checks.finding import Finding, Severity
from riktig.job.mends import Mend
from riktig.job.practice import Standard
from riktig.plan.basis.conductor import carries_a
from riktig.plan.basis.strength import peak_words
from riktig.plan.circuit.model import NEXT_PANEL, PASS_THROUGH
from riktig.plan.plan import Plan
from riktig.plan.sizes.short_circuit import PANEL
from riktig.plan.sizes.starter import DROP_LIMIT_PERCENT, START_DROP_LIMIT_PERCENT, size_of_mm2
from riktig.standards import iec_60947_4_1, iec_61439_1
from riktig.standards.colours import ConductorFunction
from riktig.standards.tables import own_tables
from riktig.units.numbers import format_number

_SECTIONS = frozenset({"conductor_section", "lead_section", "cable_section", "main_section"})
_DROPS = {"voltage_drop": (DROP_LIMIT_PERCENT, ""), "start_drop": (START_DROP_LIMIT_PERCENT, " while it starts")}


def check_conductors(plan: Plan) -> Iterator[Finding]:
    """Yield conductors that carry less than they must.

    Source:
        IEC 60204-1:2016 7.2.4 and 12.4; NEC 430.22 and 240.4, from memory.
    """
    for value in plan.sizing:
        if value.quantity not in _SECTIONS or value.needed is None or value.carries is None:
            continue
        if value.carries < value.needed - 1e-9:
            what = {"cable_section": "cable", "main_section": "main conductor"}.get(value.quantity, "conductor")
            yield Finding(
                rule="conductor-protection", severity=Severity.MUST, subject=value.subject,
                message=f"the {what} of {plan.tags.get(value.subject, value.subject)}, {value.inputs['size']}, carries "
                f"{value.carries:.3g} A and must carry {value.needed:.3g} A: take a larger one, a cooler or less crowded place, "
                "or part the circuit",
                evidence=f"{value.carries:.3g} A", limit=f"{value.needed:.3g} A", source="IEC 60204-1:2016 7.2.4, NEC 240.4, from memory",
            )  # fmt: skip


def check_drops(plan: Plan) -> Iterator[Finding]:
    """Yield motor cables that drop more than they may, running or starting.

    Source:
        IEC 60204-1:2016 12.5 for 5 %; 15 % while starting: common practice.
    """
    for value in plan.sizing:
        if value.quantity in _DROPS and value.value > _DROPS[value.quantity][0] + 1e-9:
            limit, when = _DROPS[value.quantity]
            yield Finding(
                rule="voltage-drop", severity=Severity.SHOULD, subject=value.subject, evidence=f"{value.value:.3g} %",
                message=f"the cable of {plan.tags.get(value.subject, value.subject)} drops {value.value:.3g} %{when}, more than "
                f"{limit:g} %: bring the panel nearer, or start the motor more softly",
                limit=f"{limit:g} %", source=value.source,
            )  # fmt: skip


def check_overloads(plan: Plan) -> Iterator[Finding]:
    """Yield overload relays and motor breakers whose range does not hold the setting.

    Source:
        IEC 60947-4-1 8.2.1.5; NEC 430.32, from memory.
    """
    for name, sizes in plan.starters.items():
        for device, setting in sizes.motor.settings.items():
            part = plan.parts.get(device)
            if part is None:
                continue
            low, high = part.rating("amps_min"), part.rating("amps_max")
            if high and not low <= setting <= high:
                yield Finding(
                    rule="overload-range", severity=Severity.MUST, subject=device, evidence=f"{format_number(setting)} A",
                    message=f"the overload of {name} must be set to {format_number(setting)} A but reaches {low:g} to {high:g} A: "
                    "choose another part, or add one to the catalogue",
                    limit=f"{low:g} to {high:g} A", source="IEC 60947-4-1 8.2.1.5, from memory",
                )  # fmt: skip


def check_trip_class(plan: Plan) -> Iterator[Finding]:
    """Yield motors that take longer to start than their overload lets them.

    Source:
        IEC 60947-4-1 Table 2, from memory.
    """
    for name, sizes in plan.starters.items():
        starter, size = sizes.starter, sizes.motor
        if starter.kind in {"drive", "soft"} or not sizes.world.motor.overload:
            continue
        ratio = size.start_multiple
        held = iec_60947_4_1.start_held_s(size.trip_class or "30", ratio)
        if held < starter.start_seconds - 1e-9:
            which = "no trip class lets" if size.trip_class is None else f"class {size.trip_class} does not let"
            yield Finding(
                rule="trip-class", severity=Severity.MUST, subject=name, evidence=f"{starter.start_seconds:g} s",
                message=f"{which} {name} start for {starter.start_seconds:g} s at {ratio:.3g} times its current (sure up to "
                f"{held:.3g} s): start it more softly, or protect it by thermistors",
                limit=f"{held:.3g} s", source=str(iec_60947_4_1.SOURCE_CLASS),
            )  # fmt: skip


def check_given(plan: Plan) -> Iterator[Finding]:
    """Yield ratings that a person gave and that their circuit asks more or less of.

    Source:
        As the sizing of the device says.
    """
    for value in plan.sizing:
        need = plan.needs.get(value.subject)
        if need is None or value.quantity != need.quantity or not (need.asked or need.limit):
            continue
        is_low, is_high = value.value < need.asked - 1e-9, bool(need.limit) and value.value > need.limit + 1e-9
        if is_low or is_high:
            limit = f"at least {format_number(need.asked)} A" if is_low else f"at most {format_number(need.limit)} A"
            yield Finding(
                rule="given-rating", severity=Severity.MUST, subject=value.subject, evidence=value.text, limit=limit, source=value.source,
                message=f"{plan.tags[value.subject]} is given with {value.text} and its circuit asks for {limit} "
                f"({need.formula.partition('; ')[2]}): take out amps, or give another",
            )  # fmt: skip


def check_passed_on(plan: Plan) -> Iterator[Finding]:
    """Yield lines to the next panel that had to be made larger than a person wrote.

    Source:
        IEC 60364-4-43 433.1; NEC 240.4, 240.21; from memory.
    """
    onward = plan.job.pass_through
    value = next((v for v in plan.sizing if (v.subject, v.quantity) == (PASS_THROUGH, "conductor_section")), None)
    if (
        onward is None
        or value is None
        or onward.section_mm2 is None
        or value.value <= size_of_mm2(onward.section_mm2, metric=plan.laid_inside.metric).mm2
    ):
        return
    supply = format_number(plan.panel.load.supply)
    yield Finding(
        rule="passed-on", severity=Severity.SHOULD, subject=NEXT_PANEL, evidence=f"{onward.section_mm2:g} mm²", limit=value.text,
        message=f"{onward.section_mm2:g} mm² to the next panel does not carry the {supply} A that may protect the supply, and nothing "
        f"else protects it: {value.text} is laid; write section_mm2 = {value.value:.4g}, or give it a protective device",
        source="IEC 60364-4-43 433.1, NEC 240.4, from memory",
        mend=Mend(table="pass_through", changes=(("section_mm2", float(f"{value.value:.4g}")),)),
    )  # fmt: skip


def check_neutral(plan: Plan) -> Iterator[Finding]:
    """Yield a neutral that carries less than the heaviest line's single-phase load.

    Source:
        IEC 60364-5-52 524.2, from memory: a neutral for all that may flow in it. It is led with the lines of its supply, by itself.
    """
    neutral = plan.panel.load.neutral
    number = next((p.number for p in plan.potentials if p.net.function is ConductorFunction.NEUTRAL), None)
    size = plan.sections.inside.get(number) if number is not None else None
    carries = carries_a(size, replace(plan.laid_inside, grouped=1)) if size is not None else None
    if carries is not None and size is not None and carries < neutral:
        yield Finding(
            rule="neutral", severity=Severity.MUST, subject=PANEL, evidence=f"{carries:.3g} A", limit=f"{neutral:.3g} A",
            message=f"the neutral, {size.label()}, carries {carries:.3g} A and single-phase loads may draw {neutral:.3g} A through "
            "it: spread the ways over the lines, or set a larger main section",
            source="IEC 60364-5-52 524.2, from memory",
        )  # fmt: skip


def check_short_circuit(plan: Plan) -> Iterator[Finding]:
    """Yield ways in whose fault current is larger than what stands behind them.

    Source:
        The panel has the rating of its weakest power component: UL 508A SB4 and IEC 61439-1 10.11, from memory.
    """
    rating = plan.panel.short_circuit
    if rating.value.reason is not None and rating.rating_ka >= plan.job.supply.available_ka:
        return
    worst: dict[float, list[str]] = {}
    for branch in rating.branches:
        for link in branch.links:
            if link.strength.ka < branch.available_ka:
                worst.setdefault(branch.available_ka, []).append(link.device)
    for fault, devices in worst.items():
        strengths = {link.device: link.strength for branch in rating.branches for link in branch.links}
        weakest = min(devices, key=lambda d: strengths[d].ka)
        least = strengths[weakest].ka
        named = ", ".join(dict.fromkeys(plan.tags[d] for d in devices if strengths[d].ka == least))
        yield Finding(
            rule="short-circuit-rating", severity=Severity.MUST, subject=weakest,
            message=f"the supply can deliver {fault:g} kA, the panel stands {least:g} kA because of {named} "
            f"({strengths[weakest].why}): choose stronger parts, or limit the fault current by [incoming] protection = \"fuse\"",
            evidence=f"{least:g} kA", limit=f"{fault:g} kA", source="UL 508A SB4, IEC 61439-1 10.11, from memory",
        )  # fmt: skip


def check_proof(plan: Plan) -> Iterator[Finding]:
    """Yield an assembly whose short-circuit strength must be proven.

    Source:
        IEC 61439-1:2011 10.11.2: none up to 10 kA, or behind a device whose cut-off current is at most 17 kA; from memory.
    """
    fault, peak = plan.job.supply.available_ka, plan.panel.short_circuit.cut_off_ka
    if plan.job.practice.standard is Standard.UL or not iec_61439_1.needs_proof(fault):
        return
    if peak is not None and peak <= iec_61439_1.PROOF_FREE_PEAK_KA:
        yield Finding(
            rule="short-circuit-proof", severity=Severity.NOTE, subject="incoming.FP", evidence=f"{peak:.3g} kA peak",
            message=f"no proof of short-circuit strength is asked for: the panel's fuses let {peak:.3g} kA through, of "
            f"{peak_words(fault)}",
            limit=f"{iec_61439_1.PROOF_FREE_PEAK_KA:g} kA peak", source=str(iec_61439_1.SOURCE_PROOF),
        )  # fmt: skip
        return
    let = f"they let {peak:.3g} kA through" if peak is not None else "nothing limits it"
    yield Finding(
        rule="short-circuit-proof", severity=Severity.SHOULD, subject=PANEL, evidence=f"{fault:g} kA, {let}",
        message=f"at {fault:g} kA ({peak_words(fault)}) the short-circuit strength of bars and wiring must be proven: by test, by "
        "comparison, or by fuses of the panel that let at most 17 kA through ([incoming] protection = \"fuse\")",
        limit=f"{iec_61439_1.PROOF_FREE_KA:g} kA, or {iec_61439_1.PROOF_FREE_PEAK_KA:g} kA peak", source=str(iec_61439_1.SOURCE_PROOF),
        mend=Mend(table="incoming", changes=(("protection", "fuse"),))
        if plan.job.incoming.own_protection == "" and plan.job.incoming.switch != "none" else None,
    )  # fmt: skip


def check_slash_ratings(plan: Plan) -> Iterator[Finding]:
    """Yield motor breakers with a slash rating on a supply that is no solidly grounded wye.

    Source:
        UL 508A and NEC 240.85, 430.83(E), from memory.
    """
    if plan.job.practice.standard is not Standard.UL:
        return
    for device in plan.circuit.devices:
        part = plan.parts[device.id]
        if "slash" not in part.traits:
            continue
        starter = plan.job.starter(device.owner or "")
        way_in = plan.job.way_in(starter.power if starter is not None else None)
        if way_in.earthing not in {"wye-grounded", "tn-s", "tn-c-s"} or way_in.volts > 480:
            yield Finding(
                rule="slash-rating", severity=Severity.MUST, subject=device.id, evidence=f"{way_in.earthing}, {way_in.volts:g} V",
                message=f"{plan.tags[device.id]} is rated {part.traits['slash']} V: only for a solidly grounded wye, and this supply "
                f"is {way_in.earthing}: take a breaker or fuses",
                limit=f"{part.traits['slash']} V, grounded wye", source="NEC 240.85, 430.83(E), from memory",
            )  # fmt: skip


def check_by_hand(plan: Plan) -> Iterator[Finding]:
    """Yield every size that a person set, weaker ones louder, and those that belong to nothing any more.

    Source:
        A size by hand is the person's decision and stands with its reason: common practice, no source.
    """
    known = set()
    for value in plan.sizing:
        known.add(value.key)
        if value.reason is None:
            continue
        margin = value.margin_percent
        is_weak = margin is not None and margin < -1e-6
        unit = value.unit.replace("mm2", "mm²")
        computed = f"{format_number(value.computed, 4)} {unit}" if value.computed else "what is computed"
        tag = plan.tags.get(value.subject, value.subject)
        yield Finding(
            rule="set-by-hand", severity=Severity.SHOULD if is_weak else Severity.NOTE, subject=value.subject,
            message=f"{value.quantity.replace('_', ' ')} of {tag} is set by hand to {format_number(value.value, 4)} {unit}, "
            f"computed {computed}{', which is more than it does' if is_weak else ''}: {value.reason}",
            evidence=f"{value.value:g} {unit}", limit=computed, source="a person's decision, kept in the job",
        )  # fmt: skip
    for key in plan.job.ledger.values:
        if key not in known:
            yield Finding(
                rule="set-by-hand", severity=Severity.NOTE, subject="", evidence=key, limit="a size of this job",
                message=f"the size '{key}' set by hand belongs to nothing in this job: take it out of [kept.values]",
                source="a person's decision, kept in the job",
            )  # fmt: skip


def check_tables(plan: Plan) -> Iterator[Finding]:
    """Yield tables of the shop in use, and tables that the job was sized with and that are not there, or others, now.

    Source:
        The job remembers which tables it used: common practice, no source.
    """
    kept, now = plan.job.ledger.tables, own_tables()
    for name in sorted({*kept, *now}):
        was = kept[name].value if name in kept else ""
        table = now.get(name)
        is_now = f"{table.digest} {table.title}" if table is not None else ""
        if was == is_now:
            yield Finding(
                rule="own-table", severity=Severity.NOTE, subject="", evidence=is_now, limit="the shop's own copy",
                message=f"sizes use the shop's own table {name}: {is_now.partition(' ')[2]}", source="the shop's own table",
            )  # fmt: skip
            continue
        held = (
            f"sized with the shop's own table {name} ({was.partition(' ')[2]})"
            if was
            else f"sized with the shipped {name}"
        )
        there = f"now there is another copy: {is_now.partition(' ')[2]}" if is_now else "it is not there now"
        yield Finding(
            rule="own-table", severity=Severity.SHOULD, subject="", evidence=is_now or "the shipped table",
            limit=was or "the shipped table",
            message=f"this job was {held}, {there}: bring back that table, or look through the sizes again",
            source="the shop's own table",
        )  # fmt: skip
