"""Panels as a careful person would state them, by chance: both worlds, all kinds of starters, 0.1 to 75 kW, all that is known stated."""

import random

from riktig.standards import iec_60947_4_1, nec

KW = (0.12, 0.25, 0.55, 1.1, 2.2, 4, 7.5, 11, 18.5, 30, 45, 55, 75)
HP = (0.5, 0.75, 1.5, 3, 5, 10, 15, 25, 40, 60, 75, 100)
_KINDS = {"dol": 18.5, "reversing": 11, "star-delta": 75, "drive": 15, "soft": 75, "pump": 11}
"""The largest motor in kW that each kind is usual for here: larger ones start softly, and large drives stand in cabinets of their own."""
_LEAST = {"star-delta": 5.5, "soft": 5.5}
_PER_HP = 0.7457
MOST_KW = 130.0
"""All motors together: what one main conductor of the largest section feeds."""
_MODULES = (
    "[phase_lamps]\n", "[phase_relay.K10]\n", '[excepted.X2]\nload = "socket"\n', "[way.W1]\namps = 10\npoles = 3\nrcd = true\n",
    '[excepted.X3]\nload = "light"\n', '[estop.E1]\nat = ["door", "st1"]\n', '[estop.E1]\ncategory = 1\n',
)  # fmt: skip


def sound_text(seed: int) -> str:
    """Return the brief of a panel in which nothing must be mended, the same for the same seed."""
    chance = random.Random(seed)
    is_ul = chance.random() < 0.5
    starters, left = [], MOST_KW
    for n in range(1, chance.randint(1, 5) + 1):
        text, kw = _starter(chance, f"M{n}", left, is_ul=is_ul)
        starters.append(text)
        left -= kw
        if left < 1.0:
            break
    modules = chance.sample(_MODULES, chance.choice((0, 1, 2, 3)))
    modules = [m for n, m in enumerate(modules) if m[:10] not in {other[:10] for other in modules[:n]}]
    stops = any(module.startswith("[estop") for module in modules)
    category = "category 1" if any("category = 1" in module for module in modules) else "category 0"
    world = (
        '[practice]\nstandard = "ul"\nstock = 6000\n[supply]\nsystem = "3ph"\nvolts = 480\nhertz = 60\nearthing = "wye-grounded"\n'
        "fault_ka = 5\n"
        if is_ul
        else '[practice]\nstock = 6000\n[supply]\nsystem = "3ph+n"\nvolts = 400\nfault_ka = 10\nloop_ohm = 0.015\n'
    )
    return "".join((
        f'brief = 1\n[job]\nnumber = "S-{seed}"\nmaker = "A"\nserial = "1"\nyear = 2026\ndocument = "D"\n', world,
        f'[enclosure]\nwidth = {1200 if len(starters) < 4 else 1600}\nheight = 2000\ndepth = 500\nambient = 25\ninside_rise = 25\n'
        f'mounting = "floor"\nrating = "{"Type 12" if is_ul else "IP54"}"\n',
        "[incoming]\ninside_handle = true\nshrouded = true\n",
        f'[risk]\nperson = "I. Farrow"\ndate = 2026-11-30\nemergency_stop = "{category if stops else "none"}"\nperformance_level = "c"\n'
        'restart = "nobody can reach what it moves"\n',
        f'[control.C1]\nkind = "transformer"\nfrom = "L1 L2"\nvolts = {120 if is_ul else 230}\n[location.st1]\ndistance = 10\n',
        '[excepted.X1]\nload = "fan"\n', *modules, *starters,
    ))  # fmt: skip


def _starter(chance: random.Random, name: str, left: float, *, is_ul: bool) -> tuple[str, float]:
    """Return a starter of at most so many kW that are left, and its kW."""
    unit = _PER_HP if is_ul else 1.0
    sizes = {
        kind: [size for size in (HP if is_ul else KW) if _LEAST.get(kind, 0.0) <= size * unit <= min(most, left)]
        for kind, most in _KINDS.items()
    }
    kind = chance.choice(sorted(kind for kind, fitting in sizes.items() if fitting))
    size = chance.choice(sizes[kind])
    volts = 480 if is_ul else 400
    amps = nec.motor_current_a(size, volts) if is_ul else iec_60947_4_1.rated_motor_current_a(size, volts)
    assert amps is not None
    keys = [
        f'[starter.{name}]\nkind = "{kind}"\n{"hp" if is_ul else "kw"} = {size}\namps = {0.96 * amps:.3g}\nsupply = "C1"',
        f"lamps = {chance.sample(['run', 'trip'], chance.randint(0, 2))}".replace("'", '"'),
    ]
    keys += [f'motor_volts = "{volts}/{830 if is_ul else 690}"'] if kind == "star-delta" else []
    keys += ["isolator = true"] if is_ul or chance.random() < 0.2 else []
    keys += ["hours = true"] if chance.random() < 0.2 else []
    keys += ['buttons_at = ["door", "st1"]'] if kind not in {"pump"} and chance.random() < 0.2 else []
    return "\n".join(keys) + "\n", size * unit
