"""For each rule a panel that passes it, the smallest change that turns it red, and another mend than taking the change back, where there
is one. What a rule asks is what the clause beside it in the book asks; figures that a pair is built on stand beside it.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from support import HEAD, STARTER, small_text


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """`parts` are words and ratings that the parts of some devices have in the wrong panel, None: not at all."""

    rule: str
    sound: str
    wrong: str
    mend: str | None = None
    parts: Mapping[str, Mapping[str, str | float | None]] = field(default_factory=dict)


def device(name: str, kind: str, *keys: str) -> str:
    return "\n".join((f"[device.{name}]", f'kind = "{kind}"', *keys, ""))


def rung(path: str) -> str:
    return f'[[rung]]\npath = "{path}"\n'


def feeder(path: str) -> str:
    return f'[[feeder]]\npath = "{path}"\n'


BASE = HEAD.replace("[supply]", "[supply]\nfault_ka = 10") + STARTER
UL = small_text("ul").replace("hp = 10", "hp = 10\namps = 13.4")
CORNER = HEAD.replace(
    '"3ph+n"\nvolts = 400',
    '"3ph"\nvolts = 240\nearthing = "corner-grounded"\nfault_ka = 5\n[practice]\nstandard = "ul"',
).replace('from = "L1 L2"\n', "").replace("volts = 230", "volts = 120")  # fmt: skip
LARGE = BASE.replace("kw = 1.5", "kw = 75").replace(
    "width = 800\nheight = 1200", "width = 1600\nheight = 2000\ndepth = 400"
)
DC = '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n'
TT = BASE.replace("[supply]", '[supply]\nearthing = "tt"\nrcd_ma = 300\n{}')
DRIVE = STARTER.replace("M1", "M2").replace("kw = 1.5", 'kind = "drive"\nkw = 2.2')
REVERSING = HEAD + STARTER.replace("kw = 1.5", 'kind = "reversing"\nkw = 1.5\n{}')
HELD = (
    REVERSING.format('hold_to_run = true\nlimits = ["B1", "B2"]')
    + device("B1", "limit-switch")
    + device("B2", "limit-switch")
)
OWN = (
    device("Q7", "breaker")
    + device("K7", "contactor")
    + device("M7", "motor", "kw = 4", "amps = 8.2")
    + device("F7", "overload")
)
OWN += device("S7", "pushbutton")
RUN = rung("C1+ > F7:95-96 > S7:no > K7:coil > C1-")
LINE = feeder("L1 L2 L3 > Q7 > K7 > F7 > M7")
HEATER = device("Q8", "breaker") + device("E8", "heater", "kw = 2", 'at = "field"')
APART = device("Q9", "breaker") + feeder("L1 > Q8 > @h1") + feeder("L2 > Q9 > @h2") + feeder("@h1 @h2 > E8")
BUTTONS = "".join(device(f"S{n}", "pushbutton", 'at = "{place}"') for n in range(20, 50))
RELAY = device("K9", "relay") + device("S9", "pushbutton") + device("P1", "lamp") + device("P2", "lamp")
COIL = rung("C1+ > S9:no > K9:coil > C1-")
FAR = BASE.replace("[location.st2]", "[location.st2]\ndistance = {m}") + 'motor_at = "st2"\n'
THIN = '[kept.values]\n"M1|cable_section" = "1.5 | as found"\n'
SPEEDS = HEAD + "".join(
    device(name, kind, *keys)
    for name, kind, *keys in (
        ("Q1", "breaker"), ("K1", "contactor"), ("K2", "contactor"), ("F1", "overload", "amps = 11"), ("F2", "overload", "amps = 15"),
        ("M1", "motor", "kw = 7.5", "amps = 15"),
    )
) + "".join(map(feeder, (
    "L1 L2 L3 > Q1 > @q1 @q2 @q3", "@q1 @q2 @q3 > K1 > F1 > @a1 @a2 @a3", "@q1 @q2 @q3 > K2 > F2 > @b1 @b2 @b3", "@a1 > M1:1U-1V > @a2",
    "@a2 > M1:1V-1W > @a3", "@b1 > M1:2U-2V > @b2", "@b2 > M1:2V-2W > @b3",
))) + "".join(rung(f"C1+ > F{n}:nc > K{m}:nc > K{n}:coil > C1-") for n, m in ((1, 2), (2, 1)))  # fmt: skip
VALVES = device("S1", "pushbutton") + rung("C2+ > S1:no > @on")
VALVES += "".join(device(f"Y{n}", "valve", "va = {va}") + rung(f"@on > Y{n} > C2-") for n in range(8))
CLASS_2 = UL + '[location.hut]\nbands = "{0}"\n[control.C9]\nkind = "psu"\nfrom = "L1 L2"\n'
CLASS_2 += "class_2 = true\n" + "".join(device(name, "lamp", 'at = "hut"') for name in ("P8", "P9"))
CLASS_2 += rung("C9+ > P8 > C9-") + rung("C1+ > P9 > C1-")
FAN = device("V1", "fan", 'at = "left_wall"', "va = 40") + device("Q9", "breaker") + feeder("L1 N > Q9 > V1")
INPUTS = RELAY + device("P9", "plc") + COIL + rung("C2+ > K9:no > P9:I1-M > C2-")
FAR_MOTOR = '[location.far]\ndistance = 30\n[starter.M8]\nhp = 2\namps = 3\nsupply = "C1"\nmotor_at = "far"\n'
TRANSFORMER = '"transformer"\nfrom = "L1 L2"'
FANS = FAN + device("V2", "fan", 'at = "left_wall"', "va = 40") + feeder("L2 N > Q9 > V2")
PLACES = '[kept.places]\n"{}" = "{}"\n'
HOLES = '[kept.holes]\n"{}" = "{}"\n"{}" = "{}"\n'
STATION = HEAD + STARTER.replace('supply = "C1"', 'supply = "C1"\nbuttons_at = "st1"')
ELSEWHERE = HEAD + STARTER + '[extra_supply.P]\nsystem = "3ph"\nvolts = 230\nisolated = "elsewhere"\n'

PAIRS = (
    # earth
    Pair(rule="bonded-twice", sound=BASE + DC, wrong=BASE + DC + device("W7", "link") + rung("C2- > W7 > PE")),
    Pair(rule="arrester-earth", sound=BASE + "[surge.F9]\n",
         wrong=BASE + '[surge.F9]\n[kept.values]\n"F9.PE:out F9:PE|wire_section" = "2.5 | at hand"\n'),
    Pair(rule="grounded-line", sound=CORNER + HEATER + feeder("L1 L2 > Q8 > E8"),
         wrong=(CORNER + HEATER + feeder("L1 L2 > Q8 > E8")).replace('"breaker"', '"fuse"')),
    # isolation
    Pair(rule="disconnect-type", sound=BASE, wrong=BASE, parts={"Q0": {"type": "IEC 60947-4-1"}}),
    Pair(rule="disconnect-lock", sound=BASE, wrong=BASE, parts={"Q0": {"padlock": None}}),
    Pair(rule="handle-colour", sound=BASE + "[incoming]\n", wrong=BASE + '[incoming]\nswitch = "plate"\nhandle = "red-yellow"\n',
         mend=BASE + '[incoming]\nhandle = "red-yellow"\n'),
    Pair(rule="inside-handle", sound=UL + "[incoming]\ninside_handle = true\n", wrong=UL + "[incoming]\ninside_handle = false\n",
         mend=UL.replace("[supply]", 'scope = "assembly"\n[supply]')),
    Pair(rule="door-lock", sound=UL, wrong=UL + '[incoming]\nswitch = "plate"\n',
         mend=UL.replace("[enclosure]", '[enclosure]\nlock = "interlock"') + '[incoming]\nswitch = "plate"\n'),
    Pair(rule="live-shroud", sound=LARGE + "[incoming]\nshrouded = true\n", wrong=LARGE + "[incoming]\nshrouded = false\n", mend=BASE),
    Pair(rule="ahead-of-switch", sound=BASE + device("P9", "lamp") + device("F9", "breaker") + feeder("L1 > F9 > P9:lamp > N"),
         wrong=BASE + device("P9", "lamp") + device("F9", "breaker") + feeder("in.L1 > F9 > P9:lamp > N")),
    Pair(rule="second-supply", sound=ELSEWHERE + 'title = "panel 9"\n', wrong=ELSEWHERE),
    # overcurrent
    Pair(rule="own-protection", sound=BASE + OWN + LINE + RUN, wrong=BASE + OWN + LINE.replace("Q7 > ", "") + RUN),
    Pair(rule="one-pole", sound=BASE + HEATER + feeder("L1 L2 > Q8 > E8"), wrong=BASE + HEATER + APART),
    Pair(rule="poles", sound=BASE, wrong=BASE + '[kept.parts]\n"C1.FP" = "cb1-d2"\n'),
    Pair(rule="conductor-protection", sound=BASE, wrong=BASE.replace("volts = 230", "volts = 230\namps = 10")
         + '[kept.values]\n"C1|conductor_section" = "1 | it is there"\n'),  # 1 mm² carries 9.4 A in the panel: Table 6 B1, D.1
    Pair(rule="neutral", sound=HEAD + "".join(f'[way.W{n}]\namps = 16\nline = "L1"\n' for n in (1, 2, 3)),
         wrong=HEAD + "".join(f'[way.W{n}]\namps = 16\nline = "L1"\n' for n in (1, 2, 3))
         + '[kept.values]\n"Q0|main_section" = "4 | at hand"\n',
         mend=HEAD + "".join(f'[way.W{n}]\namps = 16\nline = "L{n}"\n' for n in (1, 2, 3))
         + '[kept.values]\n"Q0|main_section" = "6 | at hand"\n'),
    Pair(rule="passed-on", sound=LARGE + "[pass_through]\n", wrong=LARGE + "[pass_through]\nsection_mm2 = 10\n"),
    Pair(rule="supply-protection", sound=BASE.replace("[supply]", "[supply]\nprotection_a = 10"),
         wrong=BASE.replace("[supply]", "[supply]\nprotection_a = 400")),
    Pair(rule="given-rating", sound=BASE + OWN + LINE + RUN,
         wrong=BASE + OWN.replace('"breaker"\n', '"breaker"\namps = 6\n') + LINE + RUN,
         mend=BASE + OWN.replace('"breaker"\n', '"breaker"\namps = 16\n') + LINE + RUN),
    Pair(rule="drive-protection", sound=BASE + DRIVE, wrong=BASE + DRIVE, parts={"M2.A": {"guard": "fuse"}}),
    Pair(rule="drive-protection", sound=BASE + DRIVE, wrong=BASE + DRIVE, parts={"M2.A": {"guard_max_a": 4.0}}),
    Pair(rule="not-sized", sound=BASE + OWN + LINE + RUN, wrong=BASE + OWN.replace("kw = 4\namps = 8.2\n", "") + LINE + RUN,
         mend=BASE + OWN.replace("kw = 4\n", "") + LINE + RUN),
    # short circuit
    Pair(rule="short-circuit-rating", sound=BASE, wrong=BASE.replace("fault_ka = 10", "fault_ka = 120")),
    Pair(rule="short-circuit-proof", sound=BASE.replace("fault_ka = 10", "fault_ka = 9"),
         wrong=BASE.replace("fault_ka = 10", "fault_ka = 12")),  # 10 kA: IEC 61439-1 10.11.2
    Pair(rule="slash-rating", sound=UL.replace('kind = "dol"\n', 'kind = "dol"\nprotection = "motor-breaker"\n'),
         wrong=UL.replace('kind = "dol"\n', 'kind = "dol"\nprotection = "motor-breaker"\n').replace("wye-grounded", "delta")),
    Pair(rule="spacing-adapter", sound=UL.replace('kind = "dol"\n', 'kind = "dol"\nprotection = "motor-breaker"\n'),
         wrong=UL.replace('kind = "dol"\n', 'kind = "dol"\nprotection = "motor-breaker"\n'), parts={"M1.Q": {"line_adapter": None}}),
    Pair(rule="fault-assumed", sound=BASE, wrong=HEAD + STARTER),
    # motors
    Pair(rule="motor-overload", sound=BASE + OWN + LINE + RUN,
         wrong=BASE + OWN.replace(device("F7", "overload"), "") + LINE.replace("F7 > ", "") + RUN.replace("F7:95-96 > ", "")),
    Pair(rule="trip-unused", sound=BASE + OWN + LINE + RUN, wrong=BASE + OWN + LINE + RUN.replace("F7:95-96 > ", "")),
    Pair(rule="overload-dial", sound=SPEEDS, wrong=SPEEDS.replace("amps = 15", "amps = 16", 1)),
    Pair(rule="motor-speeds", sound=SPEEDS, wrong=SPEEDS.replace("amps = 11\n", "")),
    Pair(rule="overload-range", sound=BASE, wrong=BASE.replace("kw = 1.5", "kw = 900\namps = 1500")),
    Pair(rule="trip-class", sound=BASE, wrong=BASE.replace("kw = 1.5", "kw = 1.5\nstart_seconds = 12"),
         mend=BASE.replace("kw = 1.5", 'kw = 1.5\nstart_seconds = 12\nkind = "soft"')),  # class 30 is sure for 9 s: Table 2
    Pair(rule="motor-volts", sound=BASE.replace("kw = 1.5", 'kw = 1.5\nmotor_volts = "230/400"'),
         wrong=BASE.replace("kw = 1.5", 'kw = 1.5\nmotor_volts = "230"')),
    Pair(rule="delta-voltage", sound=BASE.replace("kw = 1.5", 'kw = 11\nkind = "star-delta"\nmotor_volts = "400/690"'),
         wrong=BASE.replace("kw = 1.5", 'kw = 11\nkind = "star-delta"\nmotor_volts = "230/400"'),
         mend=BASE.replace("kw = 1.5", 'kw = 11\nkind = "dol"\nmotor_volts = "230/400"')),
    Pair(rule="motor-estimated", sound=BASE, wrong=BASE.replace("kw = 1.5", "kw = 300"),
         mend=BASE.replace("kw = 1.5", "kw = 300\namps = 520")),
    Pair(rule="motor-nameplate", sound=UL, wrong=UL.replace("amps = 13.4\n", "")),
    Pair(rule="enable-open", sound=BASE + DRIVE, wrong=BASE + device("A7", "drive") + OWN.replace(device("F7", "overload"), "")
         + feeder("L1 L2 L3 > Q7 > A7 > M7")),
    Pair(rule="behind-drive", sound=BASE + DRIVE,
         wrong=BASE + OWN + device("A7", "drive") + feeder("L1 L2 L3 > Q7 > A7 > K7 > F7 > M7") + RUN),
    Pair(rule="in-sight", sound=UL, wrong=UL + FAR_MOTOR, mend=UL + FAR_MOTOR + "isolator = true\n"),
    Pair(rule="reversing-duty", sound=BASE, wrong=REVERSING.format("")),
    Pair(rule="hoist-limits", sound=HELD, wrong=HELD.replace('limits = ["B1", "B2"]\n', "")),
    Pair(rule="hoist-brake", sound=BASE, wrong=HELD),
    Pair(rule="voltage-drop", sound=FAR.format(m=12) + THIN, wrong=FAR.format(m=400) + THIN),  # 3.4 A over 12.1 Ω/km drop 7 %
    # control
    Pair(rule="control-voltage", sound=UL, wrong=UL.replace("volts = 120", "volts = 230")),
    Pair(rule="control-transformer", sound=BASE, wrong=BASE.replace(TRANSFORMER, '"direct"') + STARTER.replace("M1", "M2"),
         mend=BASE.replace("[supply]", '[practice]\nscope = "assembly"\n[supply]').replace(TRANSFORMER, '"direct"')
         + STARTER.replace("M1", "M2")),
    Pair(rule="overload-on-return", sound=BASE, wrong=BASE.replace("volts = 230", "volts = 230\nearthed = false").replace(
        'supply = "C1"', 'supply = "C1"\noverload_contact = "return"'), mend=BASE.replace("volts = 230", "volts = 230\nearthed = false")),
    Pair(rule="control-groups", sound=BASE + DC, wrong=BASE + DC + "va = 480\n[control.C3]\ngroup_of = \"C2\"\namps = 13\n"),
    Pair(rule="contact-duty", sound=BASE + DC + VALVES.replace("{va}", "4"), wrong=BASE + DC + VALVES.replace("{va}", "12")),
    Pair(rule="low-level", sound=BASE + DC + INPUTS, wrong=BASE + DC + INPUTS, parts={"K9": {"least_ma": 20.0}}),
    Pair(rule="other-return", sound=BASE + DC + RELAY + COIL, wrong=BASE + DC + RELAY + COIL.replace("C1-", "C2-")),
    Pair(rule="supplies-joined", sound=BASE + DC + RELAY + COIL + rung("C1+ > K9:11-14 > P1 > C1-") + rung("C2+ > K9:21-22 > P2 > C2-"),
         wrong=BASE + DC + RELAY.replace('"relay"', '"relay"\npart = "rl-1"') + COIL + rung("C1+ > K9:11-14 > P1 > C1-")
         + rung("C2+ > K9:11-12 > P2 > C2-")),
    Pair(rule="fed-twice", sound=BASE + HEATER + feeder("L1 L2 > Q8 > E8"), wrong=BASE + HEATER + device("Q9", "breaker")
         + feeder("L1 L2 > Q8 > @a @b") + feeder("L1 L2 > Q9 > @a @b") + feeder("@a @b > E8")),
    Pair(rule="coil-open", sound=BASE + RELAY + COIL, wrong=BASE + RELAY + rung("C1+ > S9:no > K9:11-14 > P1 > C1-")),
    Pair(rule="behind-load", sound=BASE + HEATER + feeder("L1 L2 > Q8 > E8"),
         wrong=BASE + HEATER + device("Q9", "breaker") + feeder("L1 L2 > Q8 > E8 > Q9 > @a @b")),
    # behaviour
    Pair(rule="emergency-stop", sound=BASE + "[estop.E1]\n", wrong=BASE,
         mend=BASE + '[risk]\nemergency_stop = "none"\nperson = "I. Farrow"\ndate = 2026-11-30\n'),
    Pair(rule="emergency-stop-relay", sound=BASE, wrong=BASE + "[estop.E1]\n",
         mend=BASE + '[estop.E1]\n[risk]\nperformance_level = "c"\nperson = "I. Farrow"\ndate = 2026-11-30\n'),
    Pair(rule="automatic-restart", sound=BASE, wrong=BASE.replace("kw = 1.5", 'kw = 1.5\ncontrol = "selector"\nrestart = "automatic"'),
         mend=BASE.replace("kw = 1.5", 'kw = 1.5\ncontrol = "selector"\nrestart = "automatic"')
         + '[risk]\nrestart = "a pit pump"\nperson = "I. Farrow"\ndate = 2026-11-30\n'),
    # shock
    Pair(rule="earth-electrode", sound=TT.format("earth_ohm = 100"), wrong=TT.format("earth_ohm = 200"),
         mend=TT.format("earth_ohm = 200").replace("rcd_ma = 300", "rcd_ma = 100")),  # 50 V / 0.3 A = 167 Ω
    Pair(rule="drive-guard", sound=BASE + DRIVE, wrong=BASE + device("R7", "rcd") + device("A7", "drive") + device("Q7", "breaker")
         + device("M7", "motor", "kw = 4", "amps = 8.2") + feeder("L1 L2 L3 N > Q7 > R7 > @a @b @c @n") + feeder("@a @b @c > A7 > M7")),
    Pair(rule="residual-voltage", sound=BASE, wrong=BASE + DRIVE),
    Pair(rule="earth-current", sound=BASE + DRIVE, wrong=BASE + DRIVE, parts={"M2.A": {"leakage_ma": None}}),
    Pair(rule="disconnection", sound=TT.format(""), wrong=TT.format("").replace("rcd_ma = 300\n", "")),
    Pair(rule="disconnection-it", sound=BASE, wrong=BASE.replace("[supply]", '[supply]\nearthing = "it"')),
    # wiring
    Pair(rule="insulation", sound=BASE, wrong=BASE.replace("[supply]", "[practice]\nwire_volts = 300\n[supply]")),
    Pair(rule="colours", sound=BASE + '[colours]\nneutral = "light blue"\npower = "brown"\n', wrong=BASE + '[colours]\nneutral = "grey"\n'),
    Pair(rule="not-wired", sound=BASE, wrong=BASE + device("M8", "motor", "kw = 3")),
    Pair(rule="open-lead", sound=BASE + HEATER + feeder("L1 > Q8 > E8 > N"), wrong=BASE + HEATER + feeder("L1 > Q8 > E8")),
    Pair(rule="bar-full", sound=BASE, wrong=BASE + '[kept.clamps]\n"PE.bar|PE.plate:PE" = "PE.bar:40"\n'),
    Pair(rule="contact-common", sound=BASE + RELAY + COIL + rung("C1+ > K9:11-12 > P1 > C1-") + rung("C1+ > K9:11-14 > P2 > C1-"),
         wrong=BASE + RELAY + COIL + rung("C1+ > K9:11-12 > P1 > C1-") + rung("C1+ > P2 > K9:11-14 > C1-")),
    Pair(rule="contact-twice", sound=BASE + RELAY + COIL + rung("C1+ > K9:11-14 > P1 > C1-") + rung("C1+ > K9:21-24 > P2 > C1-"),
         wrong=BASE + RELAY + COIL + rung("C1+ > K9:11-14 > P1 > C1-") + rung("C1+ > K9:11-14 > P2 > C1-")),
    Pair(rule="part-standard", sound=BASE, wrong=BASE, parts={"M1.K": {"type": "UL 60947-4-1"}}),
    Pair(rule="part-conditions", sound=BASE, wrong=BASE, parts={"M1.K": {"conditions": "behind a door that a tool opens"}}),
    Pair(rule="part-too-small", sound=BASE + RELAY,
         wrong=BASE + RELAY.replace('"pushbutton"\n', '"pushbutton"\ncontacts = ["no"]\npart = "pb22-10"\n')
         + rung("C1+ > S9:no > P1 > C1-") + rung("C1+ > S9:no > P2 > C1-")),
    Pair(rule="rating-missing", sound=BASE, wrong=BASE + device("F9", "breaker", 'part = "sx1-c6"')),
    Pair(rule="unknown-part", sound=BASE, wrong=BASE + '[kept.parts]\n"M1.K" = "xx-99"\n'),
    # enclosure
    Pair(rule="declared-rise", sound=BASE, wrong=BASE + DRIVE.replace("kw = 2.2", "kw = 7.5")),
    Pair(rule="enclosure-degree", sound=BASE.replace("[enclosure]", '[enclosure]\nrating = "IP54"'),
         wrong=BASE.replace("[enclosure]", '[enclosure]\nrating = "tight"')),
    Pair(rule="opening-rating", sound=BASE, wrong=BASE + '[excepted.X1]\nload = "fan"\n',
         mend=BASE.replace("[enclosure]", '[enclosure]\nrating = "IP54"') + '[excepted.X1]\nload = "fan"\n'),
    Pair(rule="cold-enclosure", sound=BASE, wrong=BASE.replace("[enclosure]", "[enclosure]\nambient_min = 0"),
         mend=BASE.replace("[enclosure]", "[enclosure]\nambient_min = 0") + '[excepted.X1]\nload = "heater"\n'),
    Pair(rule="condensation", sound=BASE, wrong=BASE.replace("[enclosure]", "[enclosure]\noutdoors = true"),
         mend=BASE.replace("[enclosure]", "[enclosure]\noutdoors = true") + '[excepted.X1]\nload = "heater"\n'),
    Pair(rule="inside-temperature", sound=BASE, wrong=BASE.replace("width = 800\nheight = 1200", "width = 400\nheight = 600\ndepth = 200")
         + DRIVE.replace("kw = 2.2", "kw = 15")),
    Pair(rule="entry-wall-full", sound=BASE, wrong=BASE.replace("width = 800", "width = 200\ndepth = 100")
         + "".join(STARTER.replace("M1", f"M{n}") for n in range(2, 9))),
    Pair(rule="entries-close", sound=HEAD + STARTER + HOLES.format("cable:supply", "100 60", "cable:W1", "100 130"),
         wrong=HEAD + STARTER + HOLES.format("cable:supply", "100 60", "cable:W1", "100 70")),
    Pair(rule="operator-height", sound=BASE, wrong=BASE.replace("[enclosure]", "[enclosure]\nfloor_to_bottom = 1900")),
    # plate and door
    Pair(rule="plate-too-small", sound=BASE, wrong=BASE.replace("height = 1200", "height = 250")),
    Pair(rule="plate-too-narrow", sound=BASE, wrong=BASE.replace("width = 800", "width = 150")),
    Pair(rule="plate-overlap", sound=BASE, wrong=BASE + PLACES.format("M1.Q", "plate 300 600")),
    Pair(rule="plate-rail", sound=BASE, wrong=BASE + PLACES.format("M1.Q", "plate 300 600")),
    Pair(rule="plate-reach", sound=BASE, wrong=BASE + PLACES.format("M1.Q", "plate 300 600")),
    Pair(rule="plate-room", sound=BASE, wrong=BASE + PLACES.format("C1.T", "plate 602 1000")),  # 5 of 30 mm to the duct above
    Pair(rule="class-2-cable", sound=CLASS_2.format("apart"), wrong=CLASS_2.format("shared"), mend=CLASS_2.format("apart")),
    Pair(rule="plate-loose", sound=BASE, wrong=BASE + PLACES.format("duct:D5", "h 300 560 200 40 60")),
    Pair(rule="interlock-apart", sound=REVERSING.format('interlock = "mechanical"'),
         wrong=REVERSING.format('interlock = "mechanical"') + PLACES.format("M1.KR", "R1 700")),
    Pair(rule="door-too-small", sound=HEAD + BUTTONS.format(place="door"),
         wrong=HEAD.replace("width = 800\nheight = 1200", "width = 300\nheight = 300") + BUTTONS.format(place="door")),
    Pair(rule="door-holes-close",
         sound=BASE + RELAY + device("S8", "pushbutton") + '[kept.places]\nS9 = "door 200 600"\nS8 = "door 260 600"\n',
         wrong=BASE + RELAY + device("S8", "pushbutton") + '[kept.places]\nS9 = "door 200 600"\nS8 = "door 225 600"\n'),
    Pair(rule="wall-too-small", sound=BASE + FAN, wrong=BASE + FAN + '[kept.holes]\n"V1" = "20 300"\n'),
    Pair(rule="wall-holes-close", sound=BASE + FANS + HOLES.format("V1", "125 300", "V2", "125 600"),
         wrong=BASE + FANS + HOLES.format("V1", "125 300", "V2", "125 320")),
    Pair(rule="station-too-small", sound=HEAD + BUTTONS.format(place="st1"),
         wrong=HEAD + "".join(device(f"S{n}", "pushbutton", 'at = "st1"') for n in range(20, 320))),
    Pair(rule="station-holes-close", sound=STATION + HOLES.format("M1.S0", "100 40", "M1.S1", "100 90"),
         wrong=STATION + HOLES.format("M1.S0", "100 40", "M1.S1", "100 60")),
    Pair(rule="piece-too-long", sound=BASE, wrong=BASE.replace("width = 800\nheight = 1200", "width = 2200\nheight = 2500"),
         mend=BASE.replace("width = 800\nheight = 1200", "width = 2200\nheight = 2500").replace(
             "[supply]", "[practice]\nstock = 6000\n[supply]")),
    # marking
    Pair(rule="set-by-hand", sound=BASE, wrong=BASE + '[kept.values]\n"M1|conductor_section" = "4 | the customer asks for it"\n'),
    Pair(rule="nameplate", sound=BASE.replace('"T-1"', '"T-1"\nmaker = "A"\nserial = "1"\nyear = 2026\ndocument = "D"'), wrong=BASE),
    Pair(rule="waiver-idle", sound=BASE, 
         wrong=BASE + '[[waiver]]\nrule = "nothing-of-it"\nreason = "x"\nperson = "I. Farrow"\ndate = 2026-11-30\n'),
)  # fmt: skip
