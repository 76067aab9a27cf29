"""Owns what a rule has looked at on a job, in words with figures: the evidence of one that passes. Must not judge anything."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from math import inf

from riktig.checks.isolation import disconnects_of
from riktig.checks.marking import CABLE_VOLTS, WIRE_VOLTS
from riktig.job.stated import Colours
from riktig.plan.answers.contact_loads import signal_contacts
from riktig.plan.answers.nameplate import nameplate_fields
from riktig.plan.basis.sized import SizedValue
from riktig.plan.plan import Plan
from riktig.plan.wiring.duct_fill import FILL_LIMIT
from riktig.plan.wiring.taps import LONGEST_TAP_MM, taps
from riktig.standards.colours import ConductorFunction
from riktig.units.numbers import format_number

_COILED = frozenset({"contactor", "relay", "timer"})
_OPERATED = frozenset({"pushbutton", "selector", "emergency-stop"})


def _kinds(*kinds: str) -> Callable[[Plan], int]:
    return lambda plan: sum(device.kind in kinds for device in plan.circuit.devices)


def _earths(plan: Plan) -> int:
    earth = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    return sum(wire.number in earth for wire in plan.conductors)


def _wires(plan: Plan) -> int:
    return sum(wire.is_wired for wire in plan.conductors)


_COUNTED: dict[str, tuple[str, str, Callable[[Plan], int]]] = {
    "earths": ("protective conductor", "protective conductors", _earths),
    "bonds": ("bond", "bonds", _kinds("link")),
    "arresters": ("surge arrester", "surge arresters", _kinds("surge")),
    "devices": ("device", "devices", lambda plan: len(plan.circuit.devices)),
    "switches": ("switch that isolates", "switches that isolate", lambda plan: len(disconnects_of(plan))),
    "ways": ("way in", "ways in", lambda plan: 1 + len(plan.job.extra_supplies)),
    "circuits": ("power circuit", "power circuits", lambda plan: len(plan.power_circuits)),
    "guards": ("protective device", "protective devices", _kinds("breaker", "fuse", "motor-breaker", "rcd")),
    "conductors": ("wire", "wires", _wires),
    "clamps": ("terminal", "terminals", lambda plan: len(plan.potential_at)),
    "potentials": ("potential", "potentials", lambda plan: len(plan.potentials)),
    "paths": ("path", "paths", lambda plan: len(plan.circuit.paths)),
    "motors": ("motor", "motors", _kinds("motor")),
    "overloads": ("overload relay", "overload relays", _kinds("overload", "motor-breaker")),
    "drives": ("drive or soft starter", "drives and soft starters", _kinds("drive", "soft-starter")),
    "contactors": ("contactor", "contactors", _kinds("contactor")),
    "coils": ("coil", "coils", _kinds(*_COILED)),
    "controls": ("control supply", "control supplies", lambda plan: len(plan.job.controls)),
    "inputs": ("contact that feeds an input", "contacts that feed inputs", lambda plan: sum(1 for _ in signal_contacts(plan))),
    "contacts": ("contact", "contacts", lambda plan: len(plan.contacts)),
    "stops": ("emergency stop", "emergency stops", _kinds("emergency-stop")),
    "alarms": ("lamp, beacon and horn", "lamps, beacons and horns", _kinds("lamp", "beacon", "horn")),
    "sockets": ("socket", "sockets", _kinds("socket")),
    "loops": ("circuit to its far end", "circuits to their far ends", lambda plan: len(plan.loops)),
    "cables": ("cable", "cables", lambda plan: len(plan.cables)),
    "bars": ("bar and block", "bars and blocks", lambda plan: sum("clamps" in part.ratings for part in plan.parts.values())),
    "ducts": ("duct", "ducts", lambda plan: len(plan.plate.ducts)),
    "plate": ("part of the plate", "parts of the plate", lambda plan: len(plan.plate.boxes)),
    "cut-outs": ("cut-out of the door", "cut-outs of the door", lambda plan: len(plan.door.cutouts)),
    "operators": ("control", "controls", _kinds(*_OPERATED)),
    "entries": ("entry", "entries", lambda plan: len(plan.entries)),
    "walls": ("cut-out of side walls", "cut-outs of side walls", lambda plan: sum(len(wall.cutouts) for wall in plan.walls)),
    "stations": ("station", "stations", lambda plan: len(plan.stations)),
    "pieces": ("piece of rail and duct", "pieces of rail and duct", lambda plan: len(plan.cuts)),
    "values": ("computed value", "computed values", lambda plan: len(plan.sizing)),
    "waivers": ("waiver", "waivers", lambda plan: len(plan.job.waivers)),
}  # fmt: skip
"""What is counted: one of it in words, several, and how many there are."""


def _handle(plan: Plan) -> str:
    return f'switch = "{plan.job.incoming.switch}", handle = "{plan.job.incoming.handle}"'


def _inside_handle(plan: Plan) -> str:
    return f'switch = "{plan.job.incoming.switch}", inside_handle = {str(plan.job.incoming.inside_handle).lower()}'


def _lock(plan: Plan) -> str:
    return f'switch = "{plan.job.incoming.switch}", lock = "{plan.job.enclosure.lock}"'


def _neutral(plan: Plan) -> str:
    return f"single-phase loads draw {format_number(plan.panel.load.neutral)} A through it"


def _passed_on(plan: Plan) -> str:
    return f"{plan.job.pass_through.section_mm2:g} mm²" if plan.job.pass_through is not None else ""


def _short_circuit(plan: Plan) -> str:
    rating = plan.panel.short_circuit
    links = sum(len(branch.links) for branch in rating.branches)
    first, *others = (plan.tags.get(device, device) for device in rating.limited_by or ("none",))
    weakest = f"{first} and {len(others)} more" if others else first
    there = f"{rating.rating_ka:g} kA for {plan.job.supply.available_ka:g} kA"
    return f"{links} power components on {len(rating.branches)} ways, the weakest {weakest}: {there}"


def _supply(plan: Plan) -> str:
    supply = plan.job.supply
    return f"{supply.system}, {supply.earthing}, {supply.volts:g} V, {supply.available_ka:g} kA"


def _control_volts(plan: Plan) -> str:
    return ", ".join(f"{one.name} {one.kind}" + (f" {one.volts:g} V" if one.volts else "") for one in plan.job.controls)


def _degree(plan: Plan) -> str:
    return f"{plan.job.enclosure.rating}, {'outdoors' if plan.job.enclosure.outdoors else 'indoors'}"


def _heat(plan: Plan) -> str:
    heat, box = plan.panel.heat, plan.job.enclosure
    return f"{plan.panel.heat_w:.0f} W, {heat.inside_c:.1f} °C inside at {box.ambient:g} °C around, {box.inside_max:g} °C at most"


def _rise(plan: Plan) -> str:
    heat, box = plan.panel.heat, plan.job.enclosure
    return f"{heat.inside_c - box.ambient:.1f} K computed, {box.inside_rise:g} K declared"


def _cold(plan: Plan) -> str:
    return f"{plan.job.enclosure.ambient_min:g} °C around, {plan.panel.heat.needed_heater_w:.0f} W of heater needed"


def _fill(plan: Plan) -> str:
    code, most = max(plan.fill_percent.items(), key=lambda pair: pair[1], default=("", 0.0))
    return f"the fullest is {code} with {most:.0f} of {100 * FILL_LIMIT:.0f} %" if code else "no duct"


def _insulation(plan: Plan) -> str:
    job = plan.job
    highest = max(way.line_to_line for way in (job.supply, *job.extra_supplies))
    wire = job.practice.wire_volts or WIRE_VOLTS[job.practice.standard]
    return (
        f"{highest:g} V at most, wires for {wire:g} V, cables for {CABLE_VOLTS[job.practice.standard]:g} V or as stated"
    )


def _colours(plan: Plan) -> str:
    own = {name: value for name, value in plan.job.colours if value != getattr(Colours(), name)}
    return ", ".join(f"{name.replace('_', ' ')} {value}" for name, value in own.items()) or "those of the standard"


def _loop_margin(plan: Plan) -> str:
    kept = [loop for loop in plan.loops if loop.residual_a is None and not loop.is_tt and loop.trips_a]
    if not kept:
        return "each behind a residual-current device"
    least = min(kept, key=lambda loop: loop.fault_a / loop.trips_a)
    return f"least at {plan.tags[least.load]}: {format_number(least.fault_a)} A flow, {format_number(least.trips_a)} A open it"


def _heating_margin(plan: Plan) -> str:
    loops = [loop for loop in plan.loops if loop.stands_a2s]
    if not loops:
        return ""
    least = max(loops, key=lambda loop: max(loop.let_a2s) / loop.stands_a2s)
    return f"most at {plan.tags[least.load]}: {max(least.let_a2s):.0f} of {least.stands_a2s:.0f} A²s"


def _taps(plan: Plan) -> str:
    found = [wire.laid_mm for wire in taps(plan.conductors, plan.potentials, plan.sections)]
    return f"{len(found)} taps, the longest {max(found):.0f} of {LONGEST_TAP_MM:g} mm" if found else "no tap"


def _leakage(plan: Plan) -> str:
    leaks = [
        (plan.tags[d.id], plan.parts[d.id].rating("leakage_ma")) for d in plan.circuit.devices if d.kind == "drive"
    ]
    return ", ".join(f"{tag} {most:g} mA" for tag, most in leaks if most)


def _trip_class(plan: Plan) -> str:
    return ", ".join(f"{plan.tags.get(s.name, s.name)} starts in {s.start_seconds:g} s" for s in plan.job.starters[:6])


def _nameplate(plan: Plan) -> str:
    return ", ".join(field.heading.lower() for field in nameplate_fields(plan) if field.text)


_FACTS: dict[str, Callable[[Plan], str]] = {
    "handle-colour": _handle, "inside-handle": _inside_handle, "door-lock": _lock, "neutral-cut": _supply, "neutral": _neutral,
    "passed-on": _passed_on, "short-circuit-rating": _short_circuit, "short-circuit-proof": _short_circuit, "fault-assumed": _supply,
    "slash-rating": _supply, "earth-electrode": _supply, "disconnection-it": _supply, "grounded-line": _supply,
    "control-voltage": _control_volts, "control-transformer": _control_volts, "enclosure-degree": _degree, "condensation": _degree,
    "inside-temperature": _heat, "declared-rise": _rise, "cold-enclosure": _cold, "duct-fill": _fill, "insulation": _insulation,
    "colours": _colours, "disconnection": _loop_margin, "fault-heating": _heating_margin, "long-tap": _taps, "earth-current": _leakage,
    "trip-class": _trip_class, "nameplate": _nameplate,
}  # fmt: skip
"""Rules whose evidence is more than a number of things."""


def look_words(plan: Plan, rule: str, things: Sequence[str], quantities: Iterable[str]) -> str:
    """Return what a rule has looked at: how many of which things, which fact, and of sizes the one nearest to its limit.

    Args:
        plan: what it was asked of.
        rule: its id.
        things: names of what it counts (`_COUNTED`).
        quantities: quantities of sized values that it holds against their limits.
    """
    words = [_count_words(plan, thing) for thing in things]
    if rule in _FACTS:
        words.append(_FACTS[rule](plan))
    words.extend(_closest(plan, frozenset(quantities)))
    return "; ".join(word for word in words if word)


def is_anything_there(plan: Plan, things: Sequence[str]) -> bool:
    """Return whether there is any of the things that a rule counts; so it is where it counts none."""
    return not things or any(_COUNTED[thing][2](plan) for thing in things)


def _count_words(plan: Plan, thing: str) -> str:
    one, several, count_of = _COUNTED[thing]
    count = count_of(plan)
    return f"1 {one}" if count == 1 else f"{count} {several}"


def _closest(plan: Plan, quantities: frozenset[str]) -> Iterator[str]:
    """Yield of sized values the one with the least margin to its limit."""
    limited = [value for value in plan.sizing if value.quantity in quantities and value.margin_percent is not None]
    if limited:
        least = min(limited, key=lambda value: value.margin_percent if value.margin_percent is not None else inf)
        yield f"the nearest to its limit is the {least.name} of {plan.tags.get(least.subject, least.subject)}: {_limit_words(least)}"


def _limit_words(value: SizedValue) -> str:
    if value.carries is not None and value.needed:
        return f"{value.text} carries {format_number(value.carries)} A for {format_number(value.needed)} A"
    if value.needed:
        return f"{value.text}, {format_number(value.needed)} {value.unit.replace('mm2', 'mm²')} asked"
    return f"{value.text}, {format_number(value.most or 0.0)} {value.unit} at most"
