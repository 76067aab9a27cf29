"""Owns what the main switches, the protection of the whole panel and its main contactor must be rated for. Must not choose parts."""

from collections.abc import Mapping
from dataclasses import replace

from riktig.catalogue.model import Part
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.plan.basis.motor import MotorSize
from riktig.plan.basis.sized import SizedValue
from riktig.plan.basis.strength import PANEL_PROTECTION, panel_protection
from riktig.plan.circuit.model import PASS_THROUGH, Circuit
from riktig.plan.sizes.load import PanelLoad
from riktig.plan.sizes.needs import Need
from riktig.plan.sizes.ratings import made_rating_a, ride_through_a
from riktig.plan.sizes.sections import Sections
from riktig.plan.sizes.short_circuit import PANEL
from riktig.standards import iec_60269, iec_60898_1, nec
from riktig.units.numbers import format_number

SWITCH_FACTOR = 1.15
_SOURCE_SWITCH = {
    True: "IEC 60204-1:2016 5.3.3, IEC 60947-3; breaking eight times its rating: IEC 60947-3 AC-23A, from memory",
    False: "115 %: NEC 430.110(A) and (C); breaking eight times its rating: common practice, from memory",
}
"""By whether it is IEC."""
_SWITCH_BREAKS = 8.0


def with_supply(load: PanelLoad, job: Job, motors: Mapping[str, MotorSize], branches: Mapping[str, Part]) -> PanelLoad:
    """Return the load of every supply with the rating of the device that stands ahead of the panel.

    Args:
        load: the currents of every supply.
        job: the Job.
        motors: currents of the motors.
        branches: the part that protects each motor, by motor.

    Source:
        IEC 60269-1 5.3.1: the next fuse gG above the load that holds while the largest motor starts. NEC 430.62(A), 430.63. From memory.
    """
    extra = {
        name: replace(own, supply=_supply_a(own, job, motors, branches, own.full_load))
        for name, own in load.extra.items()
    }
    return replace(load, supply=_supply_a(load, job, motors, branches, _least_of(job, load)), extra=extra)


def _supply_a(
    load: PanelLoad, job: Job, motors: Mapping[str, MotorSize], branches: Mapping[str, Part], least_a: float
) -> float:
    """Return the rating in A of what stands ahead of one supply; `least_a` is the least of it in North America."""
    here = {name: motors[name] for name in load.motors}
    if job.practice.standard is Standard.UL:
        return feeder_limit_a(load, here, branches, least_a)
    wanted = max(load.whole, ride_through_a(load.full_load, list(here.values()), is_fuse=True))
    return next((a for a in iec_60269.preferred_ratings_a() if a >= wanted - 1e-9), wanted)


def needs_of_switches(
    job: Job, circuit: Circuit, load: PanelLoad, motors: Mapping[str, MotorSize], branches: Mapping[str, Part]
) -> dict[str, Need]:
    """Return what main switch, protection of the panel, main contactor and switches of extra supplies must carry.

    Args:
        job: the Job.
        circuit: its circuit.
        load: the currents of every supply.
        motors: currents of the motors.
        branches: the part of a first choice that protects each motor, by motor.
    """
    needs = {}
    is_iec = job.practice.standard is Standard.IEC
    here = {name: motors[name] for name in load.motors}
    if "Q0" in circuit.index and job.incoming.disconnect != "switch":
        needs["Q0"] = _panel_protection(job, load, here, branches)
    elif "Q0" in circuit.index:
        needs["Q0"] = need_of_incoming(load, list(here.values()), job.supply.available_ka, is_iec=is_iec)
    if PANEL_PROTECTION in circuit.index:
        needs[PANEL_PROTECTION] = _panel_protection(job, load, here, branches)
    if "incoming.K" in circuit.index:
        needs["incoming.K"] = Need(
            quantity="contactor_rating", amps=load.full_load, formula=f"full load {format_number(load.full_load)} A",
            source="IEC 60947-4-1, from memory", strength_ka=job.supply.available_ka,
            behind=PANEL_PROTECTION if PANEL_PROTECTION in circuit.index else "Q0",
        )  # fmt: skip
    for extra in job.extra_supplies:
        if extra.isolated == "here":
            own = load.of(extra.name)
            sizes = [motors[name] for name in own.motors]
            needs[f"{extra.name}.Q"] = need_of_incoming(own, sizes, extra.available_ka, is_iec=is_iec)
    return needs


def need_of_incoming(load: PanelLoad, motors: list[MotorSize], fault_ka: float, *, is_iec: bool) -> Need:
    """Return what the incoming switch must carry, and break: the start of the largest motor while the others run.

    Source:
        IEC 60204-1:2016 5.3.3 (breaks the largest motor stalled and the rest running) with IEC 60947-3 category AC-23A, which breaks
        8 times its rating; a switch is protected by the fuse of its supply, IEC 60947-3 8.2.5. North America: 115 % of the full load,
        NEC 430.110(A) and (C). From memory.
    """
    full_load = load.full_load
    largest = max(motors, key=lambda m: m.start, default=None)
    locked = full_load - largest.current + largest.start if largest is not None else full_load
    carried, broken = load.supply if is_iec else SWITCH_FACTOR * full_load, locked / _SWITCH_BREAKS
    words = (
        f"full load {format_number(full_load)} A behind a fuse gG of" if is_iec
        else f"{SWITCH_FACTOR:.0%} of {format_number(full_load)} A ="
    )  # fmt: skip
    return Need(
        quantity="incoming_rating", amps=max(carried, broken), source=_SOURCE_SWITCH[is_iec], strength_ka=fault_ka,
        formula=f"{words} {format_number(carried)} A; to break {format_number(locked)} A, an "
        f"eighth of it = {format_number(broken)} A",
        inputs={"full_load": round(full_load, 3), "locked": round(locked, 3)},
    )  # fmt: skip


def _panel_protection(job: Job, load: PanelLoad, motors: Mapping[str, MotorSize], branches: Mapping[str, Part]) -> Need:
    """Return what breaker or fuses of the whole panel must be rated for.

    Source:
        Rides through the start of the largest motor while the others run, bands as in `sizing`; NEC 430.62(A) and 430.63.
    """
    is_fuse, given = job.incoming.own_protection == "fuse", job.incoming.amps
    if job.practice.standard is Standard.UL:
        return _north_american_feeder(job, load, motors, branches)
    ride = ride_through_a(load.full_load, list(motors.values()), is_fuse=is_fuse)
    amps = given or max(load.full_load, ride)
    words = (
        f"as given {given:g} A"
        if given
        else f"full load {format_number(load.full_load)} A and {format_number(ride)} A, so that"
    )
    formula = f"{words} the largest motor starts while the others run"
    return Need(
        quantity="protective_rating", amps=amps, curves=("gG",) if is_fuse else ("D",), strength_ka=job.supply.available_ka,
        formula=f"{formula}: at least {format_number(amps)} A",
        source=f"{iec_60269.SOURCE_START if is_fuse else iec_60898_1.SOURCE_CURVES}", inputs={"full_load": round(load.full_load, 3)},
        places={"full_load": "incoming.amps"},
    )  # fmt: skip


def _north_american_feeder(
    job: Job, load: PanelLoad, motors: Mapping[str, MotorSize], branches: Mapping[str, Part]
) -> Need:
    is_fuse, given = job.incoming.own_protection == "fuse", job.incoming.amps
    least = _least_of(job, load)
    limit = feeder_limit_a(load, motors, branches, least)
    curves = ("class CC", "class J") if is_fuse else ("inverse-time",)
    amps = given or max(made_rating_a(job.incoming.own_protection, curves, limit), least)
    words = f"as given {given:g} A; " if given else f"at least {format_number(least)} A; "
    formula = f"{words}{_limit_words(limit, least)}"
    return Need(
        quantity="protective_rating", amps=amps, most=limit if not given or given <= limit else given, formula=formula,
        curves=curves, source="NEC 430.62(A), 430.63, from memory",
        strength_ka=job.supply.available_ka, inputs={"full_load": round(load.full_load, 3)}, places={"full_load": "incoming.amps"},
    )  # fmt: skip


def _least_of(job: Job, load: PanelLoad) -> float:
    """Return the least rating in A of what protects a panel's supply: its load, 115 % of it where that device is the disconnect."""
    return load.full_load * (1.0 if job.incoming.disconnect == "switch" else SWITCH_FACTOR)


def feeder_limit_a(
    load: PanelLoad, motors: Mapping[str, MotorSize], branches: Mapping[str, Part], least_a: float
) -> float:
    """Return the largest standard rating in A that may protect a supply's conductors in North America; where that is below the least
    that it must be rated for, the next above this, for which the conductors must be large enough.

    Args:
        load: the load of the supply.
        motors: its motors.
        branches: the part that protects each, by motor.
        least_a: the least that the device must be rated for.

    Source:
        NEC 430.62(A) and (B), 430.63, from memory.
    """
    names = [name for name in motors if name in branches]
    devices = [max(branches[name].rating("amps"), branches[name].rating("amps_max")) for name in names]
    others = load.full_load - sum(motors[name].current for name in names)
    limit = nec.feeder_device_a(devices, [motors[name].table for name in names], others_a=max(others, 0.0))
    return limit if limit and limit >= least_a else nec.standard_rating_a(least_a) or 15.0


def _limit_words(limit: float, least: float) -> str:
    if limit <= (nec.standard_rating_a(least) or 0.0):
        return f"the next size above the load, which the feeder carries (430.62(B)): at most {limit:g} A"
    return f"largest branch device and the other motors, next size down: at most {limit:g} A"


def _section_of(subject: str, quantity: str, sections: Sections) -> SizedValue | None:
    return next((v for v in sections.values if (v.subject, v.quantity) == (subject, quantity)), None)


def supply_protection(
    job: Job, parts: Mapping[str, Part], load: PanelLoad, sections: Sections, supply: str = ""
) -> SizedValue:
    """Return the greatest rating in A of what protects a supply of the panel, "" the main one: what main conductors, switch and contactor
    stand.

    Source:
        IEC 60204-1:2016 7.2.2 and 16.4, IEC 60947-3, rounded down to a fuse of IEC 60269-1; NEC 430.62(A), 430.63; from memory.
    """
    drawn, subject = load.of(supply), supply or PANEL
    own = panel_protection(parts) if not supply else None
    if job.practice.standard is Standard.UL:
        least = drawn.full_load * (SWITCH_FACTOR if own is not None and own is parts.get("Q0") else 1.0)
        return SizedValue(
            subject=subject, quantity="supply_protection", value=drawn.supply, unit="A", formula=_limit_words(drawn.supply, least),
            source="NEC 430.62(A), 430.63, from memory", inputs={"full_load": round(drawn.whole, 3)},
        )  # fmt: skip
    main = _section_of(supply or "Q0", "main_section", sections)
    onward = _section_of(PASS_THROUGH, "conductor_section", sections) if not supply else None
    is_own = own is not None
    limits = []
    if main is not None and not is_own and (main.needed or 0.0) >= drawn.supply - 1e-9:
        limits.append((main.carries or 0.0, f"main conductors of {main.text}"))
    switches = (("Q0", "amps", "main switch"), ("incoming.K", "scpd_max_a", "main contactor"))
    for device, rating, words in ((f"{supply}.Q", "amps", "switch"),) if supply else switches:
        if (
            device in parts
            and parts[device].rating(rating)
            and not (is_own and (device == "incoming.K" or PANEL_PROTECTION not in parts))
        ):
            limits.append((parts[device].rating(rating), words))
    if onward is not None:
        limits.append((onward.carries or 0.0, f"{onward.text} to the next panel"))
    least, why = min(limits, default=(drawn.supply, ""))
    stands = f"limited by the {why} to {format_number(least)} A" if why else "the panel protects itself"
    greatest = max((a for a in iec_60269.preferred_ratings_a() if a <= least + 1e-9), default=least)
    return SizedValue(
        subject=subject, quantity="supply_protection", value=greatest, unit="A", needed=drawn.supply,
        formula=f"a fuse gG of at least {drawn.supply:g} A, for {format_number(drawn.whole)} A and the largest start; {stands}: at most "
        f"{greatest:g} A",
        source="IEC 60204-1:2016 7.2.2 and 16.4, IEC 60947-3, IEC 60269-1, from memory", inputs={"full_load": round(drawn.whole, 3)},
    )  # fmt: skip
