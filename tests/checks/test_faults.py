"""Faults that people make in a brief, put into sound panels by chance: whatever panel it is, the rule that asks for it finds it."""

import re
from collections.abc import Callable

import pytest

from effort import examples
from riktig.checks.run import find_all
from sound_panels import sound_text
from support import plan_of

Fault = Callable[[str], str | None]
"""Returns the brief with the fault, None where the panel has nothing to make it on."""


def add(table: str, *keys: str) -> Fault:
    """Write keys into a table that is there."""
    return lambda text: text.replace(f"[{table}]\n", f"[{table}]\n" + "".join(f"{key}\n" for key in keys), 1)


def change(pattern: str, by: str) -> Fault:
    """Write something else where a pattern is found."""
    return lambda text: re.sub(pattern, by, text, count=1) if re.search(pattern, text) else None


def iec(fault: Fault) -> Fault:
    """Make a fault in an IEC panel alone."""
    return lambda text: None if '"ul"' in text else fault(text)


def ul(fault: Fault) -> Fault:
    """Make a fault in a panel of North America alone."""
    return lambda text: fault(text) if '"ul"' in text else None


def end(more: str) -> Fault:
    """Write something behind all else."""
    return lambda text: text + more


def stopped(fault: Fault) -> Fault:
    """Make a fault in a panel with an emergency stop."""
    return lambda text: fault(text) if "[estop" in text else None


_DIRECT = re.compile(r'\[starter\.M\d\]\nkind = "(?!drive)')
OWN_LOAD = '[device.E77]\nkind = "heater"\nkw = 2\nat = "field"\n[[feeder]]\npath = "L1 L2 > E77"\n'
FAULTS: tuple[tuple[str, Fault], ...] = (
    ("insulation", add("practice", "wire_volts = 300")),
    ("colours", end('[colours]\npower = "green-yellow"\n')),
    ("colours", iec(end('[colours]\nneutral = "black"\n'))),
    ("colours", ul(end('[colours]\ncontrol_ac = "white"\n'))),
    ("enclosure-degree", change(r'rating = "[^"]*"', 'rating = "IP7"')),
    ("enclosure-degree", ul(change("Type 12", "IP54"))),
    ("opening-rating", iec(change("IP54", "IP66"))),
    ("condensation", add("enclosure", "outdoors = true")),
    ("cold-enclosure", add("enclosure", "ambient_min = -20")),
    ("declared-rise", iec(lambda text: text.replace("inside_rise = 25", "inside_rise = 0") if "kw = 55" in text else None)),
    ("operator-height", add("enclosure", "floor_to_bottom = 2200")),
    ("plate-too-small", change("height = 2000", "height = 300")),
    ("plate-too-narrow", lambda text: change(r"width = 1\d00", "width = 160")(text) if "[starter.M3]" in text else None),
    ("door-lock", ul(add("incoming", 'switch = "plate"'))),
    ("door-lock", iec(lambda text: add("enclosure", 'lock = "interlock"')(add("incoming", 'switch = "none"')(text) or ""))),
    ("handle-colour", add("incoming", 'switch = "plate"', 'handle = "red-yellow"')),
    ("inside-handle", ul(change("inside_handle = true", "inside_handle = false"))),
    ("nameplate", change('maker = "A"\n', "")),
    ("fault-assumed", change(r"fault_ka = \d+\n", "")),
    ("short-circuit-rating", change(r"fault_ka = \d+", "fault_ka = 190")),
    ("short-circuit-proof", iec(change("fault_ka = 10", "fault_ka = 14"))),
    ("supply-protection", add("supply", "protection_a = 2000")),
    ("emergency-stop", lambda text: None if "[estop" in text else text.replace('emergency_stop = "none"', 'emergency_stop = "category 0"')),
    ("emergency-stop", stopped(change('emergency_stop = "category 0"', 'emergency_stop = "category 1"'))),
    ("emergency-stop-relay", stopped(change('performance_level = "c"', 'performance_level = "d"'))),
    ("automatic-restart", lambda text: text.replace('restart = "nobody can reach what it moves"\n', "")
     if 'kind = "pump"' in text else None),
    ("control-voltage", ul(change("volts = 120", "volts = 230"))),
    ("motor-volts", change(r'(kind = "dol"\n)', r'\1motor_volts = "115"\n')),
    ("delta-voltage", change(r'motor_volts = "4\d0/\d+"', 'motor_volts = "230/400"')),
    ("trip-class", change(r'(kind = "(?:dol|reversing)"\n)', r"\1start_seconds = 90\n")),
    ("overload-range", change(r'(kind = "(?:dol|pump)"\n(?:kw|hp) = [\d.]+\n)amps = [\d.]+', r"\1amps = 900")),
    ("motor-nameplate", ul(change(r'(kind = "(?:dol|pump|reversing)"\n(?:kw|hp) = [\d.]+\n)amps = [\d.]+\n', r"\1"))),
    ("motor-estimated", change(r'kind = "dol"\n(?:kw|hp) = [\d.]+\namps = [\d.]+\n', 'kind = "dol"\nkw = 500\n')),
    ("disconnection", iec(lambda text: text.replace("loop_ohm = 0.015", "loop_ohm = 9") if _DIRECT.search(text) else None)),
    ("disconnection-it", iec(add("supply", 'earthing = "it"'))),
    ("own-protection", end(OWN_LOAD)),
    ("not-wired", end('[device.M77]\nkind = "motor"\nkw = 1\n')),
    ("second-supply", end('[extra_supply.P]\nsystem = "3ph"\nvolts = 230\nisolated = "elsewhere"\n')),
    ("hoist-limits", change(r'(kind = "reversing"\n)', r"\1hold_to_run = true\n")),
    ("overload-on-return", lambda text: change(r'(kind = "dol"\n)', r'\1overload_contact = "return"\n')(
        text.replace("[control.C1]\n", "[control.C1]\nearthed = false\n"))),
    ("residual-voltage", lambda text: text if 'kind = "drive"' in text else None),
    ("set-by-hand", end('[kept.values]\n"Q0|main_section" = "300 | a customer\'s wish"\n')),
    ("waiver-idle", end('[[waiver]]\nrule = "bonded-twice"\nreason = "x"\nperson = "A"\ndate = 2026-11-30\n')),
)  # fmt: skip


def found_on(rule: str, fault: Fault, seeds: range) -> list[bool]:
    """Return of each sound panel on which a fault can be made whether it is found."""
    briefs = filter(None, (fault(sound_text(seed)) for seed in seeds))
    return [rule in {finding.rule for finding in find_all(plan_of(brief))} for brief in briefs]


@pytest.mark.parametrize(("rule", "fault"), FAULTS, ids=[f"{n}-{rule}" for n, (rule, _) in enumerate(FAULTS)])
def test_a_fault_is_found_on_whatever_panel_it_is_made(rule: str, fault: Fault) -> None:
    """Other panels and other mends than the pairs: written from what each rule asks and from the form of a brief."""
    seeds = range(700, 700 + 60)
    tried = [seed for seed in seeds if fault(sound_text(seed)) is not None][: max(1, examples(10) // 3)]
    assert tried, "no sound panel has what the fault is made on"
    for seed in tried:
        assert all(found_on(rule, fault, range(seed, seed + 1))), f"seed {seed}"
