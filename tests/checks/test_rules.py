"""Each rule finds its fault, says the mend, and is silent on a sound panel."""

import re

import pytest

from effort import examples
from panels import roomy_panel_text
from riktig.checks.finding import Severity
from riktig.checks.run import find_all
from riktig.job import edits
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of, plan_of, small_text

SOUND = HEAD + STARTER
DIRECT = SOUND.replace('kind = "transformer"\nfrom = "L1 L2"', 'kind = "direct"')
PUSH = '[device.S9]\nkind = "pushbutton"\n'


def rules(text: str) -> dict[str, str]:
    return {finding.rule: finding.message for finding in find_all(plan_of(text))}


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_the_demos_have_nothing_that_must_be_mended(world: str) -> None:
    found = find_all(plan_of(small_text(world).replace("hp = 10", "hp = 10\namps = 13.4")))
    assert [f for f in found if f.severity is not Severity.NOTE] == []


@pytest.mark.parametrize("seed", range(0, 300, 300 // examples(80)))
def test_a_sound_panel_has_nothing_that_must_be_mended(seed: int) -> None:
    """But for coils of direct current that are too much for a contact of pilot duty: true of 4 of the 300."""
    must = [f for f in find_all(plan_of(roomy_panel_text(seed))) if f.severity is Severity.MUST]
    assert [f.message for f in must if f.rule != "contact-duty"] == []


def test_a_part_too_small_for_its_paths_names_the_next_part() -> None:
    """A contact is used once: common practice, no source."""
    text = SOUND + PUSH + 'contacts = ["no"]\npart = "pb22-10"\n'
    text += '[[rung]]\npath = "C1+ > S9:no > M1.H > C1-"\n[[rung]]\npath = "C1+ > S9:no > M1.HT > C1-"\n'
    assert "take Push-button 22 mm, contacts 20" in rules(text)["part-too-small"]
    assert "part-too-small" not in rules(text.replace('contacts = ["no"]\npart = "pb22-10"\n', ""))


def test_a_control_breaker_too_large_for_its_wire_is_found() -> None:
    """By hand: 1 mm2 carries 10.3 A times 0.91 = 9.4 A, 1.5 mm2 12.3 A."""
    plan = plan_of(SOUND.replace("volts = 230", "volts = 230\namps = 10"))
    assert plan.sections.inside["1"].mm2 == 1.5
    thin = (
        SOUND.replace("volts = 230", "volts = 230\namps = 10")
        + '[kept.values]\n"C1|conductor_section" = "1 | it is there"\n'
    )
    assert {"conductor-protection", "set-by-hand"} <= set(rules(thin))


@pytest.mark.parametrize("entry", ["top", "bottom"])
def test_the_height_that_a_finding_asks_for_is_enough_and_a_millimetre_less_is_not(entry: str) -> None:
    text = SOUND.replace("volts = 400", f'volts = 400\nentry = "{entry}"').replace("height = 1200", "height = 250")
    wanted = int(re.findall(r"at least (\d+) mm", rules(text)["plate-too-small"])[0])
    job = settle(edits.change_part(job_of(text), "enclosure", height=float(wanted)))
    assert "plate-too-small" not in {f.rule for f in find_all(compute_plan(job))}
    job = settle(edits.change_part(job, "enclosure", height=wanted - 1.0))
    assert "plate-too-small" in {f.rule for f in find_all(compute_plan(job))}


def test_a_taller_part_makes_its_row_higher_until_the_plate_is_arranged_and_then_goes_where_it_fits() -> None:
    job = job_of(SOUND)
    arranged = settle(edits.keep_choice(job, "places", "M1.Q", job.ledger.places["M1.Q"].value))
    for before in (job, arranged):
        after = compute_plan(settle(edits.change_starter(before, "M1", kw=11)))
        assert [f.rule for f in find_all(after) if f.rule.startswith("plate")] == []
    old = compute_plan(arranged)
    still = [item for item, part in old.parts.items() if after.parts[item] == part and item in old.plate.boxes]
    assert still and all(after.plate.boxes[item] == old.plate.boxes[item] for item in still)


JOINED = (
    HEAD
    + """[control.C2]
kind = "psu"
from = "L2 L3"
[device.K9]
kind = "relay"
part = "rl-1"
[device.P1]
kind = "lamp"
[device.P2]
kind = "lamp"
[[rung]]
path = "C1+ > K9:11-14 > P1 > C1-"
[[rung]]
path = "C2+ > K9:11-12 > P2 > C2-"
[[rung]]
path = "C1+ > K9:coil > C1-"
"""
)


def test_two_control_voltages_on_one_changeover_are_a_short_circuit_and_named() -> None:
    """A contact is used once, and its common belongs to one supply: common practice, no source."""
    assert "C1+ and C2+ meet on number 24V at the changeover K9:11: a short circuit" in rules(JOINED)["supplies-joined"]
    apart = JOINED.replace('part = "rl-1"', 'part = "rl-2"').replace("K9:11-12", "K9:21-22")
    assert "supplies-joined" not in rules(apart)


def test_a_direct_supply_and_a_second_way_in_join_nothing_by_themselves() -> None:
    assert "supplies-joined" not in rules(DIRECT)
    assert "supplies-joined" not in rules(SOUND + '[extra_supply.P]\nsystem = "3ph+n"\nvolts = 400\n')
