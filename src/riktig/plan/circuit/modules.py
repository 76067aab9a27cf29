"""Owns the expansion of panel modules: distribution, alarm, excepted circuits, controllers, surge, phases.

Must not know starters; the emergency stop has a module of its own.
"""

from riktig.job.model import Job
from riktig.job.modules import Alarm, Controller, Excepted, PhaseRelay, Pumps, Surge, Way
from riktig.job.roles import RELAY_CONTACTS, excepted_volts, needs_transformer, phase_repeats, pumps_roles, relay_roles
from riktig.plan.circuit.incoming import ahead_of_contactor, ahead_of_fuse, protection_of_control
from riktig.plan.circuit.model import DOOR, PASS_THROUGH, PLATE
from riktig.plan.circuit.sketch import IN_ENCLOSURE, Sketch, parallel, series
from riktig.plan.circuit.starter_control import controller_supply, with_contact
from riktig.standards import iec_60364_5

SOCKET_AMPS = {"iec": 16.0, "ul": 15.0}


def expand_modules(sketch: Sketch) -> None:
    """Add everything of the panel modules, in the order of the Job's tables."""
    job = sketch.job
    _expand_phase_lamps(sketch)
    for relay in job.phase_relays:
        _expand_phase_relay(relay, sketch)
    for surge in job.surges:
        _expand_surge(surge, sketch)
    for way, line in zip(job.ways, lines_of_ways(job), strict=True):
        _expand_way(way, line, sketch)
    _expand_pass_through(sketch)
    for alarm in job.alarms:
        _expand_alarm(alarm, sketch)
    for controller in job.controllers:
        _expand_controller(controller, sketch)
    for level in job.levels:
        for role in level.floats:
            settings = {"level_m": level.floats[role]}
            title = f"{role.capitalize()} float, {level.title or level.name}"
            sketch.add(level.name, role, "float", title, at=level.at, settings=settings)
    for pair in job.pumps:
        _expand_pumps(pair, sketch)
    for circuit in job.excepted:
        _expand_excepted(circuit, sketch)


def _expand_phase_lamps(sketch: Sketch) -> None:
    """Each lamp to neutral has protection of its own; line to line, where there is no neutral, one device opens all lines: common
    practice.
    """
    lamps, supply = sketch.job.phase_lamps, sketch.job.supply
    if lamps is None:
        return
    owner, lines = "phase_lamps", supply.lines
    begins = [ahead_of_contactor(line, sketch.job) for line in lines]
    if not supply.has_neutral:
        nodes = [f"@phase_{line}" for line in lines]
        sketch.add(owner, "F1", "breaker", "Protection, phase lamps", poles=len(lines))
        sketch.feed(
            f"{owner}/fuse", "Phase lamps", series(" ".join(begins), f"{owner}.F1", " ".join(nodes)), owner=owner
        )
    for n, line in enumerate(lines, start=1):
        sketch.add(owner, f"P{n}", "lamp", f"Phase {line}", at=lamps.at, colour=lamps.colour)
        if supply.has_neutral:
            sketch.add(owner, f"F{n}", "breaker", f"Protection, phase lamp {line}", poles=1)
            text = series(begins[n - 1], f"{owner}.F{n}", f"{owner}.P{n}:lamp", "N")
        else:
            text = series(nodes[n - 1], f"{owner}.P{n}:lamp", nodes[n % len(lines)])
        sketch.feed(f"{owner}/{line}", "Phase lamps", text, owner=owner)


def _expand_phase_relay(relay: PhaseRelay, sketch: Sketch) -> None:
    """Add the relay behind its protection; its contact 15-18 is closed only while all three phases are right."""
    name, job = relay.name, sketch.job
    sketch.add(name, "Q", "breaker", f"Protection, phase relay {name}", poles=3)
    sketch.add(name, "", "phase-relay", "Phase-monitoring relay")
    lines = " ".join(ahead_of_contactor(line, job) for line in job.supply.lines)
    sketch.feed(f"{name}/measure", f"{name} phase monitoring", series(lines, f"{name}.Q", name), owner=name)
    repeats = relay_roles("K", phase_repeats(name, job), RELAY_CONTACTS)
    for role in repeats:
        sketch.add(name, role, "relay", "Phases healthy")
    if repeats:
        supply = next(s.supply for s in job.starters)
        coils = parallel(*(f"{name}.{role}:coil" for role in repeats))
        sketch.rung(f"{name}/repeat", f"{name} phases healthy", series(f"{supply}+", f"{name}:15-18", coils, f"{supply}-"),
                    owner=name)  # fmt: skip


def _expand_surge(surge: Surge, sketch: Sketch) -> None:
    """Add the arrester behind protection of its own, with an earth terminal on the rail beside it; its status contact changes over
    when it is spent.
    """
    name, supply = surge.name, sketch.job.supply
    sketch.add(name, "Q", "breaker", f"Protection, surge arrester {name}", poles=len(supply.lines),
               least={"amps": 32.0})  # fmt: skip
    sketch.add(name, "", "surge", f"Surge arrester type {surge.type}", poles=len(supply.conductors),
               wants={"system": supply.system}, least={"type": float(surge.type)})  # fmt: skip
    sketch.add(name, "PE", "earth-terminal", f"Earth terminal, surge arrester {name}",
               least={"mm2": iec_60364_5.arrester_earth_mm2(1)})  # fmt: skip
    lines = " ".join(supply.lines)
    if supply.has_neutral:
        nodes = " ".join(f"@{name}_{line}" for line in supply.lines)
        sketch.feed(f"{name}/protection", f"{name} surge arrester", series(lines, f"{name}.Q", nodes), owner=name)
        sketch.feed(f"{name}/arrester", f"{name} surge arrester", series(f"{nodes} N", name), owner=name)
    else:
        sketch.feed(f"{name}/arrester", f"{name} surge arrester", series(lines, f"{name}.Q", name), owner=name)
    if surge.lamp != "none":
        control = surge.supply or sketch.job.controls[0].name
        spent = surge.lamp == "spent"
        title = "Surge arrester spent" if spent else "Surge arrester healthy"
        sketch.add(name, "H", "lamp", title, at=surge.at, colour="red" if spent else "green")
        contact = f"{name}:11-14" if spent else f"{name}:11-12"
        sketch.rung(
            f"{name}/status", title, series(f"{control}+", contact, f"{name}.H:lamp", f"{control}-"), owner=name
        )


def lines_of_ways(job: Job) -> list[tuple[str, ...]]:
    """Return the lines of each outgoing way: as given, else those that carry least so far, for balance."""
    carried = dict.fromkeys(job.supply.lines, 0.0)
    grounded = job.supply.grounded_line
    found = []
    for way in job.ways:
        lightest = sorted(carried, key=lambda line: (line == grounded, carried[line], line))
        chosen = (way.line,) if way.line is not None and way.poles == 1 else tuple(sorted(lightest[: way.poles]))
        for line in chosen:
            carried[line] += way.amps
        found.append(chosen)
    return found


def _expand_way(way: Way, lines: tuple[str, ...], sketch: Sketch) -> None:
    """Breaker, outgoing terminals, and a neutral terminal of its own: common practice."""
    name, title, has_n = way.name, way.title or way.name, sketch.job.supply.has_neutral
    sketch.add(name, "F", "breaker", f"Protection, {title}", poles=way.poles, least={"amps": way.amps})
    neutral = ["N"] if has_n and way.poles != 2 else []
    if way.rcd:
        sketch.add(name, "R", "rcd", f"Residual current device, {title}", poles=2 if way.poles < 3 else 4,
                   least={"amps": way.amps})  # fmt: skip
    sketch.add(name, "E", "load", title, at=way.at, poles=len(lines) + len(neutral))
    behind = [f"@{name}_{line}" for line in lines]
    sketch.feed(f"{name}/way", f"{name} {title}", series(" ".join(lines), f"{name}.F", " ".join(behind)), owner=name)
    rest = series(f"{name}.R" if way.rcd else "", f"{name}.E")
    sketch.feed(f"{name}/load", f"{name} {title}", series(" ".join([*behind, *neutral]), rest), owner=name)


def _expand_pass_through(sketch: Sketch) -> None:
    """Carry the incoming conductors straight on to the next panel, ahead of the main switch."""
    onward, supply = sketch.job.pass_through, sketch.job.supply
    if onward is not None:
        owner = PASS_THROUGH
        sketch.add(owner, "E", "load", onward.title, at=onward.at, poles=len(supply.conductors))
        ahead = " ".join(f"in.{c}" for c in supply.conductors)
        sketch.feed(f"{owner}/next", onward.title, series(ahead, f"{owner}.E"), owner=owner, is_excepted=True)


def _expand_alarm(alarm: Alarm, sketch: Sketch) -> None:
    """Beacon at once, horn until silenced; silence latches and falls with the alarm; its fuse lies ahead of that of the control supply,
    so that what trips there still alarms: common practice.
    """
    name, title = alarm.name, alarm.title
    supply = alarm.supply or sketch.job.controls[0].name
    minus = f"{supply}-"
    control = next(c for c in sketch.job.controls if c.name == supply)
    begin = ahead_of_fuse(control, sketch.job) or f"{supply}+"
    sketch.add(name, "F", protection_of_control(control, sketch.job), f"Protection, {title}", poles=1)
    sketch.add(name, "P", "beacon", title, at=alarm.at, colour="red")
    sketch.add(name, "H", "horn", title, at=alarm.at)
    positions = ("silence", "test") if alarm.test else ("silence",)
    sketch.add(name, "S", "selector", "Silence - off - test" if alarm.test else "Silence", at=_operator_place(alarm.at),
               positions=positions, wants={"return": "spring"})  # fmt: skip
    sketch.add(name, "K", "relay", f"Silenced, {title}")
    live, raised = f"@{name}_live", f"@{name}_alarm"
    sources = [with_contact(text) for text in alarm.from_refs]
    raise_by = parallel(*sources, f"{name}.S:test" if alarm.test else "")
    rungs = (
        ("beacon", series(begin, f"{name}.F:1-2", live, raise_by, raised, f"{name}.P:lamp", minus)),
        ("horn", series(raised, f"{name}.K:nc", f"{name}.H", minus)),
        ("silence", series(raised, parallel(f"{name}.S:silence", f"{name}.K:no"), f"{name}.K:coil", minus)),
    )
    for part, text in rungs:
        sketch.rung(f"{name}/{part}", f"{name} {title}", text, owner=name)


def _operator_place(place: str) -> str:
    return DOOR if place == PLATE else place


def _expand_controller(controller: Controller, sketch: Sketch) -> None:
    """Add the controller and what belongs to it, on its DC supply."""
    name, supply = controller.name, controller_supply(controller.supply, sketch)
    title = controller.title or "Controller"
    least = {
        "inputs": float(controller.inputs), "outputs": float(controller.outputs),
        "ain": float(controller.analogue_in), "aout": float(controller.analogue_out),
    }  # fmt: skip
    sketch.add(name, "", "plc", title, least=least)
    rows = [("supply", f"{name}:P-M")]
    if controller.network_switch:
        sketch.add(name, "N", "network", f"Network switch, {title}")
        rows.append(("network", f"{name}.N:P-M"))
    if controller.operator_panel is not None:
        sketch.add(name, "HMI", "hmi", f"Operator panel, {title}", at=controller.operator_panel)
        rows.append(("panel", f"{name}.HMI:P-M"))
    for part, element in rows:
        sketch.rung(f"{name}/{part}", f"{name} {title}", series(f"{supply}+", element, f"{supply}-"), owner=name)


_PUMP_RELAYS = {
    "KD": "Demand of the first pump", "KA": "Alternating relay, changes over each time the demand ends", "KL": "Demand of both pumps",
    "K1": "Order to pump 1", "K2": "Order to pump 2", "KT1": "Pump 1 has tripped", "KT2": "Pump 2 has tripped",
}  # fmt: skip


def _expand_pumps(pair: Pumps, sketch: Sketch) -> None:
    """Let two pumps take turns: the demand orders the one whose turn it is, and the other one where that has tripped; the lag float
    orders both. The turn changes when the demand ends, so that no order ever moves from a running pump to the other.

    Source:
        Common practice, no source.
    """
    name, level, job = pair.name, pair.level, sketch.job
    roles = pumps_roles(pair, job)
    for role in roles:
        wants = {"action": "alternating"} if role == "KA" else {}
        sketch.add(name, role, "relay", f"{_PUMP_RELAYS[role]}, {pair.title}", wants=wants)
    supply = next(starter.supply for starter in job.starters if starter.name == pair.starters[0])
    plus, minus, wet = f"{supply}+", f"{supply}-", f"@{name}_wet"

    def rung(part: str, *items: str) -> None:
        sketch.rung(f"{name}/{part}", f"{pair.title} {part}", series(*items), owner=name)

    rung("level", plus, f"{level}.stop:no", wet)
    rung("demand", wet, parallel(f"{level}.start:no", f"{name}.KD:no"), f"{name}.KD:coil", minus)
    rung("turn", plus, f"{name}.KD:no", f"{name}.KA:coil", minus)
    has_lag = "KL" in roles
    if has_lag:
        rung("lag", wet, parallel(f"{level}.lag:no", f"{name}.KL:no"), f"{name}.KL:coil", minus)
    for own, other, turn in ((1, 2, "nc"), (2, 1, "no")):
        first = series(f"{name}.KD:no", parallel(f"{name}.KA:{turn}", f"{name}.KT{other}:no"))
        orders = parallel(first, f"{name}.KL:no" if has_lag else "")
        rung(f"pump {own}", plus, orders, f"{name}.K{own}:coil", minus)


def _expand_excepted(circuit: Excepted, sketch: Sketch) -> None:
    """Branch off before the main switch behind a breaker that opens all its conductors: its isolator and protection in one, common
    practice.
    """
    if circuit.load == "from-elsewhere":
        _expand_from_elsewhere(circuit, sketch)
        return
    name, job = circuit.name, sketch.job
    title = circuit.title or f"Panel {circuit.load}"
    limit = SOCKET_AMPS[job.practice.standard.value]
    amps = circuit.amps or (limit if circuit.load == "socket" else 6.0)
    least = {"amps": min(amps, limit) if circuit.load == "socket" else amps}
    live, home = _excepted_source(circuit, sketch, title, least)
    kind = {"memory": "psu"}.get(circuit.load, circuit.load)
    sketch.add(name, "E", kind, title, at=DOOR if kind == "fan" else PLATE)
    _draw_excepted_load(circuit, sketch, title, live, home)


def _excepted_source(circuit: Excepted, sketch: Sketch, title: str, least: dict[str, float]) -> tuple[str, str]:
    """Add what feeds an excepted load and return the potentials ahead of it, live and return."""
    name, job = circuit.name, sketch.job
    two_lines = not job.supply.has_neutral or (needs_transformer(circuit, job) and len(job.supply.lines) > 1)
    lines = job.supply.live_pair if two_lines else (job.supply.lines[0], "N")
    ahead = " ".join(f"in.{line}" for line in lines)
    live, home = f"@{name}_1", f"@{name}_2"

    def feed(part: str, *items: str) -> None:
        sketch.feed(f"{name}/{part}", f"{name} {title}", series(*items), owner=name, is_excepted=True)

    if not needs_transformer(circuit, job):
        sketch.add(name, "F", "breaker", f"Isolator and protection, {title}", poles=2, least=least)
        feed("isolator", ahead, f"{name}.F", f"{live} {home}")
        return live, home
    volts = excepted_volts(circuit, job)
    is_stated = circuit.load == "socket" or circuit.amps is not None
    va = least["amps"] * volts if is_stated else 250.0
    sketch.add(name, "FP", "breaker", f"Isolator and primary protection, {title}", poles=2)
    sketch.add(name, "T", "transformer", f"Transformer, {title}", least={"va": va})
    sketch.add(name, "F", "breaker", f"Protection, {title}", poles=1, least=least if is_stated else {})
    sketch.add(name, "B", "link", f"Removable earth link, {title}")
    feed("primary", ahead, f"{name}.FP", f"{name}.T")
    feed("secondary", home, f"{name}.T:X2-X1", f"{name}.F:1-2", live)
    feed("bond", home, f"{name}.B", "PE")
    return live, home


def _draw_excepted_load(circuit: Excepted, sketch: Sketch, title: str, live: str, home: str) -> None:
    name = circuit.name

    def feed(part: str, *items: str) -> None:
        sketch.feed(f"{name}/{part}", f"{name} {title}", series(*items), owner=name, is_excepted=True)

    switch = ""
    if circuit.load == "light" and circuit.door_switch:
        sketch.add(name, "S", "limit-switch", "Door switch of the light", at=PLATE, wants=IN_ENCLOSURE)
        switch = f"{name}.S:nc"
    elif circuit.load in {"heater", "fan"}:
        sketch.add(name, "BT", "thermostat", f"Thermostat, {title}", at=PLATE, wants=IN_ENCLOSURE)
        switch = f"{name}.BT:{'nc' if circuit.load == 'heater' else 'no'}"
    if circuit.load == "socket":
        sketch.add(name, "R", "rcd", f"Residual current device, {title}", poles=2)
        feed("socket", f"{live} {home}", f"{name}.R", f"{name}.E")
    elif circuit.load == "memory":
        feed("load", live, f"{name}.E:L-N", home)
        feed("output", f"@{name}_minus", f"{name}.E:M24-P24", f"@{name}_plus")
    else:
        feed("load", live, switch, f"{name}.E:L-N", home)


def _expand_from_elsewhere(circuit: Excepted, sketch: Sketch) -> None:
    """Bring in a circuit of another panel; named potentials NAME_1 and NAME_2 are there for a person's own rungs."""
    name, title = circuit.name, circuit.title or f"From {circuit.source}"
    sketch.add(name, "G", "source", f"{title}, isolated in {circuit.source}", at="field")
    sketch.add(name, "F", "breaker", f"Protection, {title}", poles=1, least={"amps": circuit.amps or 6.0})
    text = series(f"@{name}_in2", f"{name}.G:2-1", f"@{name}_in1")
    sketch.feed(f"{name}/source", title, text, owner=name, is_excepted=True)
    middle = f"@{name}_in1 @{name}_in2"
    if circuit.isolated == "here":
        sketch.add(name, "Q", "disconnect", f"Isolator, {title}", poles=2)
        sketch.feed(
            f"{name}/isolator", title, series(middle, f"{name}.Q", f"@{name}_0 @{name}_2"), owner=name, is_excepted=True
        )
        begin = f"@{name}_0"
    else:
        begin = f"@{name}_in1"
    sketch.feed(f"{name}/protection", title, series(begin, f"{name}.F:1-2", f"@{name}_1"), owner=name, is_excepted=True)
