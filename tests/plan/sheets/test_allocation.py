"""Which sheet and lane figures stand in: filled in the order of people, kept by the ledger, moved as little as can be."""

import pytest
from hypothesis import given, settings

from effort import examples
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job.edits import add_rung, change_member, change_starter, replace
from riktig.plan.changes.numbers import retag_as
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.sheets.allocation import Section
from riktig.plan.sheets.building import build_figures
from riktig.plan.sheets.figures import LANES
from strategies import panels
from support import HEAD, STARTER, demo_text, job_of, plan_of


def many(count: int) -> str:
    return HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, count + 1))


def check_places(plan: Plan) -> None:
    """No two figures share a lane, none runs off its sheet, each kind of sheet has numbers of its own."""
    taken: set[tuple[int, int]] = set()
    kinds: dict[int, Section] = {}
    for figure in plan.sheets.figures:
        place = plan.sheets.places[figure.key]
        lanes = {(place.sheet, place.lane + n) for n in range(figure.lanes)}
        assert not lanes & taken and place.lane + figure.lanes <= LANES
        assert kinds.setdefault(place.sheet, place.section) is place.section
        taken |= lanes


@settings(max_examples=examples(40))
@given(panels())
def test_no_two_figures_share_a_lane_and_every_mention_has_a_place(text: str) -> None:
    plan = plan_of(text)
    check_places(plan)
    assert {(u.key.split("|", 1)[0], u.ref.column) for u in plan.uses} == set(plan.sheets.mentions)
    assert settle(plan.job) is plan.job, "a settled job keeps every place"


def test_the_demo_is_drawn_in_the_order_in_which_people_read() -> None:
    """By hand: way in, what watches it, motors, supplies, what stays live; what enables others, starters, alarm; the controller last."""
    plan = plan_of(demo_text("iec"))
    owners = list(dict.fromkeys(f.owner for s in plan.sheets.sheets() for f in plan.sheets.on(s) if f.is_power))
    assert owners == [
        None if o == "" else o
        for o in ("", "phase_lamps", "K10", "F20", "M1", "M2", "M3", "M4", "M5", "M6", "C1", "C2", "X11", "X12")
    ]
    control = list(dict.fromkeys(f.owner for s in plan.sheets.sheets() for f in plan.sheets.on(s) if not f.is_power))
    assert control[:4] == ["K10", "F20", "E1", "M1"] and control[-1] == "P1"
    assert [plan.sheets.sheets()[0], min(s for s in plan.sheets.sheets() if s >= 20)] == [10, 20]


def test_paths_that_begin_at_a_named_point_of_another_hang_from_it_and_windings_are_one_motor() -> None:
    """The star-delta of the demo: power path, delta and star contactor and the three windings are one figure."""
    figures = {f.key: f for f in build_figures(plan_of(demo_text("iec")).circuit)}
    assert not {"M2/delta", "M2/star", "M2/winding-U", "M2/winding-V", "M2/winding-W"} & set(figures)
    assert figures["M2/power"].lanes == 2 and figures["A1/beacon"].lanes == 5


def test_sheets_of_many_starters_are_well_filled() -> None:
    plan = plan_of(many(40))
    check_places(plan)
    used = {s: sum(f.lanes for f in plan.sheets.on(s)) for s in plan.sheets.sheets()}
    assert sum(used.values()) / (LANES * len(used)) >= 0.75
    assert (
        min(s for s, p in ((p.sheet, p) for p in plan.sheets.places.values()) if p.section is Section.CONTROL) % 10 == 0
    )


def test_a_starter_in_the_middle_that_grows_moves_no_other_sheet() -> None:
    before = settle(job_of(many(20)))
    after = settle(change_starter(before, "M7", lamps=("run", "trip", "ready"), hours=True))
    old, new = compute_plan(before).sheets, compute_plan(after).sheets
    sheets = {old.places[k].sheet for k in old.places if k.startswith("M7/")}
    for key, place in old.places.items():
        if place.sheet not in sheets:
            assert new.places[key] == place, key
    check_places(compute_plan(after))


def test_a_new_rung_stands_behind_the_last_one_and_moves_nothing() -> None:
    before = settle(job_of(demo_text("iec")))
    after = settle(add_rung(before, path="C1+ > M1.K:no > M1.HT > C1-"))
    old, new = compute_plan(before).sheets.places, compute_plan(after).sheets.places
    assert {key: new[key] for key in old} == old and len(new) == len(old) + 1


def test_what_a_release_holds_does_not_move_even_when_a_branch_is_added_beside_it() -> None:
    issued = issue_revision(job_of(demo_text("iec") + '[[rung]]\npath = "C1+ > M1.K:no > M1.HT > C1-"\n'), "A")
    path = "C1+ > (M1.K:no | M3.K:no | M6.K:no) > M1.HT > C1-"
    after = settle(change_member(issued, "rungs", "rung1", path=path))
    old, new = compute_plan(issued).sheets.places, compute_plan(after).sheets.places
    assert {k: p for k, p in new.items() if k != "rung1"} == {k: p for k, p in old.items() if k != "rung1"}
    check_places(compute_plan(after))


def test_places_travel_with_a_brief_what_does_not_fit_is_placed_afresh_and_nonsense_is_said() -> None:
    job = settle(job_of(demo_text("ul")))
    again = parse_brief(write_brief(job))
    assert compute_plan(again).sheets.places == compute_plan(job).sheets.places
    check_places(
        plan_of(demo_text("ul") + '[kept.sheets]\n"M1/power" = "20 9"\n"M2/power" = "20 9"\n"nobody" = "10 1"\n')
    )
    with pytest.raises(BriefError, match="kept.sheets.M1/power: '0 99' is none: write `SHEET LANE`"):
        parse_brief(demo_text("ul") + '[kept.sheets]\n"M1/power" = "0 99"\n')


@pytest.mark.parametrize(
    ("school", "tag"),
    [("letter-number", "K1"), ("sheet-column", "K{place}"), ("number-letter", "{place}K1")],
)
def test_tags_follow_their_school_and_names_that_people_gave_stay(school: str, tag: str) -> None:
    job = settle(
        job_of(HEAD + STARTER + '[device.K77]\nkind = "relay"\n[[rung]]\npath = "C1+ > M1.K:no > K77:coil > C1-"\n')
    )
    plan = compute_plan(retag_as(job, school))
    place = plan.sheet_places["M1.K"].label.replace(".", "")
    assert plan.tags["M1.K"] == tag.format(place=place)
    assert plan.tags["K77"] == "K77" and len(set(plan.tags.values())) == len(plan.tags)


def test_a_job_that_was_kept_before_sheets_had_places_opens_and_has_those_that_settling_gives_it() -> None:
    job = settle(job_of(demo_text("iec")))
    older = replace(job, ledger=replace(job.ledger, sheets={}))
    assert (
        compute_plan(older).sheets.places
        == compute_plan(settle(older)).sheets.places
        == compute_plan(job).sheets.places
    )


def test_a_contactor_stands_at_its_coil_a_soft_starter_at_its_poles_a_thermistor_relay_at_its_coil() -> None:
    """References lead to what works a contact: the coil, or the poles of what is set or controlled there."""
    for world, device, path in (
        ("iec", "M2.K", "M2/main-coil"),
        ("ul", "M1.A", "M1/power"),
        ("iec", "M2.R", "M2/thermistor"),
    ):
        plan = plan_of(demo_text(world))
        uses = [use for use in plan.uses if use.device == device and use.path == path]
        assert plan.sheet_places[device] in {plan.sheets.mentions[use.mention] for use in uses}, device
