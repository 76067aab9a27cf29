"""Random circuits for property tests: rungs with groups, over devices on plate, door and two stations."""

from hypothesis import strategies as st

from support import HEAD

_PLACES = {"K": "plate", "S": "door", "A": "st1", "B": "st2"}
_KINDS = {"K": "relay", "S": "pushbutton", "A": "pushbutton", "B": "pushbutton"}
_ITEM = st.tuples(st.sampled_from("KSAB"), st.integers(1, 3), st.sampled_from(["no", "nc"]))


def _element(item: tuple[str, int, str]) -> str:
    return f"{item[0]}{item[1]}:{item[2]}"


@st.composite
def _branch(draw: st.DrawFn, depth: int = 2) -> str:
    parts = []
    for _ in range(draw(st.integers(1, 3))):
        if depth and draw(st.integers(0, 3)) == 0:
            branches = draw(st.lists(_branch(depth=depth - 1), min_size=2, max_size=3))
            parts.append(f"({' | '.join(branches)})")
        else:
            parts.append(_element(draw(_ITEM)))
    if len(parts) > 1 and draw(st.integers(0, 3)) == 0:
        parts.insert(draw(st.integers(1, len(parts) - 1)), f"@point{draw(st.integers(1, 2))}")
    return " > ".join(parts)


@st.composite
def briefs(draw: st.DrawFn) -> str:
    """Return a brief of one to four random rungs with named points, each with a coil or lamp of its own."""
    count = draw(st.integers(1, 4))
    paths, devices = [], {}
    for n in range(1, count + 1):
        body = draw(_branch())
        named = ["@node", *(f"@point{k}" for k in (1, 2) if any(f"@point{k}" in path for path in paths))]
        start = "C1+" if n == 1 or draw(st.booleans()) else draw(st.sampled_from(named))
        middle = "@node > " if n == 1 else ""
        first = "S9:nc > " if n == 1 else ""
        load = draw(st.sampled_from([f"C{n + 4}:coil", f"P{n}"]))
        paths.append(f"{start} > {first}{middle}{body} > {load} > C1-")
        devices[f"C{n + 4}" if "coil" in load else f"P{n}"] = ("relay" if "coil" in load else "lamp", None)
    devices["S9"] = ("pushbutton", "door")
    for letter in "KSAB":
        for n in range(1, 4):
            if any(f"{letter}{n}:" in path for path in paths):
                devices[f"{letter}{n}"] = (_KINDS[letter], _PLACES[letter])
    text = HEAD
    for name, (kind, place) in devices.items():
        text += f'[device.{name}]\nkind = "{kind}"\n' + (f'at = "{place}"\n' if place else "")
    return text + "".join(f'[[rung]]\npath = "{path}"\n' for path in paths)


POWER = {"dol": 4, "reversing": 4, "star-delta": 11, "drive": 4, "soft": 11, "pump": 1.5}
"""A power in kW that each kind of starter is usual for."""
PANEL = """brief = 1
[job]
number = "T-2"
[practice]
overload_contact = "{school}"
[supply]
system = "3ph+n"
volts = 400
[enclosure]
width = 2000
height = 2200
[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230
[control.C2]
kind = "psu"
from = "L1 L2"
[location.st1]
[location.st2]
[device.B9]
kind = "thermostat"
[controller.P1]
inputs = 16
outputs = 16
analogue_out = 4
"""
OPTIONS = {
    "three stations": 'buttons_at = ["door", "st1", "st2"]',
    "selector": 'control = "selector"',
    "key": 'control = "selector"\nkey = true',
    "hand": 'control = "selector"\nselector = "hand-off-auto"\nauto = "B9:no"',
    "hand by controller": 'control = "selector"\nselector = "hand-off-auto"\ncontroller = "P1"',
    "automatic restart": 'control = "selector"\nrestart = "automatic"',
    "controller": 'control = "controller"\ncontroller = "P1"',
    "feedback only": 'controller = "P1"',
    "own emergency stop": 'estop_at = ["st1", "st2"]',
    "isolator": "isolator = true",
    "lamps": 'lamps = ["run", "trip", "ready"]\noverload_contact = "live"',
    "run and trip lamp": 'lamps = ["run", "trip"]',
    "hours": "hours = true",
    "thermistor": "thermistor = true",
    "overload on return": 'overload_contact = "return"',
    "24 V": 'supply = "C2"',
    "motor breaker": 'protection = "motor-breaker"',
    "fuses": 'protection = "fuse"',
}
"""Every option of a starter by itself; those of one kind only are added by `options_of`."""


def options_of(kind: str) -> dict[str, str]:
    """Return the options that a kind of starter may have."""
    own = {
        "drive": {"speed": 'speed = "potentiometer"', "speed by controller": 'speed = "controller"\ncontroller = "P1"'},
        "star-delta": {"star time": "star_seconds = 4"},
        "pump": {"level": 'level = "TANK"'},
    }
    banned = {
        "pump": {"three stations", "selector", "key", "automatic restart"},
        "reversing": {"hand", "hand by controller"},
    }
    return {k: v for k, v in OPTIONS.items() if k not in banned.get(kind, set())} | own.get(kind, {})


def starter_text(name: str, kind: str, *options: str) -> str:
    """Return a starter's table; of a key given twice the last one counts."""
    keys = dict(line.split(" = ", 1) for text in ('supply = "C1"', *options) for line in text.splitlines())
    if "lamps" in keys and "ready" in keys["lamps"]:
        keys["overload_contact"] = '"live"'
    return f'[starter.{name}]\nkind = "{kind}"\nkw = {POWER[kind]}\n' + "".join(f"{k} = {v}\n" for k, v in keys.items())


@st.composite
def panels(draw: st.DrawFn) -> str:
    """Return a brief of one to three starters with random options, interlocks, emergency stop groups and floats."""
    text = PANEL.format(school=draw(st.sampled_from(["live", "return"])))
    text += "[level.TANK]\nfloats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n"
    count = draw(st.integers(1, 3))
    names = [f"M{n}" for n in range(1, count + 1)]
    for n, name in enumerate(names):
        kind = draw(st.sampled_from(sorted(POWER)))
        chosen = draw(st.lists(st.sampled_from(sorted(options_of(kind))), max_size=4, unique=True))
        extra = [options_of(kind)[option] for option in chosen]
        if n and draw(st.booleans()):
            key = draw(st.sampled_from(["runs_while", "never_with"]))
            extra.append(f'{key} = ["{draw(st.sampled_from(names[:n]))}"]')
        text += _made_sound(starter_text(name, kind, *extra), kind)
    for group in range(1, draw(st.integers(0, 2)) + 1):
        reset, category = draw(st.sampled_from(["button", "twist"])), draw(st.sampled_from([0, 1]))
        stops = draw(st.sampled_from(['"all"', f'["{names[0]}"]']))
        text += f'[estop.E{group}]\nat = ["door", "st1"]\nreset = "{reset}"\ncategory = {category}\nstops = {stops}\n'
    if draw(st.booleans()):
        acts_on = draw(st.sampled_from(['"all"', f'["{names[0]}"]']))
        text += f"[phase_relay.K10]\nacts_on = {acts_on}\n"
    if draw(st.booleans()):
        text += '[alarm.A1]\nfrom = "TANK.alarm"\n'
    return text


def _made_sound(text: str, kind: str) -> str:
    """Return a starter's table without what does not go with what else was drawn."""
    keys = dict(line.split(" = ", 1) for line in text.splitlines()[1:])
    mode = keys.get("control", '"selector"' if kind == "pump" else '"buttons"')
    if mode != '"selector"':
        for key in ("selector", "auto", "key"):
            keys.pop(key, None)
    if mode == '"buttons"':
        keys.pop("restart", None)
    if keys.get("selector") == '"hand-off-auto"' and "auto" not in keys and "controller" not in keys and kind != "pump":
        keys["auto"] = '"B9:no"'
    if keys.get("auto") is not None and keys.get("selector") is None and kind != "pump":
        keys["selector"] = '"hand-off-auto"'
    return text.splitlines()[0] + "\n" + "".join(f"{k} = {v}\n" for k, v in keys.items())
