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
        ("one-pole", SOUND + HEATER + APART, SOUND + HEATER + TOGETHER),
    ],
)
def test_a_rule_speaks_where_it_should_and_is_silent_beside(rule: str, wrong: str, right: str) -> None:
    assert rule in rules(wrong) and rule not in rules(right)
