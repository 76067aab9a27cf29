"""Faults that people make in a brief, put into sound panels by chance: whatever panel it is, the rule that asks for it finds it."""

import re
from collections.abc import Callable
from dataclasses import replace

import pytest

import plate_faults
from effort import EFFORT, examples
from riktig.catalogue.model import Part
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


def device(name: str, kind: str, *keys: str) -> str:
    return "\n".join((f"[device.{name}]", f'kind = "{kind}"', *keys, ""))


def paths(sort: str, *written: str) -> str:
    return "".join(f'[[{sort}]]\npath = "{path}"\n' for path in written)


def rungs(*written: str) -> str:
    return paths("rung", *written)


def feeders(*written: str) -> str:
    return paths("feeder", *written)


OWN_MOTOR = (
    device("Q77", "breaker")
    + device("K77", "contactor")
    + device("F77", "overload")
    + device("M77", "motor", "kw = 3", "amps = 6")
)
BUTTON = device("S77", "pushbutton")
RELAY = (
    device("K78", "relay")
    + BUTTON
    + device("P77", "lamp")
    + device("P78", "lamp")
    + rungs("C1+ > S77:no > K78:coil > C1-")
)
TWO_BREAKERS = device("Q78", "breaker") + device("Q79", "breaker") + device("E78", "heater", "kw = 2", 'at = "field"')
RUN = rungs("C1+ > F77:95-96 > S77:no > K77:coil > C1-")


FANS = device("Q77", "breaker") + "".join(device(f"V7{n}", "fan", 'at = "left_wall"', "va = 40") for n in (7, 8))
FANS += feeders("L1 N > Q77 > V77", "L2 N > Q77 > V78")
TWO_SPEEDS = (
    OWN_MOTOR.replace('"overload"\n', '"overload"\namps = 6\n') + device("K79", "contactor") + device("F79", "overload")
)
TWO_SPEEDS += rungs("C1+ > F77:nc > K79:nc > K77:coil > C1-", "C1+ > F79:nc > K77:nc > K79:coil > C1-")
TWO_SPEEDS += feeders(
    "L1 L2 L3 > Q77 > @q1 @q2 @q3", "@q1 @q2 @q3 > K77 > F77 > @a1 @a2 @a3", "@q1 @q2 @q3 > K79 > F79 > @b1 @b2 @b3",
    "@a1 > M77:1U-1V > @a2", "@a2 > M77:1V-1W > @a3", "@b1 > M77:2U-2V > @b2", "@b2 > M77:2V-2W > @b3",
)  # fmt: skip


def far(text: str) -> str:
    """Have the motors stand 400 m away."""
    return text.replace("[location.st1]", "[location.field]\ndistance = 400\n[location.st1]")


LARGE = re.compile("(?:kw = 75|hp = 100)\n")
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
    ("one-pole", end(TWO_BREAKERS + feeders("L1 > Q78 > @u", "L2 > Q79 > @v", "@u @v > E78"))),
    ("fed-twice", end(TWO_BREAKERS + feeders("L1 L2 > Q78 > @u @v", "L1 L2 > Q79 > @u @v", "@u @v > E78"))),
    ("behind-load", end(TWO_BREAKERS + feeders("L1 L2 > Q78 > E78 > Q79 > @u @v"))),
    ("open-lead", end(TWO_BREAKERS + feeders("L1 > Q78 > E78"))),
    ("own-protection", end(OWN_MOTOR + BUTTON + feeders("L1 L2 L3 > K77 > F77 > M77") + RUN)),
    ("given-rating", end(OWN_MOTOR.replace('"breaker"\n', '"breaker"\namps = 2\n') + BUTTON + feeders("L1 L2 L3 > Q77 > K77 > F77 > M77")
     + RUN)),
    ("not-sized", end(OWN_MOTOR.replace("kw = 3\namps = 6\n", "") + BUTTON + feeders("L1 L2 L3 > Q77 > K77 > F77 > M77") + RUN)),
    ("motor-overload", end(OWN_MOTOR.replace(device("F77", "overload"), "") + BUTTON + feeders("L1 L2 L3 > Q77 > K77 > M77")
     + rungs("C1+ > S77:no > K77:coil > C1-"))),
    ("trip-unused", end(OWN_MOTOR + BUTTON + feeders("L1 L2 L3 > Q77 > K77 > F77 > M77") + rungs("C1+ > S77:no > K77:coil > C1-"))),
    ("overload-dial", end(OWN_MOTOR.replace('"overload"\n', '"overload"\namps = 9\n') + BUTTON
     + feeders("L1 L2 L3 > Q77 > K77 > F77 > M77") + RUN)),
    ("enable-open", end(OWN_MOTOR.replace(device("F77", "overload"), "").replace('"contactor"', '"drive"')
     + feeders("L1 L2 L3 > Q77 > K77 > M77"))),
    ("behind-drive", end(OWN_MOTOR + BUTTON + device("A77", "drive") + feeders("L1 L2 L3 > Q77 > A77 > K77 > F77 > M77") + RUN)),
    ("not-wired", end(device("P77", "lamp"))),
    ("coil-open", end(RELAY.replace("K78:coil", "K78:11-14 > P77"))),
    ("contact-twice", end(RELAY + rungs("C1+ > K78:21-24 > P77 > C1-", "C1+ > K78:21-24 > P78 > C1-"))),
    ("contact-common", end(RELAY + rungs("C1+ > K78:21-22 > P77 > C1-", "C1+ > P78 > K78:21-24 > C1-"))),
    ("part-too-small", end(RELAY.replace('"pushbutton"\n', '"pushbutton"\ncontacts = ["no"]\npart = "pb22-10"\n')
     + rungs("C1+ > S77:no > P77 > C1-"))),
    ("unknown-part", end(RELAY + '[kept.parts]\nK78 = "no-such"\n')),
    ("other-return", end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\n' + RELAY.replace("K78:coil > C1-", "K78:coil > C7-"))),
    ("supplies-joined", end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\n' + RELAY.replace('"relay"', '"relay"\npart = "rl-1"')
     + rungs("C1+ > K78:11-14 > P77 > C1-", "C7+ > K78:11-12 > P78 > C7-"))),
    ("bonded-twice", end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\n' + device("W77", "link") + rungs("C7- > W77 > PE"))),
    ("ahead-of-switch", end(TWO_BREAKERS + feeders("in.L1 in.L2 > Q78 > E78"))),
    ("reversing-duty", lambda text: text if 'kind = "reversing"' in text else None),
    ("voltage-drop", lambda text: far(text) + '[kept.values]\n"M1|cable_section" = "1.5 | as found"\n'
     if re.search(r'M1\]\nkind = "(dol|pump)"\n(kw|hp) = [1-9]', text) else None),
    ("in-sight", ul(lambda text: far(text).replace("isolator = true\n", "") if "isolator = true" in text else None)),
    ("control-transformer", iec(lambda text: change('kind = "transformer"\nfrom = "L1 L2"', 'kind = "direct"\nfrom = "L1"')(text)
     if "[starter.M2]" in text else None)),
    ("inside-temperature", change("ambient = 25", "ambient = 58")),
    ("door-too-small", end("".join(device(f"S{n}", "pushbutton") for n in range(100, 700)))),
    ("station-too-small", end("".join(device(f"S{n}", "pushbutton", 'at = "st1"') for n in range(100, 500)))),
    ("other-return", end(RELAY.replace("K78:coil > C1-", "K78:coil > PE"))),
    ("switched-earth", end(device("S77", "switch", 'contacts = ["no"]') + device("P77", "lamp") + rungs("C1+ > P77 > S77:no > PE"))),
    ("bonded-side", end(RELAY.replace("S77:no > K78:coil", "K78:coil > S77:no"))),
    ("poles", iec(end('[kept.parts]\n"C1.FP" = "cb1-d2"\n'))),
    ("rating-missing", end(TWO_BREAKERS.replace('"breaker"\n', '"breaker"\npart = "sx1-c6"\n', 1)
     + feeders("L1 > Q78 > @u", "@u L2 > E78"))),
    ("conductor-protection", lambda text: text.replace("[control.C1]\n", "[control.C1]\namps = 16\n")
     + '[kept.values]\n"C1|conductor_section" = "1 | at hand"\n'),
    ("neutral", iec(end("".join(f'[way.W8{n}]\namps = 16\nline = "L1"\n' for n in range(4))
     + '[kept.values]\n"Q0|main_section" = "4 | at hand"\n'))),
    ("passed-on", end("[pass_through]\nsection_mm2 = 1.5\n")),
    ("slash-rating", ul(lambda text: change(r'(kind = "dol"\n)', r'\1protection = "motor-breaker"\n')(
        text.replace('earthing = "wye-grounded"', 'earthing = "delta"')))),
    ("hoist-brake", lambda text: text.replace('"reversing"\n', '"reversing"\nhold_to_run = true\nlimits = ["B77", "B78"]\n', 1)
     + device("B77", "limit-switch") + device("B78", "limit-switch") if "reversing" in text else None),
    ("earth-electrode", iec(add("supply", 'earthing = "tt"', "rcd_ma = 300", "earth_ohm = 2000"))),
    ("drive-guard", iec(lambda text: add("supply", "rcd_ma = 300", 'rcd_type = "A"')(text) if 'kind = "drive"' in text else None)),
    ("neutral-cut", iec(lambda text: add("supply", 'earthing = "tt"', "rcd_ma = 300")(add("incoming", "poles = 3")(text))
     if "[way.W1]" in text else None)),
    ("socket-rcd", iec(end(device("Q77", "breaker") + device("E77", "socket") + feeders("L1 N > Q77 > E77")))),
    ("control-groups", end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\nva = 480\n[control.C8]\ngroup_of = "C7"\namps = 13\n')),
    ("contact-duty", end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\n' + BUTTON + rungs("C7+ > S77:no > @on")
     + "".join(device(f"Y7{n}", "valve", "va = 20") + rungs(f"@on > Y7{n} > C7-") for n in range(8)))),
    ("arrester-earth", iec(end('[surge.F79]\n[kept.values]\n"F79.PE:out F79:PE|wire_section" = "1.5 | at hand"\n'))),
    ("plate-overlap", end('[kept.places]\n"M1.Q" = "plate 300 600"\n"C1.T" = "plate 300 600"\n')),
    ("plate-rail", end('[kept.places]\n"C1.F" = "plate 300 600"\n')),
    ("piece-too-long", change("stock = 6000", "stock = 600")),
    ("door-holes-close", end(RELAY + '[kept.places]\nS77 = "door 300 900"\nP77 = "door 318 900"\n')),
    ("entry-wall-full", change(r"width = 1\d00\nheight = 2000\ndepth = 500", "width = 200\nheight = 2000\ndepth = 60")),
    ("wall-too-small", iec(end(device("V77", "fan", 'at = "left_wall"', "va = 40") + device("Q77", "breaker")
     + feeders("L1 N > Q77 > V77") + '[kept.holes]\n"V77" = "10 300"\n'))),
    ("bar-full", end('[kept.clamps]\n"PE.bar|PE.plate:PE" = "PE.bar:399"\n')),
    ("live-shroud", lambda text: text.replace("shrouded = true", "shrouded = false") if re.search(LARGE, text) else None),
    ("set-by-hand", end('[kept.values]\n"Q0|main_section" = "300 | a customer\'s wish"\n')),
    ("grounded-line", ul(lambda text: text.replace('"wye-grounded"', '"corner-grounded"') + device("Q78", "fuse")
     + device("E78", "heater", "kw = 2", 'at = "field"') + feeders("L1 L2 L3 > Q78 > E78"))),
    ("plate-room", plate_faults.room), ("plate-reach", plate_faults.reach), ("plate-loose", plate_faults.loose),
    ("duct-fill", plate_faults.full), ("interlock-apart", plate_faults.apart), ("unequal-pair", plate_faults.unequal),
    ("door-depth", plate_faults.deep_door), ("arrester-leads", iec(plate_faults.far_arrester)),
    ("entries-close", lambda text: None if re.search(LARGE, text)
     else text + '[kept.holes]\n"cable:supply" = "100 60"\n"cable:W1" = "100 70"\n'),
    ("wall-holes-close", iec(end(FANS + '[kept.holes]\n"V77" = "125 300"\n"V78" = "125 320"\n'))),
    ("wall-depth", iec(lambda text: text.replace("depth = 500", "depth = 140") + FANS)),
    ("station-holes-close", end("".join(device(s, "pushbutton", 'at = "st1"') for s in ("S77", "S78"))
     + '[kept.holes]\nS77 = "60 40"\nS78 = "60 55"\n')),
    ("shaft-too-short", lambda text: text.replace("depth = 500", "depth = 120") if re.search(LARGE, text) else None),
    ("clamp-size", end('[kept.values]\n"C1|conductor_section" = "50 | at hand"\n')),
    ("fault-heating", iec(lambda text: text.replace("[starter.M1]\n", '[starter.M1]\nprotection = "fuse"\n').replace(
        "[location.st1]", "[location.field]\ndistance = 4\n[location.st1]") + '[kept.values]\n"M1|cable_section" = "1.5 | at hand"\n'
     if re.search(r'M1\]\nkind = "[a-z-]+"\nkw = (30|45|55|75)', text) else None)),
    ("sneak-path", end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\n[control.C8]\ngroup_of = "C7"\n'
     + "".join(device(name, "lamp") for name in ("P77", "P78", "P79")) + device("S77", "switch", 'contacts = ["no"]')
     + rungs("C7+ > P79 > C7-", "C7+ > P77 > @back", "C8+ > P78 > @back", "@back > S77:no > C7-"))),
    ("motor-speeds", end(TWO_SPEEDS)),
    ("class-2-cable", ul(lambda text: text.replace("[location.st1]\n", '[location.st1]\nbands = "shared"\n')
     + '[control.C7]\nkind = "psu"\nfrom = "L1 L2"\nclass_2 = true\n' + device("S77", "pushbutton", 'at = "st1"')
     + device("P77", "lamp", 'at = "st1"') + rungs("C7+ > S77:no > P77 > C7-") if 'st1"]' in text else None)),
    ("class-2-cable", ul(end('[control.C7]\nkind = "psu"\nfrom = "L1 L2"\nclass_2 = true\n[control.C8]\nkind = "psu"\nfrom = "L1 L2"\n'
     + device("B77", "limit-switch", 'contacts = ["no", "no"]', 'at = "field"') + device("P77", "lamp") + device("P78", "lamp")
     + rungs("C7+ > B77:no > P77 > C7-", "C8+ > B77:no > P78 > C8-")))),
    ("waiver-idle", end('[[waiver]]\nrule = "bonded-twice"\nreason = "x"\nperson = "A"\ndate = 2026-11-30\n')),
)  # fmt: skip


def lacks(kind: str, trait: str) -> tuple[str, str, str | None]:
    """Take a word out of the catalogue entries of all parts of a kind."""
    return kind, trait, None


SILENT: tuple[tuple[str, tuple[str, str, str | None]], ...] = (
    ("disconnect-type", ("disconnect", "type", "IEC 60947-4-1")), ("disconnect-type", lacks("disconnect", "type")),
    ("disconnect-lock", lacks("disconnect", "padlock")), ("emergency-stop-opening", lacks("emergency-stop", "opening")),
    ("residual-voltage", lacks("drive", "discharge_s")), ("earth-current", lacks("drive", "leakage_ma")),
    ("drive-protection", lacks("drive", "guard")), ("drive-protection", lacks("soft-starter", "guard_max_a")),
    ("part-standard", lacks("lamp", "type")), ("part-standard", ("contactor", "type", "GB 14048")),
    ("part-conditions", ("contactor", "conditions", "upright only")), ("mirror-contact", lacks("contactor", "mirror")),
    ("low-level", lacks("relay", "least_ma")), ("spacing-adapter", lacks("motor-breaker", "line_adapter")),
)  # fmt: skip
"""What catalogue entries say otherwise, or not at all: kind of part, word, what it says."""


_HAVING: dict[str, Fault] = {
    "low-level": end(
        '[control.C7]\nkind = "psu"\nfrom = "L1 L2"\n'
        + RELAY
        + device("A78", "plc")
        + rungs("C7+ > K78:no > A78:I1-M > C7-")
    ),
    "spacing-adapter": ul(change(r'(kind = "dol"\n)', r'\1protection = "motor-breaker"\n')),
}
"""What a panel must have besides, to be asked for it."""


@pytest.mark.parametrize(("rule", "said"), SILENT, ids=[f"{n}-{rule}" for n, (rule, _) in enumerate(SILENT)])
def test_what_a_catalogue_entry_does_not_say_is_asked_for(rule: str, said: tuple[str, str, str | None]) -> None:
    kind, word, value = said
    tried = 0
    for seed in range(700, 760):
        text = _HAVING.get(rule, str)(sound_text(seed))
        if text is None:
            continue
        plan = plan_of(text)
        wanted = kind if rule != "mirror-contact" else "reversing"
        if not any(part.kind == kind for part in plan.parts.values()) or wanted not in {
            kind,
            *(s.kind for s in plan.job.starters),
        }:
            continue
        parts = {d: _saying(part, word, value) if part.kind == kind else part for d, part in plan.parts.items()}
        found = [one for one in find_all(replace(plan, parts=parts)) if one.rule == rule]
        assert found and (value is not None or found[0].asks == word), seed
        tried += 1
        if tried == 2:
            return
    assert tried


def _saying(part: Part, word: str, value: str | None) -> Part:
    traits = {k: v for k, v in part.traits.items() if k != word} | ({word: value} if value is not None else {})
    return replace(part, traits=traits, ratings={k: v for k, v in part.ratings.items() if k != word})


def found_on(rule: str, fault: Fault, seeds: range) -> list[bool]:
    """Return of each sound panel on which a fault can be made whether it is found."""
    briefs = filter(None, (fault(sound_text(seed)) for seed in seeds))
    return [rule in {finding.rule for finding in find_all(plan_of(brief))} for brief in briefs]


DRAWN = FAULTS if EFFORT >= 0.5 else FAULTS[::3]
"""Every third one in a short run: each rule has its pair besides."""


@pytest.mark.parametrize(("rule", "fault"), DRAWN, ids=[f"{n}-{rule}" for n, (rule, _) in enumerate(DRAWN)])
def test_a_fault_is_found_on_whatever_panel_it_is_made(rule: str, fault: Fault) -> None:
    """Other panels and other mends than the pairs: written from what each rule asks and from the form of a brief."""
    seeds = range(700, 700 + 60)
    tried = [seed for seed in seeds if fault(sound_text(seed)) is not None][: max(1, examples(10) // 3)]
    assert tried, "no sound panel has what the fault is made on"
    for seed in tried:
        assert all(found_on(rule, fault, range(seed, seed + 1))), f"seed {seed}"
