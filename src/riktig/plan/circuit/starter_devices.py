"""Owns the operators, relays, lamps and sensors of a starter. Must not know paths."""

from riktig.job.model import Starter
from riktig.job.names import selector_positions
from riktig.job.roles import roles_of
from riktig.plan.circuit.sketch import Sketch

_LAMPS = {
    "H": ("Running", "green"),
    "HR": ("Running in reverse", "green"),
    "HT": ("Tripped", "amber"),
    "HB": ("Ready", "white"),
}
_BUTTONS = {"S0": ("Stop", "red"), "S1": ("Start", "green"), "S2": ("Reverse", "green")}
_RELAYS = {
    "X": ("relay", "Control on"),
    "KA": ("relay", "Run relay"),
    "KC": ("relay", "Run command"),
    "KCR": ("relay", "Reverse command"),
    "R": ("thermistor-relay", "Thermistor relay"),
}
_FLOATS = {"B0": "Stop float", "B1": "Start float"}


_HELD = {"S1": "white", "S2": "black"}
"""Colours of buttons that are held: white, grey or black, IEC 60204-1:2016 10.2.1, from memory."""


def _button(starter: Starter, stem: str) -> tuple[str, str]:
    """Return legend and colour of a button."""
    words, colour = _BUTTONS[stem]
    if starter.kind == "reversing" and stem in {"S1", "S2"}:
        words = starter.ways[stem == "S2"].capitalize()
    return words, _HELD.get(stem, colour) if starter.hold_to_run else colour


def _lamp(starter: Starter, role: str) -> tuple[str, str]:
    """Return legend and colour of a lamp; those of two ways that have names of their own carry these."""
    words, colour = _LAMPS[role]
    if role in {"H", "HR"} and starter.kind == "reversing" and (starter.legends or starter.hold_to_run):
        words = starter.ways[role == "HR"].capitalize()
    return words, colour


def add_control_devices(starter: Starter, sketch: Sketch) -> None:
    """Add every part of a starter's control circuit; operators and lamps stand at its first station."""
    name, what = starter.name, starter.title or starter.name
    station = starter.buttons_at[0]
    for role in roles_of(starter, sketch.job):
        stem, _, number = role.partition("_")
        place = starter.buttons_at[int(number) - 1] if number and stem in _BUTTONS else station
        if stem in _BUTTONS:
            words, colour = _button(starter, stem)
            sketch.add(name, role, "pushbutton", f"{words}, {what}", at=place, colour=colour)
        elif stem == "SE":
            at = (starter.estop_at or ("door",))[int(number or 1) - 1]
            sketch.add(name, role, "emergency-stop", f"Emergency stop, {what}", at=at, colour="red")
        elif role in _LAMPS:
            words, colour = _lamp(starter, role)
            sketch.add(name, role, "lamp", f"{words}, {what}", at=station, colour=colour)
        elif role in _RELAYS:
            kind, words = _RELAYS[role]
            sketch.add(name, role, kind, f"{words}, {what}")
        elif role in _FLOATS:
            sketch.add(name, role, "float", f"{_FLOATS[role]}, {what}", at=starter.motor_at)
        else:
            _add_single(starter, role, sketch, what)


def _add_single(starter: Starter, role: str, sketch: Sketch, what: str) -> None:
    name, station = starter.name, starter.buttons_at[0]
    if role == "SL":
        positions = selector_positions(starter.kind, starter.has_hand)
        words = (
            "Hand - off - auto" if starter.has_hand else "Forward - off - reverse" if len(positions) > 1 else "Off - on"
        )
        wants = {"lock": "key"} if starter.key else {}
        sketch.add(name, role, "selector", f"{words}, {what}", at=station, positions=positions, wants=wants)
    elif role == "SX":
        sketch.add(name, role, "pushbutton", f"Control on, {what}", at=station, colour="blue")
    elif role == "T":
        settings = {"seconds": starter.star_seconds}
        wants = {"function": "on-delay"}
        sketch.add(name, role, "timer", f"Star time, {what}", wants=wants, settings=settings)
    elif role == "RP":
        sketch.add(name, role, "potentiometer", f"Speed, {what}", at=station)
    elif role == "P":
        sketch.add(name, role, "meter", f"Hours, {what}", at=station)
