"""Rules that depend on the world of standards and on the practice chosen."""

from collections.abc import Iterator

from riktig.checks.finding import Finding, Severity
from riktig.job.mends import Mend
from riktig.job.practice import Standard
from riktig.job.roles import restarts, trip_on_return
from riktig.plan.answers.stay_live import find_live_groups
from riktig.plan.circuit.model import PASS_THROUGH
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import control_volts

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
    """Yield a machine with motors and no emergency stop, where a risk assessment wants one or nobody has said that none is needed, and
    emergency stops of another category than it wants.

    Source:
        IEC 60204-1:2016 9.2.2 and 9.2.3.4, NFPA 79 9.2.5.4, ISO 13850 4.1.4: by risk assessment, from memory.
    """
    if not plan.power_circuits or plan.job.practice.scope != "machine":
        return
    wanted = plan.job.risk.emergency_stop
    source = "ISO 13850, IEC 60204-1:2016 9.2.3.4, NFPA 79 9.2.5.4, from memory"
    has_stop = any(device.kind == "emergency-stop" for device in plan.circuit.devices)
    is_switch = plan.job.incoming.handle == "red-yellow" and plan.job.incoming.switch == "door"
    if not has_stop and wanted != "none" and not (is_switch and wanted in {None, "category 0"}):
        yield Finding(
            rule="emergency-stop", severity=Severity.NOTE if wanted is None else Severity.MUST, subject="job", source=source,
            message="no emergency stop is in the circuit: a competent person decides by risk assessment whether one is needed, and [risk] "
            "emergency_stop says which"
            if wanted is None
            else f"{plan.job.risk.words} wants an emergency stop of {wanted}, and none is in the circuit: write [estop.E1]",
            evidence="none", limit=wanted or "as the risk assessment says", asks="risk.emergency_stop" if wanted is None else "",
        )  # fmt: skip
    for group in plan.job.estops:
        if wanted in {"category 0", "category 1"} and f"category {group.category}" != wanted:
            yield Finding(
                rule="emergency-stop", severity=Severity.MUST, subject=f"{group.name}.S1", source=source,
                message=f"{plan.job.risk.words} wants {wanted}, and emergency stop {group.name} is of category {group.category}: write "
                f"[estop.{group.name}] category = {wanted[-1]}",
                evidence=f"category {group.category}", limit=wanted,
                mend=Mend(table="estop", name=group.name, changes=(("category", int(wanted[-1])),)),
            )  # fmt: skip


def check_supply_protection(plan: Plan) -> Iterator[Finding]:
    """Yield the protection that the incoming supply must have ahead of the panel: large enough for the load, and no larger than what
    conductors and switch stand; nothing where what stands there is stated and right.

    Source:
        IEC 60204-1:2016 7.2.2 (the supplier states the device for the supply), IEC 60947-3 and IEC 60947-4-1, NEC 430.62, from memory.
    """
    what = "fuses or a breaker" if plan.job.practice.standard is Standard.UL else "fuses gG"
    for name, value in (("", plan.panel.supply), *plan.panel.further.items()):
        is_short = value.needed is not None and value.value < value.needed - 1e-9
        which = f"supply {name}" if name else "the supply of this panel"
        given = plan.job.way_in(name or None).protection_a
        is_small = given is not None and value.needed is not None and given < value.needed - 1e-9
        if given is not None and not is_short and (is_small or given > value.value + 1e-9):
            limit = (
                f"{value.needed:g} A at least"
                if is_small and value.needed is not None
                else f"{value.value:g} A at most"
            )
            yield Finding(
                rule="supply-protection", severity=Severity.MUST, subject=_switch_of(plan, name), evidence=f"{given:g} A", limit=limit,
                message=f"{given:g} A protect {which}, and it takes {limit}: let whoever installs it put {what} of that in"
                + ("" if is_small else ", or take larger main conductors and a larger main switch"),
                source=value.source,
            )  # fmt: skip
        if given is not None and not is_short:
            continue
        yield Finding(
            rule="supply-protection", severity=Severity.MUST if is_short else Severity.NOTE, source=value.source,
            subject=_switch_of(plan, name), asks="" if is_short else f"extra_supply.{name}.protection_a" if name else "supply.protection_a",
            message=f"protect {which} with {what} of no more than {value.value:g} A: say so to whoever installs it, and write what stands "
            "there as protection_a"
            + (f". The load asks for {value.needed:g} A: take larger main conductors or a larger main switch" if is_short else ""),
            evidence=f"full load {plan.panel.load.of(name).full_load:.1f} A", limit=f"{value.value:g} A",
        )  # fmt: skip


def _switch_of(plan: Plan, supply: str) -> str:
    """Return the switch of a supply, "" of the main one."""
    return next((device for device in (f"{supply}.Q" if supply else "Q0",) if device in plan.parts), "Q0")


def check_restart(plan: Plan) -> Iterator[Finding]:
    """Yield motors that start by themselves where nobody answers for it, and emergency stops through relays that nothing watches where more
    is wanted, or nobody has said what is.

    Source:
        IEC 60204-1:2016 7.5 and 9.2.3 (no unexpected restart), ISO 13850; ISO 13849-1 6.2 (one channel that nothing watches reaches
        performance level c at most), from memory.
    """
    risk = plan.job.risk
    for starter in plan.job.starters:
        if restarts(starter, plan.job) and not risk.restart:
            yield Finding(
                rule="automatic-restart", severity=Severity.NOTE, subject=starter.name,
                message=f"{starter.name} starts by itself after a loss of supply: put its warning label up and let whoever judged the "
                'risk say why it may ([risk] restart), or write restart = "manual"',
                evidence="restarts by itself", limit="deliberate, with a label and a reason", asks="risk.restart",
                source="IEC 60204-1:2016 7.5, NFPA 79 7.5.3, from memory",
            )  # fmt: skip
    for group in plan.job.estops:
        level = risk.performance_level
        if level in {"a", "b", "c"}:
            continue
        if level is not None:
            yield Finding(
                rule="emergency-stop-relay", severity=Severity.MUST, subject=f"{group.name}.S1",
                message=f"{risk.words} wants performance level {level}, and emergency stop {group.name} works through single relays "
                "that nothing "
                "watches, which reach c at most: draw it with a safety relay of two channels and feedback",
                evidence=f"category {group.category}, single relays", limit=f"performance level {level}",
                source="ISO 13849-1 6.2, from memory",
            )  # fmt: skip
            continue
        yield Finding(
            rule="emergency-stop-relay", severity=Severity.NOTE, subject=f"{group.name}.S1",
            message=f"emergency stop {group.name} works through single relays that nothing watches: a competent person decides "
            "by risk assessment whether a safety relay is needed, and [risk] performance_level says so",
            evidence=f"category {group.category}, reset by {group.reset}", limit="as the risk assessment says",
            source="ISO 13849-1, ISO 13850, from memory", asks="risk.performance_level",
        )  # fmt: skip


def check_reversing(plan: Plan) -> Iterator[Finding]:
    """Yield what belongs to a reversing starter on a hoist: limits of its ways where it is held to run, else a word about it.

    Source:
        Common practice, no source.
    """
    for starter in plan.job.starters:
        if starter.hold_to_run and starter.kind == "reversing":
            if not starter.limits:
                yield Finding(
                    rule="hoist-limits", severity=Severity.MUST, subject=starter.name, evidence="no limits", limit="a limit of each way",
                    message=f"nothing ends the ways of {starter.name}, which runs while it is held: write limits = [\"B1\", \"B2\"], "
                    "limit switches that open at its ends",
                    source="common practice, no source",
                )  # fmt: skip
            yield Finding(
                rule="hoist-brake", severity=Severity.NOTE, subject=starter.name, evidence="no brake in the circuit", limit="a brake",
                message=f"what {starter.name} lifts falls without a brake that closes when the current is off: a competent person decides "
                "on brake, final limits and overload of the load",
                source="common practice, no source; EN 14492-2, from memory",
            )  # fmt: skip
        elif starter.kind == "reversing":
            yield Finding(
                rule="reversing-duty", severity=Severity.NOTE, subject=starter.name,
                message=f"if {starter.name} drives a hoist or lift, final limits, a brake and contactors for inching (AC-4) "
                "belong to it",
                evidence=f"duty {starter.duty}", limit="as the machine asks", source="common practice, no source",
            )  # fmt: skip


def check_interlocks(plan: Plan) -> Iterator[Finding]:
    """Yield mechanical interlocks that do not stand between their two contactors.

    Source:
        Geometry.
    """
    for device in plan.circuit.devices:
        if device.kind != "interlock" or device.owner is None or device.id not in plan.plate.boxes:
            continue
        middle = plan.plate.boxes[device.id]
        sides = [box for role in ("K", "KR") if (box := plan.plate.boxes.get(f"{device.owner}.{role}")) is not None]
        gaps = [min(abs(box.right - middle.x), abs(middle.right - box.x)) for box in sides]
        if (
            len(sides) < 2
            or max(gaps) > _INTERLOCK_GAP_MM
            or len({round(box.centre[1]) for box in (middle, *sides)}) > 1
        ):
            yield Finding(
                rule="interlock-apart", severity=Severity.MUST, subject=device.id, source="geometry",
                evidence=f"{max(gaps, default=0):.0f} mm", limit="between both contactors",
                message=f"{plan.tags[device.id]} does not stand between the two contactors that it locks: put the three side by side",
            )  # fmt: skip


_INTERLOCK_GAP_MM = 10.0
"""How far a contactor may stand from its interlock: they snap together (common practice, no source)."""


def check_stays_live(plan: Plan) -> Iterator[Finding]:
    """Yield what hangs ahead of the main switch and is no excepted circuit.

    Source:
        IEC 60204-1:2016 5.3.5 (excepted circuits), NFPA 79 5.3.5, from memory.
    """
    allowed = {e.name for e in plan.job.excepted} | {PASS_THROUGH}
    for group in find_live_groups(plan):
        if group.source != "mains" or "Q0" not in plan.parts:
            continue
        for device in group.devices:
            if (plan.circuit.device(device).owner or device) not in allowed:
                yield Finding(
                    rule="ahead-of-switch", severity=Severity.MUST, subject=device,
                    message=f"{plan.tags[device]} stays live with the main switch off and is no excepted circuit: feed it from "
                    "behind the switch, or make it an [excepted] circuit",
                    evidence="a path ahead of the main switch", limit="excepted circuits only",
                    source="IEC 60204-1:2016 5.3.5, from memory",
                )  # fmt: skip


def check_second_supplies(plan: Plan) -> Iterator[Finding]:
    """Yield supplies that are isolated elsewhere, where nothing says at which place.

    Source:
        The label says where a second supply is isolated: IEC 60204-1:2016 5.3.1 and 16.1, from memory.
    """
    for extra in plan.job.extra_supplies:
        if extra.isolated == "elsewhere" and not extra.title:
            yield Finding(
                rule="second-supply", severity=Severity.SHOULD, subject=extra.name,
                message=f"supply {extra.name} is isolated elsewhere and nothing says where: write title, it goes on the label",
                evidence="no title", limit="the place on the warning label", source="IEC 60204-1:2016 16.1, from memory",
            )  # fmt: skip


def check_control_groups(plan: Plan) -> Iterator[Finding]:
    """Yield DC supplies whose one device is so large that it makes all wires behind it thicker than control wires are.

    Source:
        Common practice, no source.
    """
    for control in plan.job.controls:
        amps = plan.parts[f"{control.name}.F"].rating("amps")
        if control.is_dc and amps > _MOST_GROUP_A:
            origin = control.group_of or control.name
            yield Finding(
                rule="control-groups", severity=Severity.SHOULD, subject=f"{control.name}.F", evidence=f"{amps:g} A",
                message=f"all of {control.name} hangs behind one device of {amps:g} A, and each of its wires is as thick as that asks for: "
                f'part it, [control.C9] group_of = "{origin}" is a group behind a device of its own',
                limit=f"{_MOST_GROUP_A:g} A", source="common practice, no source",
            )  # fmt: skip


_MOST_GROUP_A = 6.0
"""Largest device of a group on DC whose wires are still control wires of 1 mm² (common practice, no source)."""


def check_return_school(plan: Plan) -> Iterator[Finding]:
    """Yield overload contacts on the return side of a supply that is not bonded to earth.

    Source:
        An earth fault would bridge the contact: common practice, IEC 60204-1:2016 9.4.3.1, from memory.
    """
    job = plan.job
    for starter in job.starters:
        control = job.control(starter.supply)
        if control is None or not trip_on_return(starter, job):
            continue
        is_bonded = control.earthed if control.kind != "direct" else job.supply.earthing != "it"
        if not is_bonded:
            yield Finding(
                rule="overload-on-return", severity=Severity.MUST, subject=starter.name,
                message=f"the overload contact of {starter.name} is on the return side and {control.name} is not bonded to earth: "
                'an earth fault would bridge it, bond the supply or write overload_contact = "live"',
                evidence="return side, not earthed", limit="a bonded return", source="common practice",
                mend=Mend(table="starter", name=starter.name, changes=(("overload_contact", "live"),)),
            )  # fmt: skip
