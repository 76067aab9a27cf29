"""Owns what must hold for starters and panel modules before they are expanded. Must not change a Job."""

import re
from collections.abc import Iterator

from riktig.job.faults import Fault, Key, did_you_mean
from riktig.job.model import Job, Starter
from riktig.job.modules import Alarm, Controller
from riktig.job.names import find_path_faults, names_known
from riktig.job.paths import PathError, Ref, parse_path
from riktig.job.program import ProgramError, names_in, read_program
from riktig.job.roles import is_maintained, pumps_of

PLACES = ("plate", "door")
WALLS = {"left_wall": "left", "right_wall": "right"}
"""Where a device with a cut-out may be besides: in a side wall of the enclosure, seen from the front."""
_ONLY_FOR = {
    "level": ("pump",),
    "speed": ("drive",),
    "star_seconds": ("star-delta",),
}


def no_place(at: Key, place: str, places: set[str]) -> Fault:
    """Return the fault of a place that nothing declares."""
    return Fault(at=at, message=f"no location '{place}': declare [location.{place}]{did_you_mean(place, places)}")


def starter_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    """Yield what does not fit of each starter."""
    for starter in job.starters:
        at: Key = ("starter", starter.name)
        yield from _supply_faults(starter, job, at)
        for key, given in (("motor_at", (starter.motor_at,)), ("buttons_at", starter.buttons_at),
                           ("estop_at", starter.estop_at or ())):  # fmt: skip
            for place in given:
                if place not in places:
                    yield no_place((*at, key), place, places)
        if starter.motor_at in PLACES:
            yield Fault(at=(*at, "motor_at"), message="a motor stands at a location, not in the panel")
        yield from _kind_faults(starter, job, at)
        yield from _control_faults(starter, job, at)
        yield from _interlock_faults(starter, job, at)


def _supply_faults(starter: Starter, job: Job, at: Key) -> Iterator[Fault]:
    supplies = [control.name for control in job.controls]
    if starter.supply not in supplies:
        known = ", ".join(supplies) or "none is declared, add [control.C1]"
        yield Fault(at=(*at, "supply"), message=f"no control supply '{starter.supply}' (there: {known})")
    extras = [extra.name for extra in job.extra_supplies]
    if starter.power is not None and starter.power not in extras:
        known = ", ".join(extras) or "none is declared, add [extra_supply.P] or leave power out"
        yield Fault(at=(*at, "power"), message=f"no extra supply '{starter.power}' (there: {known})")
    way_in = job.way_in(starter.power)
    if starter.phases == 3 and len(way_in.lines) < 3:
        yield Fault(at=at, message=f"a three-phase motor on a {way_in.system} supply: write phases = 1")


def _kind_faults(starter: Starter, job: Job, at: Key) -> Iterator[Fault]:
    if starter.phases == 1 and starter.kind not in {"dol", "pump"}:
        message = f'a {starter.kind} starter is for three phases: take kind = "dol", or phases = 3'
        yield Fault(at=(*at, "kind"), message=message)
    for key, kinds in _ONLY_FOR.items():
        default = Starter.model_fields[key].default
        if getattr(starter, key) != default and starter.kind not in kinds:
            message = f'{key} belongs to kind = "{kinds[0]}": leave it out of a {starter.kind} starter'
            yield Fault(at=(*at, key), message=message)
    yield from _way_faults(starter, job, at)
    pair = pumps_of(starter, job)
    if pair is not None and any(getattr(starter, key) is not None for key in ("level", "auto", "controller")):
        message = f"{starter.name} is ordered by [pumps.{pair[0].name}]: take level, auto and controller out of it"
        yield Fault(at=at, message=message)
    levels = [level.name for level in job.levels]
    if starter.level is not None and starter.level not in levels:
        yield Fault(
            at=(*at, "level"), message=f"no level '{starter.level}': declare [level.{starter.level}] with floats"
        )
    if starter.speed == "controller" and starter.controller is None:
        yield Fault(at=(*at, "speed"), message='the speed comes from no controller: add controller = "P1"')
    trip_returns = (starter.overload_contact or job.practice.overload_contact) == "return"
    if "ready" in starter.lamps and trip_returns and starter.kind not in {"drive", "soft"}:
        message = 'a ready lamp cannot see an overload contact on the return side: write overload_contact = "live" here'
        yield Fault(at=(*at, "lamps"), message=message)


def _way_faults(starter: Starter, job: Job, at: Key) -> Iterator[Fault]:
    """Yield what does not fit of the ways of a starter that reverses, and of one that runs while it is held."""
    for key in ("limits", "legends", "interlock"):
        if getattr(starter, key) and starter.kind != "reversing":
            message = f'{key} belongs to kind = "reversing": leave it out of a {starter.kind} starter'
            yield Fault(at=(*at, key), message=message)
    if starter.limits and len(starter.limits) != 2:
        yield Fault(at=(*at, "limits"), message='write the limit of each way, forward first: limits = ["B1", "B2"]')
    for text in starter.limits:
        yield from _element_faults(text, job, (*at, "limits"))
    if starter.hold_to_run and (starter.kind not in {"dol", "reversing"} or starter.mode != "buttons"):
        message = 'what runs while it is held has buttons and is of kind "dol" or "reversing": change that, or leave hold_to_run out'
        yield Fault(at=(*at, "hold_to_run"), message=message)


def _control_faults(starter: Starter, job: Job, at: Key) -> Iterator[Fault]:
    mode = starter.mode
    controllers = [c.name for c in job.controllers]
    if starter.controller is not None and starter.controller not in controllers:
        known = ", ".join(controllers) or f"none is declared, add [controller.{starter.controller}]"
        yield Fault(at=(*at, "controller"), message=f"no controller '{starter.controller}' (there: {known})")
    if mode == "controller" and starter.controller is None:
        yield Fault(at=(*at, "control"), message='control = "controller" needs its name: add controller = "P1"')
    if starter.kind == "pump" and mode == "buttons":
        yield Fault(at=(*at, "control"), message='a pump runs by its floats: leave control out, or take kind = "dol"')
    if starter.selector is not None and mode == "buttons":
        yield Fault(at=(*at, "selector"), message='a selector with buttons: write control = "selector"')
    if starter.kind == "pump" and starter.selector == "off-on":
        yield Fault(at=(*at, "selector"), message='a pump has hand, off and auto: write selector = "hand-off-auto"')
    if starter.has_hand and starter.kind == "reversing":
        yield Fault(
            at=(*at, "selector"), message="hand-off-auto has one direction: leave selector out of a reversing starter"
        )
    needs_auto = starter.has_hand and starter.kind != "pump" and starter.controller is None
    if needs_auto and starter.auto is None:
        yield Fault(at=at, message='nothing runs it in automatic: add auto = "B4:no" or controller = "P1"')
    if starter.auto is not None:
        if not is_maintained(starter) or starter.kind == "reversing":
            message = 'auto belongs to control = "selector" of one direction: leave it out, or change control'
            yield Fault(at=(*at, "auto"), message=message)
        yield from _element_faults(starter.auto, job, (*at, "auto"))
    for text in starter.needs:
        yield from _element_faults(text, job, (*at, "needs"))
    if starter.restart == "automatic" and mode == "buttons":
        yield Fault(at=(*at, "restart"), message="buttons never restart by themselves: leave restart out")


def _element_faults(text: str, job: Job, at: Key) -> Iterator[Fault]:
    """Yield what is wrong with a single element such as `B4:no`."""
    prefix = "PE > "
    try:
        path = parse_path(f"{prefix}{text} > PE")
    except PathError as error:
        yield Fault(at=at, message=f"column {max(error.column - len(prefix), 1)}: {error.message}")
        return
    if len(path) != 3 or not isinstance(path[1], Ref):
        yield Fault(at=at, message=f"'{text}' is no single element: write DEVICE:no")
        return
    for _, message in find_path_faults(f"{prefix}{text} > PE", names_known(job), is_feeder=False):
        yield Fault(at=at, message=message)


def _interlock_faults(starter: Starter, job: Job, at: Key) -> Iterator[Fault]:
    names = [s.name for s in job.starters]
    for key in ("runs_while", "never_with"):
        for other in getattr(starter, key):
            if other == starter.name:
                yield Fault(
                    at=(*at, key), message=f"{starter.name} cannot be interlocked with itself: name another starter"
                )
            elif other not in names:
                yield Fault(
                    at=(*at, key),
                    message=f"no starter '{other}'{did_you_mean(other, names)}: name one that is declared",
                )
    both = set(starter.runs_while) & {
        *starter.never_with,
        *(s.name for s in job.starters if starter.name in s.never_with),
    }
    for other in sorted(both):
        message = f"{starter.name} runs while {other} and never with it: it could never run, take one of them out"
        yield Fault(at=(*at, "never_with"), message=message)
    if starter.name in _needed_by(starter, job):
        message = f"{starter.name} waits for starters that wait for it: take it out of one runs_while"
        yield Fault(at=(*at, "runs_while"), message=message)


def _needed_by(starter: Starter, job: Job) -> set[str]:
    """Return every starter that must run before this one may, at any remove."""
    found: set[str] = set()
    waiting = list(starter.runs_while)
    while waiting:
        name = waiting.pop()
        if name not in found:
            found.add(name)
            other = job.starter(name)
            waiting.extend(other.runs_while if other is not None else ())
    return found


def _pumps_faults(job: Job) -> Iterator[Fault]:
    """Yield what does not fit of two pumps that take turns."""
    levels = {level.name for level in job.levels}
    for pair in job.pumps:
        at: Key = ("pumps", pair.name)
        members = [job.starter(name) for name in pair.starters]
        for name, starter in zip(pair.starters, members, strict=True):
            if starter is None:
                there = [s.name for s in job.starters if s.kind == "pump"]
                yield Fault(
                    at=(*at, "starters"), message=f"no starter '{name}'{did_you_mean(name, there)}: name two pumps"
                )
            elif starter.kind != "pump":
                yield Fault(
                    at=(*at, "starters"), message=f'{name} is no pump: write kind = "pump" there, or name another'
                )
            elif starter.control == "controller":
                yield Fault(
                    at=(*at, "starters"), message=f"a controller runs {name}: leave control out there, or name another"
                )
            elif pumps_of(starter, job) != (pair, pair.starters.index(name) + 1):
                yield Fault(at=(*at, "starters"), message=f"{name} is in another pair already: name another pump")
        if len(set(pair.starters)) < len(pair.starters):
            yield Fault(at=(*at, "starters"), message="a pump cannot take turns with itself: name two")
        if len({starter.supply for starter in members if starter is not None}) > 1:
            yield Fault(
                at=(*at, "starters"), message="both pumps must have one control supply: write the same supply there"
            )
        if pair.level not in levels:
            yield Fault(at=(*at, "level"), message=f"no level '{pair.level}': declare [level.{pair.level}] with floats")


def module_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    """Yield what does not fit of the panel modules."""
    yield from _place_faults(job, places)
    yield from _starter_name_faults(job)
    yield from _module_supply_faults(job)
    yield from _pumps_faults(job)
    for way in job.ways:
        if way.line is not None and way.line not in job.supply.lines:
            yield Fault(at=("way", way.name, "line"), message=f"'{way.line}' is no line of this supply: leave it out")
        if way.poles > len(job.supply.lines):
            there = len(job.supply.lines)
            yield Fault(
                at=("way", way.name, "poles"), message=f"{way.poles} poles on {there} lines: give {there} or fewer"
            )
        if way.poles == 1 and not job.supply.has_neutral:
            message = "this supply has no neutral for a way of one pole: write poles = 2"
            yield Fault(at=("way", way.name, "poles"), message=message)
    for alarm in job.alarms:
        yield from _alarm_faults(alarm, job)
    for relay in job.phase_relays:
        if len(job.supply.lines) < 3:
            yield Fault(
                at=("phase_relay", relay.name), message="a phase relay watches three phases: this supply has fewer"
            )
    if job.incoming.main_contactor and job.incoming.switch == "none":
        message = 'a main contactor stands behind a main switch: write switch = "door" or "plate"'
        yield Fault(at=("incoming", "main_contactor"), message=message)


def _place_faults(job: Job, places: set[str]) -> Iterator[Fault]:
    for group in job.estops:
        for place in group.at:
            if place not in places or place == "plate":
                yield no_place(("estop", group.name, "at"), place, places - {"plate"})
    placed: list[tuple[str, str, str]] = [("surge", x.name, x.at) for x in job.surges]
    placed += [("way", x.name, x.at) for x in job.ways]
    placed += [("alarm", x.name, x.at) for x in job.alarms]
    placed += [("level", x.name, x.at) for x in job.levels]
    for table, name, place in placed:
        if place not in places:
            yield no_place((table, name, "at"), place, places)
    for table, single in (("phase_lamps", job.phase_lamps), ("pass_through", job.pass_through)):
        if single is not None and single.at not in places:
            yield no_place((table, "at"), single.at, places)
    for controller in job.controllers:
        if controller.operator_panel is not None and controller.operator_panel not in places:
            yield no_place(("controller", controller.name, "operator_panel"), controller.operator_panel, places)


def _starter_name_faults(job: Job) -> Iterator[Fault]:
    names = [s.name for s in job.starters]
    acting = [("estop", e.name, "stops", e.stops) for e in job.estops]
    acting += [("phase_relay", r.name, "acts_on", r.acts_on) for r in job.phase_relays]
    for table, name, key, given in acting:
        for starter in () if given == "all" else given:
            if starter not in names:
                hint = did_you_mean(starter, names)
                yield Fault(at=(table, name, key), message=f"no starter '{starter}'{hint}: name one that is declared")


def _module_supply_faults(job: Job) -> Iterator[Fault]:
    supplies = [control.name for control in job.controls]
    wanting: list[tuple[str, str, str | None]] = [("alarm", a.name, a.supply) for a in job.alarms]
    wanting += [("surge", s.name, s.supply) for s in job.surges if s.lamp != "none"]
    wanting += [("estop", e.name, None) for e in job.estops]
    for table, name, supply in wanting:
        if not supplies:
            instead = ' or lamp = "none"' if table == "surge" else ""
            yield Fault(at=(table, name), message=f"no control supply is declared: add [control.C1]{instead}")
        elif supply is not None and supply not in supplies:
            yield Fault(
                at=(table, name, "supply"), message=f"no control supply '{supply}' (there: {', '.join(supplies)})"
            )
    dc = [control.name for control in job.controls if control.is_dc]
    for controller in job.controllers:
        yield from _program_faults(controller)
        if not dc:
            message = 'a controller runs on 24 V DC: add [control.C2] with kind = "psu"'
            yield Fault(at=("controller", controller.name), message=message)
        elif controller.supply is not None and controller.supply not in dc:
            message = f"'{controller.supply}' is no DC supply (there: {', '.join(dc)})"
            yield Fault(at=("controller", controller.name, "supply"), message=message)


def _program_faults(controller: Controller) -> Iterator[Fault]:
    """Yield what a controller's program says that it cannot do."""
    at: Key = ("controller", controller.name, "program")
    try:
        equations = read_program(controller.program)
    except ProgramError as error:
        yield Fault(at=at, message=str(error))
        return
    targets = {equation.target for equation in equations}
    for name in sorted(targets):
        if re.fullmatch(r"(I|AI)\d+", name):
            yield Fault(at=at, message=f"{name} is an input: an equation is for an output (Q1, AO1) or a flag")
    for name in sorted(names_in(equations) - targets):
        if not re.fullmatch(r"(I|AI|Q)\d+", name):
            yield Fault(at=at, message=f"nothing says what {name} is: give it an equation, or read an input (I1, AI1)")


def _alarm_faults(alarm: Alarm, job: Job) -> Iterator[Fault]:
    for text in alarm.from_refs:
        yield from _element_faults(text, job, ("alarm", alarm.name, "from"))
