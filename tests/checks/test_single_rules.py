"""Rules that one stated thing sets off and its opposite does not."""

import pytest

from riktig.checks.run import find_all
from support import HEAD, STARTER, plan_of, small_text

SOUND = HEAD.replace("[supply]", "[supply]\nfault_ka = 10") + STARTER
HEATER = '[device.Q8]\nkind = "breaker"\n[device.E8]\nkind = "heater"\nkw = 2\nat = "field"\n'
TOGETHER = '[[feeder]]\npath = "L1 L2 > Q8 > E8"\n'
APART = (
    '[device.Q9]\nkind = "breaker"\n[[feeder]]\npath = "L1 > Q8 > @h1"\n[[feeder]]\npath = "L2 > Q9 > @h2"\n'
    '[[feeder]]\npath = "@h1 @h2 > E8"\n'
)
FAR = HEAD.replace("[location.st2]", "[location.st2]\ndistance = {m}") + STARTER + 'motor_at = "st2"\n'
SMALL_DOOR = HEAD.replace("width = 800\nheight = 1200", "width = 300\nheight = 300")
TWO = '[device.S20]\nkind = "pushbutton"\n[device.S21]\nkind = "pushbutton"\n[kept.places]\nS20 = "door 200 600"\n'
KEPT_DOOR = HEAD + TWO + 'S21 = "door {x} 600"\n'
KEPT_APART = '[kept.places]\n"M1.KR" = "R1 700"\n'
BUTTONS = "".join(f'[device.S{n}]\nkind = "pushbutton"\nat = "{{place}}"\n' for n in range(20, 50))
MANY = "".join(f'[device.S{n}]\nkind = "pushbutton"\nat = "st1"\n' for n in range(20, 320))
IN_BOX = HEAD + STARTER.replace('supply = "C1"', 'supply = "C1"\nbuttons_at = "st1"')
KEPT_HOLES = '[kept.holes]\n"{}" = "100 {}"\n"{}" = "100 {}"\n'
THIN = '[kept.values]\n"M1|cable_section" = "1.5 | as found"\n'
LOCKED = STARTER.replace("kw = 1.5", 'kind = "reversing"\nkw = 1.5\ninterlock = "mechanical"')
ULS = small_text("ul").replace('kind = "dol"\n', 'kind = "dol"\nprotection = "motor-breaker"\n')


def rules(text: str) -> set[str]:
    return {f.rule for f in find_all(plan_of(text))}


@pytest.mark.parametrize(
    ("rule", "wrong", "right"),
    [
        # in IT a second fault opens a circuit only where both lie on one earth: IEC 60364-4-41 411.6, from memory
        ("disconnection-it", SOUND.replace("[supply]", '[supply]\nearthing = "it"'), SOUND),
        # a slash-rated device stands between line and earth 277 V only: UL 508A SB4.2.4, NEC 240.85, from memory
        ("slash-rating", ULS.replace('earthing = "wye-grounded"', 'earthing = "delta"'), ULS),
        # conductors are sized for the air that is declared: IEC 60204-1:2016 12.4, from memory
        ("declared-rise", SOUND + '[starter.M9]\nkind = "drive"\nkw = 30\nsupply = "C1"\n', SOUND),
        # what hangs between two lines is opened in both: IEC 60364-4-43 431.1, NEC 210.10, from memory
        # 5 % at most along a motor's cable: IEC 60204-1:2016 12.5, from memory; 3.4 A over 400 m of 1.5 mm2, 12.1 ohm/km, drop 7 %
        ("voltage-drop", FAR.format(m=400) + THIN, FAR.format(m=12) + THIN),
        # 30 buttons of 22 mm and their legends fill no door of 300 x 300, and no box of the series
        ("door-too-small", SMALL_DOOR + BUTTONS.format(place="door"), HEAD + BUTTONS.format(place="door")),
        ("station-too-small", HEAD + MANY, HEAD + BUTTONS.format(place="st1")),
        # 22 mm devices stand 30 x 40 mm apart at least: IEC 60947-5-1 6.3, from memory
        ("door-holes-close", KEPT_DOOR.format(x=225), KEPT_DOOR.format(x=260)),
        (
            "station-holes-close",
            IN_BOX + KEPT_HOLES.format("M1.S0", 40, "M1.S1", 60),
            IN_BOX + KEPT_HOLES.format("M1.S0", 40, "M1.S1", 90),
        ),
        (
            "entries-close",
            HEAD + STARTER + KEPT_HOLES.format("cable:supply", 60, "cable:W1", 70),
            HEAD + STARTER + KEPT_HOLES.format("cable:supply", 60, "cable:W1", 130),
        ),
        # a mechanical interlock snaps between its two contactors: geometry
        ("interlock-apart", HEAD + LOCKED + KEPT_APART, HEAD + LOCKED),
        ("one-pole", SOUND + HEATER + APART, SOUND + HEATER + TOGETHER),
    ],
)
def test_a_rule_speaks_where_it_should_and_is_silent_beside(rule: str, wrong: str, right: str) -> None:
    assert rule in rules(wrong) and rule not in rules(right)
