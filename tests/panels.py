"""Whole panels by chance: every option of practice, supply, enclosure, incoming, modules and starters."""

import random
import re

PRACTICE = {
    "tags": ("letter-number", "sheet-column", "number-letter"),
    "numbering": ("sequence", "sheet-column", "line", "both-ends"),
    "earth": ("beside", "bar"),
    "fixing": ("tapped", "self-drilling"),
    "door": ("direct", "terminals"),
    "wiring": ("drawing", "shortest"),
    "drawing": ("columns", "rungs"),
    "symbols": ("iec", "nema"),
    "distribution": ("auto", "chain", "block"),
    "overload_contact": ("live", "return"),
    "motor_protection": ("breaker", "motor-breaker", "magnetic", "fuse"),
    "diversity": ("none", "table"),
    "spare_terminals": (0, 10, 30),
    "conductor_class": ("5", "2"),
    "number_prefix": ("", "P-"),
    "scope": ("machine", "assembly"),
}
MODULES = (
    ('[phase_lamps]\ncolour = "blue"',),
    ("[phase_relay.K10]",),
    ("[surge.F20]", '[surge.F20]\nlamp = "healthy"'),
    ("[estop.E1]", '[estop.E1]\nat = ["door", "st1"]\ncategory = 1\nreset = "twist"'),
    ("[way.W1]\namps = 16\npoles = 3", "[way.W1]\namps = 10\npoles = 3\nrcd = true"),
    ("[pass_through]\nsection_mm2 = 16",),
    ('[level.T9]\nfloats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n[alarm.A1]\nfrom = "T9.alarm"\ntest = true',),
    ('[excepted.X1]\nload = "light"', '[excepted.X1]\nload = "heater"'),
    ('[excepted.X2]\nload = "socket"', '[excepted.X2]\nload = "fan"'),
    ('[excepted.X3]\nload = "memory"', '[excepted.X3]\nload = "from-elsewhere"\nsource = "pump house"'),
    ('[extra_supply.P]\nsystem = "3ph"\nvolts = 400', '[extra_supply.P]\nsystem = "3ph"\nvolts = 400\nisolated = "elsewhere"'),
)  # fmt: skip
CONTROLLER = (
    '[controller.PL1]\ninputs = 16\noutputs = 8\nanalogue_out = 2\noperator_panel = "door"\nnetwork_switch = true'
)
ENCLOSURES = ((400, 500, 200), (600, 800, 250), (800, 1200, 300), (1200, 1800, 400), (1600, 2000, 400))
INCOMING = (
    "main_contactor = true", 'protection = "breaker"', 'protection = "fuse"', 'switch = "plate"', 'switch = "none"', "", "", "",
)  # fmt: skip
OWN = (
    '[device.Q81]\nkind = "breaker"\n[device.E81]\nkind = "heater"\nkw = 6\n[[feeder]]\npath = "L1 L2 L3 > Q81 > E81"',
    '[control.C3]\ngroup_of = "C2"\n[device.Y82]\nkind = "valve"\nva = 30\n[device.S82]\nkind = "pushbutton"\n[[rung]]\n'
    'path = "C3+ > S82:no > Y82 > C3-"',
    '[device.Q83]\nkind = "breaker"\n[device.K83]\nkind = "contactor"\n[device.F83]\nkind = "overload"\n[device.S83]\n'
    'kind = "disconnect"\nat = "st1"\n[device.M83]\nkind = "motor"\nkw = 4\nat = "st1"\n[[feeder]]\n'
    'path = "L1 L2 L3 > Q83 > K83 > F83 > S83 > M83"\n[[rung]]\npath = "C1+ > F83:95-96 > K83:coil > C1-"',
    '[device.Q84]\nkind = "breaker"\n[device.K84]\nkind = "contactor"\n[device.K85]\nkind = "contactor"\n[device.F84]\nkind = "overload"\n'
    'amps = 3\n[device.F85]\nkind = "overload"\namps = 5.4\n[device.M84]\nkind = "motor"\nkw = 2.2\namps = 5.4\n'
    + "".join(f'[[feeder]]\npath = "{path}"\n' for path in (
        "L1 L2 L3 > Q84 > @q1 @q2 @q3", "@q1 @q2 @q3 > K84 > F84 > @a1 @a2 @a3", "@q1 @q2 @q3 > K85 > F85 > @b1 @b2 @b3",
        "@a1 > M84:1U-1V > @a2", "@a2 > M84:1V-1W > @a3", "@b1 > M84:2U-2V > @b2", "@b2 > M84:2V-2W > @b3",
    )) + "".join(f'[[rung]]\npath = "C1+ > F{n}:nc > K{m}:nc > K{n}:coil > C1-"\n' for n, m in ((84, 85), (85, 84))),
    '[device.B86]\nkind = "limit-switch"\n[device.B87]\nkind = "limit-switch"\n[starter.M86]\nkind = "reversing"\nkw = 1.5\n'
    'supply = "C1"\nhold_to_run = true\nlimits = ["B86", "B87"]',
    '[level.T8]\nfloats = { stop = 0.4, start = 1.2, lag = 1.6 }\n[pumps.P8]\nstarters = ["M88", "M89"]\nlevel = "T8"\n'
    + "".join(f'[starter.{name}]\nkind = "pump"\nkw = 3\nsupply = "C1"\n' for name in ("M88", "M89")),
)  # fmt: skip
"""What a person states with devices, rungs and feeders of their own, and pairs and hoists."""
POWER = {
    "dol": (0.37, 1.5, 4, 7.5, 15),
    "reversing": (1.5, 4, 11),
    "star-delta": (11, 22, 30),
    "drive": (0.75, 4, 11),
    "soft": (11, 22),
    "pump": (1.1, 3),
}
"""Powers in kW that each kind of starter is usual for."""


def panel_text(seed: int, most: int = 4) -> str:
    """Return the brief of a random panel of one to `most` starters, the same for the same seed."""
    chance = random.Random(seed)
    is_ul = chance.random() < 0.35
    blocks = [f'brief = 1\n[job]\nnumber = "G-{seed}"', _practice(chance, is_ul=is_ul)]
    system, entry = chance.choice(["3ph+n", "3ph"]), chance.choice(["top", "bottom"])
    blocks.append(
        f'[supply]\nsystem = "{system}"\nvolts = {480 if is_ul else 400}\nhertz = {60 if is_ul else 50}\n'
        f'earthing = "{"wye-grounded" if is_ul else "tn-s"}"\nfault_ka = {chance.choice([3, 6, 10, 18])}\nentry = "{entry}"'
    )
    blocks.append(_enclosure(chance))
    blocks.append(f"[incoming]\n{chance.choice(INCOMING)}")
    volts = 120 if is_ul else 230
    blocks.append(f'[control.C1]\nkind = "transformer"\nfrom = "L1 L2"\nvolts = {volts}')
    blocks.append(
        '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n[location.st1]\ndistance = 15\n[location.st2]\nbox = "insulating"'
    )
    chosen = chance.sample(MODULES, chance.choice([0, 1, 2, 3, 5, 8]))
    blocks.extend(chance.choice(variants) for variants in chosen)
    has_controller = chance.random() < 0.3
    blocks.extend([CONTROLLER] if has_controller else [])
    blocks.extend(
        _starter(chance, f"M{n}", has_controller=has_controller) for n in range(1, chance.randint(1, most) + 1)
    )
    beside = random.Random(f"own {seed}")
    if beside.random() < 0.4:
        blocks.extend(beside.sample(OWN, beside.randint(1, 3)))
    return "\n".join(blocks) + "\n"


def _practice(chance: random.Random, *, is_ul: bool) -> str:
    keys = [f'[practice]\nstandard = "{"ul" if is_ul else "iec"}"']
    for key in chance.sample(sorted(PRACTICE), chance.randint(0, 5)):
        value = chance.choice(PRACTICE[key])
        keys.append(f"{key} = {value}" if isinstance(value, int) else f'{key} = "{value}"')
    return "\n".join(keys)


def _enclosure(chance: random.Random) -> str:
    width, height, depth = chance.choice(ENCLOSURES)
    hinge, mounting = chance.choice(["left", "right"]), chance.choice(["wall", "floor", "free"])
    window = "\nwindow = [200, 150]" if chance.random() < 0.1 else ""
    return (
        f'[enclosure]\nwidth = {width}\nheight = {height}\ndepth = {depth}\nhinge = "{hinge}"\nmounting = "{mounting}"\n'
        f"ambient = {chance.choice([20, 35, 45])}{window}"
    )


def _starter(chance: random.Random, name: str, *, has_controller: bool) -> str:
    kind = chance.choice(sorted(POWER))
    lamps = [lamp for lamp in ("run", "trip", "ready") if chance.random() < 0.5]
    keys = [
        f'[starter.{name}]\ntitle = "Drive of {name}"\nkind = "{kind}"\nkw = {chance.choice(POWER[kind])}',
        f'supply = "{chance.choice(["C1", "C1", "C2"])}"',
        f"lamps = {lamps}".replace("'", '"'),
    ]
    options = {
        "hours = true": 0.2, "isolator = true": 0.2, "thermistor = true": 0.15, 'motor_at = "st2"': 0.15, 'estop_at = ["st1"]': 0.15,
        'overload_contact = "live"': 1.0 if "ready" in lamps else 0.0, 'speed = "potentiometer"': 0.4 if kind == "drive" else 0.0,
        'never_with = ["M1"]': 0.2 if name != "M1" else 0.0,
    }  # fmt: skip
    keys.extend(option for option, share in options.items() if chance.random() < share)
    if kind != "pump":
        places = chance.choice(["", "", "", '"st1"', '["door", "st1"]', '["st1", "st2"]'])
        keys.extend([f"buttons_at = {places}"] if places else [])
        if has_controller and chance.random() < 0.5:
            keys.append('control = "controller"\ncontroller = "PL1"')
        elif chance.random() < 0.2:
            keys.append('control = "selector"')
    return "\n".join(keys)


def roomy_panel_text(seed: int) -> str:
    """Return a random panel of up to eight starters with room for them, at a fault current that parts without a marking stand:
    10 kA, and 5 kA in North America (UL 508A Table SB4.1).
    """
    text = panel_text(seed, most=8)
    fault_ka = 5 if 'standard = "ul"' in text else 10
    text = re.sub(r"fault_ka = \d+", f"fault_ka = {fault_ka}", text)
    text = re.sub(r"width = \d+\nheight = \d+\ndepth = \d+", "width = 2000\nheight = 2400\ndepth = 500", text)
    return re.sub(r"(distribution = .*|ambient = .*)\n", "", text)
