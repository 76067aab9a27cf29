"""What does not fit together in a Job is named with its place and mend, all of it at once."""

import pytest

from riktig.files.brief_reader import BriefError, parse_brief
from riktig.job.faults import did_you_mean
from riktig.job.names import known_potentials
from riktig.job.roles import roles_of
from support import HEAD, STARTER

BASE = HEAD + STARTER


def faults(text: str) -> str:
    with pytest.raises(BriefError) as caught:
        parse_brief(text)
    return str(caught.value)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (BASE + '[device.M1]\nkind = "lamp"\n', "two things are called 'M1'"),
        (BASE + '[device.L1]\nkind = "lamp"\n', "'L1' is taken by Riktig"),
        (BASE.replace("[location.st1]", "[location.door]"), "'door' is taken by Riktig"),
        (
            BASE + '[[rung]]\nname = "a"\npath = "C1+ > M1.H > C1-"\n[[rung]]\nname = "a"\npath = "C1+ > M1.H > C1-"\n',
            "two paths",
        ),
        (HEAD.replace('from = "L1 L2"', 'from = "L1 L9"'), "'L9' is no line of this supply"),
        (HEAD.replace('from = "L1 L2"', 'from = "L1"'), "a transformer is fed from two lines"),
        (HEAD.replace('from = "L1 L2"', 'from = "L1 L1"'), "two different ones"),
        (HEAD.replace('from = "L1 L2"\nvolts = 230', 'from = "L1 L2"'), "give the secondary voltage"),
        (
            HEAD.replace('"3ph+n"', '"3ph"').replace(
                'kind = "transformer"\nfrom = "L1 L2"', 'kind = "direct"\nfrom = "L1"'
            ),
            "has no neutral",
        ),
        (BASE + 'buttons_at = "cellar"\n', "declare [location.cellar]"),
        (BASE + 'motor_at = "door"\n', "a motor stands at a location"),
        (BASE.replace('"3ph+n"', '"1ph+n"').replace("L1 L2", "L1 N"), "write phases = 1"),
        (BASE + '[device.S9]\nkind = "pushbutton"\nat = "st3"\n', "did you mean 'st"),
        (BASE + '[device.S9]\nkind = "pushbutton"\ncontacts = ["na"]\n', "use no, nc, co"),
        (BASE + '[device.S9]\nkind = "pushbutton"\npart = "pb22-1O"\n', "did you mean 'pb22-"),
        (BASE + '[device.S9]\nkind = "pushbutton"\npart = "rl-2"\n', "no pushbutton 'rl-2' in the catalogue"),
        (BASE + "[incoming]\npoles = 4\n[supply2]\n", "unknown table 'supply2'"),
        (BASE.replace('"3ph+n"', '"3ph"') + "[incoming]\npoles = 4\n", "4 poles for 3 conductors"),
        (BASE + '[[rung]]\npath = "C1+ > M1.K:auf > C1-"\n', "'auf' is no contact"),
        (BASE + '[[rung]]\npath = "C2+ > M1.K:no > C1-"\n', "nothing declares 'C2+' (did you mean 'C1+'?)"),
        (BASE + '[[rung]]\npath = "C1+ > M7.K:no > C1-"\n', "nothing declares 'M7.K'"),
        (BASE + '[rung]\npath = "x"\n', "write [[rung]] with two brackets"),
        (BASE + "[device]\nS9 = 3\n", "write [device.S9] and its keys below it"),
        (BASE + "[kept]\nnumbrs = {}\n", "did you mean 'numbers'"),
        ("brief = 1\njob = 3\n[supply]\nsystem = '3ph'\nvolts = 400\n", "write [job] and its keys below it"),
        ("brief = 1\n[job]\nnumber = ''\n[supply]\nsystem = '3ph'\nvolts = 400\n", "job.number"),
        ("[job]\nnumber = '1'\n", "write brief = 1 on the first line"),
        ("brief = 1\n[job]\nnumber = '1'\n", "[supply] is missing"),
        (BASE + '[starter.9M]\nkw = 1\nsupply = "C1"\n', "is no name"),
    ],
)
def test_a_fault_is_named_with_its_mend(text: str, words: str) -> None:
    assert words in faults(text)


def test_potentials_and_roles_are_those_of_the_supply_and_the_starter() -> None:
    job = parse_brief(HEAD.replace('"3ph+n"', '"3ph"') + STARTER.replace(', "trip"', ""))
    assert known_potentials(job) == {"L1", "L2", "L3", "PE", "in.L1", "in.L2", "in.L3", "in.PE", "C1+", "C1-"}
    assert roles_of(job.starters[0], job) == ("Q", "K", "F", "S0", "S1", "H", "M")


def test_a_near_word_is_offered_and_a_far_one_is_not() -> None:
    assert did_you_mean("contactr", ["contactor", "relay"]) == " (did you mean 'contactor'?)"
    assert did_you_mean("zzz", ["contactor"]) == ""
