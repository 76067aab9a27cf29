"""The catalogue has what motors of both worlds need: every standard power in its reach finds its parts."""

import pytest

from riktig.catalogue.loader import find_part, parts_of_kind
from riktig.catalogue.model import ElementKind, Mounting, Part, Side
from riktig.checks.run import find_all
from support import HEAD, STARTER, plan_of, small_text

KW = [0.06, 0.09, 0.18, 0.37, 0.55, 0.75, 1.1, 1.5, 2.2, 3, 4, 5.5, 7.5, 11, 15, 18.5, 22, 30, 45, 55, 75, 90]
HP = [0.1, 0.5, 1, 2, 3, 5, 7.5, 10, 15, 20, 30, 40, 50, 60, 75, 100, 125]


@pytest.mark.parametrize("kw", KW)
def test_every_standard_motor_in_kw_finds_breaker_contactor_and_overload(kw: float) -> None:
    head = HEAD.replace("height = 1200", "height = 2000").replace("[supply]", "[supply]\nfault_ka = 25")
    text = head + STARTER.replace("kw = 1.5", f"kw = {kw}")
    plan = plan_of(text)
    assert plan.unmet == {}
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


@pytest.mark.parametrize("hp", HP)
def test_every_standard_motor_in_hp_finds_its_parts(hp: float) -> None:
    text = small_text("ul").replace("hp = 10", f"hp = {hp}").replace("30 in", "90 in").replace("24 in", "40 in")
    plan = plan_of(text)
    assert plan.unmet == {}
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


def test_a_motor_beyond_the_catalogue_is_said_and_not_guessed() -> None:
    assert any(f.rule == "rating-missing" for f in find_all(plan_of(HEAD + STARTER.replace("kw = 1.5", "kw = 900"))))


@pytest.mark.parametrize(
    ("kind", "contacts", "is_had"),
    [
        ("timer", ["tno"], True), ("timer", ["tno", "tnc"], True), ("timer", ["tno", "tnc", "tno"], False),
        ("timer", ["no"], False), ("relay", ["co", "no", "nc"], True), ("contactor", ["no", "nc"], True),
    ],
)  # fmt: skip
def test_a_changeover_serves_as_the_make_or_break_contact_that_is_asked_for(
    kind: str, contacts: list[str], is_had: bool
) -> None:
    """A time relay has two timed changeovers: each can be one contact of either sort (common practice, no source)."""
    plan = plan_of(
        HEAD + f'[device.K9]\nkind = "{kind}"\ncontacts = {contacts}\n[[rung]]\npath = "C1+ > K9:coil > C1-"\n'
    )
    assert ("K9" not in plan.unmet) is is_had


@pytest.mark.parametrize(
    ("kind", "name"), [("breaker", "amps"), ("contactor", "amps"), ("transformer", "va"), ("disconnect", "amps")]
)
def test_ratings_rise_in_steps_that_leave_no_wide_gap(kind: str, name: str) -> None:
    """Neighbours differ by less than 2.1 to 1: common practice, no source."""
    values = sorted({part.rating(name) for part in parts_of_kind(kind)} - {0.0})
    assert all(high / low <= 2.1 for low, high in zip(values, values[1:], strict=False))


def test_larger_parts_are_never_smaller_outside_and_lose_more() -> None:
    for kind in ("contactor", "transformer", "overload", "drive", "soft-starter", "psu"):
        everything = parts_of_kind(kind)
        families = {p.title.split(" A")[-1] for p in everything}
        for family in families:
            parts = [p for p in everything if p.title.split(" A")[-1] == family]
            _assert_rising(parts)


def _assert_rising(parts: list[Part]) -> None:
    assert parts and [p.depth * p.width for p in parts] == sorted(p.depth * p.width for p in parts)
    assert all(p.losses_w > 0 for p in parts if p.traits.get("duty") != "starting"), (
        "what starts a motor is warm for seconds"
    )


def test_poles_run_from_top_to_bottom_and_a_coil_lies_on_top() -> None:
    """Line side on top by convention, IEC 60947-1 Annex L marks, from memory."""
    part = find_part("ct9-10+bf-01")
    assert part is not None
    sides = {t.mark: t.side for t in part.terminals}
    assert all(
        sides[e.marks[0]] is Side.TOP and sides[e.marks[1]] is Side.BOTTOM
        for e in part.elements
        if e.kind is ElementKind.POLE
    )
    assert sides["A1"] is sides["A2"] is Side.TOP
    xs = [t.x_share for t in part.terminals if t.side is Side.TOP]
    assert min(xs) > 0 and max(xs) < 1


def test_earth_clamps_take_one_conductor_and_screws_two_but_those_of_a_transformer() -> None:
    """Common practice, no source."""
    supply, transformer = find_part("ps24-5"), find_part("tr-63")
    assert supply is not None and transformer is not None
    assert {t.mark: t.capacity for t in supply.terminals} == {"L": 2, "N": 2, "M24": 2, "P24": 2, "PE": 1}
    assert {t.capacity for t in transformer.terminals} == {1}


def test_mountings_are_those_of_the_trade() -> None:
    wanted = {
        "overload": Mounting.PLUGGED,
        "transformer": Mounting.PLATE,
        "pushbutton": Mounting.DOOR,
        "float": Mounting.FIELD,
    }
    assert {kind: parts_of_kind(kind)[0].mounting for kind in wanted} == wanted
    assert all(p.rating("hole_mm") == 22.3 for p in parts_of_kind("pushbutton")), "D22: IEC 60947-5-1, from memory"
