"""Owns which parts a starter and a panel module have, by role. Must not say what they are: the Plan expands them."""

from riktig.job.model import Job, Starter
from riktig.job.modules import Alarm, Controller, Estop, Excepted, PhaseRelay, Pumps, Surge, Way

RELAY_CONTACTS, TIMER_CONTACTS = 8, 2
STARTER_ROLES = {
    "Q": "protection; of a motor breaker 13-14 and 97-98 stand for the overload relay's contacts",
    "K": "contactor; main contactor of star-delta; run relay of a drive; line contactor of a soft starter",
    "KR": "reverse contactor",
    "MI": "mechanical interlock of forward and reverse contactor",
    "KS": "star contactor",
    "KD": "delta contactor",
    "KA": "run relay of a soft starter",
    "F": "overload relay, 95-96 and 97-98",
    "A": "drive or soft starter, 95-96 and 97-98 are its fault contacts",
    "T": "star-delta timer",
    "S0": "stop, further ones S0_2, S0_3",
    "S1": "start or forward, further ones S1_2, S1_3",
    "S2": "reverse, further ones S2_2, S2_3",
    "SL": "selector",
    "SE": "emergency stop of its own, further ones SE_2, SE_3",
    "SX": "control-on button",
    "X": "control-on relay",
    "KC": "interface relay of the controller's run command, forward where it reverses",
    "KCR": "interface relay of the controller's reverse command",
    "R": "thermistor relay",
    "QM": "local isolator at the motor",
    "RP": "speed potentiometer",
    "B0": "stop float, where no level is named",
    "B1": "start float, where no level is named",
    "H": "run lamp, forward where it reverses",
    "HR": "reverse lamp",
    "HT": "trip lamp",
    "HB": "ready lamp",
    "P": "hours counter",
    "M": "the motor, as its bare name",
}
"""Every role that a starter's part may have."""
MODULE_ROLES = {
    "estop": "S1 S2 ... emergency stops, SB reset, K K_2 ... control-on relays, T T_2 ... delays of category 1",
    "phase_relay": "its bare name, Q protection, K K_2 ... relays that repeat it",
    "alarm": "F fuse, P beacon, H horn, S silence and test, K relay",
    "surge": "its bare name, Q protection, H lamp",
    "excepted": "Q isolator, F protection, FP T B of a transformer, S door switch, BT thermostat, R residual-current device, "
    "E the load, G the way in from elsewhere",
    "way": "F protection, R residual-current device, E the load",
    "controller": "its bare name, N network switch, HMI operator panel",
    "level": "stop, start, alarm",
    "pumps": "KD demand, KA alternating relay, KL lag demand, K1 K2 orders, KT1 KT2 trip relays",
    "control": "F protection, FP primary protection, T transformer, G power supply, B earth link",
    "extra_supply": "Q switch",
    "phase_lamps": "F1 F2 F3, P1 P2 P3",
    "pass_through": "E the next panel",
    "incoming": "FP protection of the whole panel, K main contactor, F its protection, S door switch; the main switch is Q0",
}


def groups_of(starter: Starter, job: Job) -> tuple[Estop, ...]:
    """Return the emergency stop groups that stop a starter, in the order of the Job."""
    return tuple(e for e in job.estops if e.stops == "all" or starter.name in e.stops)


def pumps_of(starter: Starter, job: Job) -> tuple[Pumps, int] | None:
    """Return the pair that a pump takes turns in, and whether it is its first or second; None where it is in none."""
    return next(
        ((pair, pair.starters.index(starter.name) + 1) for pair in job.pumps if starter.name in pair.starters), None
    )


def pumps_roles(pair: Pumps, job: Job) -> tuple[str, ...]:
    """Return the roles of what lets two pumps take turns; a lag demand where their level has a lag float."""
    level = next((one for one in job.levels if one.name == pair.level), None)
    lag = ("KL",) if level is not None and "lag" in level.floats else ()
    return ("KD", "KA", *lag, "K1", "K2", "KT1", "KT2")


def phase_relays_of(starter: Starter, job: Job) -> tuple[str, ...]:
    """Return the names of the phase relays whose contact stands in a starter's own circuit: not those that the main contactor or a
    group with a reset button has in its own.
    """
    names = []
    for relay in job.phase_relays:
        if relay.acts_on == "all" and job.incoming.main_contactor or group_of_phases(relay, job) is not None:
            continue
        if relay.acts_on == "all" or starter.name in relay.acts_on:
            names.append(relay.name)
    return tuple(names)


def group_of_phases(relay: PhaseRelay, job: Job) -> Estop | None:
    """Return the emergency stop group, reset by a button, that stops just the starters of a phase relay: its reset serves both."""
    if relay.acts_on == "all" and job.incoming.main_contactor:
        return None
    names = {s.name for s in job.starters if relay.acts_on == "all" or s.name in relay.acts_on}
    for group in job.estops:
        if group.reset == "button" and names and names == {s.name for s in job.starters if group in groups_of(s, job)}:
            return group
    return None


def is_maintained(starter: Starter) -> bool:
    """Return whether what runs it stays on by itself: a selector, a float or a controller."""
    return starter.mode != "buttons"


def restarts(starter: Starter, job: Job) -> bool:
    """Return whether a starter starts by itself after a loss of supply: as written, else a pump, which nobody watches, unless it would
    also start when an emergency stop is released.

    Source:
        Common practice, no source; nothing starts by the release of an emergency stop: ISO 13850, from memory.
    """
    if starter.restart is not None:
        return starter.restart == "automatic"
    is_released = any(group.reset != "button" for group in groups_of(starter, job)) or bool(starter.estop_at)
    return starter.kind == "pump" and not is_released


def has_control_on(starter: Starter, job: Job) -> bool:
    """Return whether a starter has a control-on relay of its own.

    Source:
        Maintained control restarts by itself and needs one, unless the reset of all its groups does it: common practice.
    """
    if not is_maintained(starter) or restarts(starter, job):
        return False
    groups = groups_of(starter, job)
    is_reset = bool(groups) and all(group.reset == "button" for group in groups)
    return not is_reset or bool(starter.estop_at or phase_relays_of(starter, job))


def has_reverse(starter: Starter) -> bool:
    """Return whether a starter has two directions."""
    return starter.kind == "reversing"


def is_commanded(starter: Starter) -> bool:
    """Return whether a controller runs the starter, always or in automatic."""
    return starter.controller is not None and (starter.mode == "controller" or starter.has_hand) and not starter.auto


def protection_of(starter: Starter, job: Job) -> str:
    """Return what protects a starter against short circuit: breaker, motor-breaker, magnetic breaker or fuse."""
    return starter.protection or job.practice.motor_protection


def overload_role(starter: Starter, job: Job) -> str:
    """Return the part that is set to the motor's current: overload relay, drive or soft starter, or motor breaker."""
    if starter.kind in {"drive", "soft"}:
        return "A"
    return "Q" if protection_of(starter, job) == "motor-breaker" else "F"


def trip_on_return(starter: Starter, job: Job) -> bool:
    """Return whether the overload contact stands between coil and return; only that of an overload relay does."""
    school = starter.overload_contact or job.practice.overload_contact
    return school == "return" and overload_role(starter, job) == "F"


def roles_of(starter: Starter, job: Job) -> tuple[str, ...]:
    """Return the roles of the parts that a starter has."""
    kind, stations = starter.kind, len(starter.buttons_at)
    roles = ["Q", "K"]
    roles += ["MI"] if starter.is_interlocked else []
    roles += {"reversing": ["KR"], "star-delta": ["KS", "KD", "T"], "soft": ["KA"]}.get(kind, [])
    roles += [] if overload_role(starter, job) == "Q" else [overload_role(starter, job)]
    if starter.mode == "buttons":
        roles += ([] if starter.hold_to_run else _numbered("S0", stations)) + _numbered("S1", stations)
        roles += _numbered("S2", stations) if has_reverse(starter) else []
    if starter.mode == "selector" or starter.has_hand:
        roles.append("SL")
    roles += _numbered("SE", len(starter.estop_at or ()))
    roles += ["X", "SX"] if has_control_on(starter, job) else []
    if is_commanded(starter):
        roles += ["KC", "KCR"] if has_reverse(starter) else ["KC"]
    has_own_floats = kind == "pump" and starter.level is None and pumps_of(starter, job) is None
    flags = (
        ("R", starter.thermistor),
        ("QM", starter.isolator),
        ("RP", starter.speed == "potentiometer"),
        ("B0", has_own_floats),
        ("B1", has_own_floats),
        ("H", "run" in starter.lamps),
        ("HR", "run" in starter.lamps and has_reverse(starter)),
        ("HT", "trip" in starter.lamps),
        ("HB", "ready" in starter.lamps),
        ("P", starter.hours),
    )
    return (*roles, *(role for role, is_there in flags if is_there), "M")


def _numbered(role: str, count: int) -> list[str]:
    return [role if n == 1 else f"{role}_{n}" for n in range(1, count + 1)]


def relay_contacts_of(group: Estop, job: Job) -> tuple[int, int]:
    """Return how many contacts the starters of a group ask of its relays at once, and of its delays (category 1)."""
    members = [s for s in job.starters if group in groups_of(s, job)]
    drives = sum(s.kind == "drive" for s in members)
    softs = len({
        (s.supply, tuple(g.name for g in groups_of(s, job))) for s in members
        if s.kind == "soft" and any(g.category == 1 for g in groups_of(s, job))
    })  # fmt: skip
    feeds = {
        (s.supply, tuple(g.name for g in groups_of(s, job))[: groups_of(s, job).index(group) + 1]) for s in members
    }
    seal_or_own = 1 if group.reset == "button" else -1
    at_once = max(len(feeds), 1) + seal_or_own
    if group.category == 0:
        return at_once + 2 * drives + softs, 0
    return at_once, 2 * drives + softs


def relay_roles(role: str, count: int, each: int) -> list[str]:
    """Return `K`, `K2` ... for as many relays as give `count` contacts."""
    return _numbered(role, -(-count // each))


def module_roles(job: Job) -> dict[str, tuple[str, ...]]:
    """Return the roles of the parts of every module and control supply, by its name."""
    found: dict[str, tuple[str, ...]] = {}
    for group in job.estops:
        relays, delays = relay_contacts_of(group, job)
        roles = [f"S{n}" for n in range(1, len(group.at) + 1)]
        roles += ["SB"] if group.reset == "button" else []
        found[group.name] = (
            *roles,
            *relay_roles("K", relays, RELAY_CONTACTS),
            *relay_roles("T", delays, TIMER_CONTACTS),
        )
    for relay in job.phase_relays:
        found[relay.name] = ("Q", *relay_roles("K", phase_repeats(relay.name, job), RELAY_CONTACTS))
    for alarm in job.alarms:
        found[alarm.name] = _alarm_roles(alarm)
    for surge in job.surges:
        found[surge.name] = _surge_roles(surge)
    for circuit in job.excepted:
        found[circuit.name] = excepted_roles(circuit, job)
    for way in job.ways:
        found[way.name] = _way_roles(way)
    for controller in job.controllers:
        found[controller.name] = _controller_roles(controller)
    for level in job.levels:
        found[level.name] = tuple(level.floats)
    for pair in job.pumps:
        found[pair.name] = pumps_roles(pair, job)
    for control in job.controls:
        if control.group_of is not None:
            found[control.name] = ("F",)
            continue
        middle = {"transformer": ("FP", "T"), "psu": ("FP", "G")}.get(control.kind, ())
        link = ("B",) if control.earthed and control.kind != "direct" else ()
        found[control.name] = (*middle, "F", *link)
    if job.incoming.main_contactor:
        found["incoming"] = ("K", "F", "S") if job.incoming.door_switch else ("K", "F")
    if job.incoming.protection != "none":
        found["incoming"] = (*found.get("incoming", ()), "FP")
    found.update({extra.name: ("Q",) for extra in job.extra_supplies if extra.isolated == "here"})
    return found


def phase_repeats(name: str, job: Job) -> int:
    """Return how many starters need a contact that repeats a phase relay; none where its own contact will do."""
    uses = sum(name in phase_relays_of(s, job) for s in job.starters)
    return uses if uses > 1 else 0


def _alarm_roles(alarm: Alarm) -> tuple[str, ...]:
    return ("F", "P", "H", "S", "K")


def _surge_roles(surge: Surge) -> tuple[str, ...]:
    return ("Q", "H") if surge.lamp != "none" else ("Q",)


def needs_transformer(circuit: Excepted, job: Job) -> bool:
    """Return whether a load's volts are not those between a line and neutral, within 10 %."""
    if circuit.load == "from-elsewhere":
        return False
    wanted = excepted_volts(circuit, job)
    return not job.supply.has_neutral or abs(job.supply.line_to_neutral - wanted) > 0.1 * wanted


def excepted_volts(circuit: Excepted, job: Job) -> float:
    """Return the volts of an excepted load: as given, else 230 (IEC) or 120 (UL)."""
    return circuit.volts or (120.0 if job.practice.standard == "ul" else 230.0)


def excepted_roles(circuit: Excepted, job: Job) -> tuple[str, ...]:
    """Return the roles of an excepted circuit's parts."""
    if circuit.load == "from-elsewhere":
        return ("G", "Q", "F") if circuit.isolated == "here" else ("G", "F")
    roles = ["F"]
    roles += ["FP", "T", "B"] if needs_transformer(circuit, job) else []
    roles += ["S"] if circuit.load == "light" and circuit.door_switch else []
    roles += ["R"] if circuit.load == "socket" else []
    roles += ["BT"] if circuit.load in {"heater", "fan"} else []
    return (*roles, "E")


def _way_roles(way: Way) -> tuple[str, ...]:
    return ("F", "R", "E") if way.rcd else ("F", "E")


def _controller_roles(controller: Controller) -> tuple[str, ...]:
    extra = (("N", controller.network_switch), ("HMI", controller.operator_panel is not None))
    return tuple(role for role, is_there in extra if is_there)
