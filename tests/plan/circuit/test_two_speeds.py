"""Motors of two speeds, and what hangs on what: circuits that a person draws with the leads of the motor by their marks."""

import pytest

from riktig.catalogue.model import Mounting
from riktig.checks.run import find_all
from riktig.drawings.display import Symbol
from riktig.drawings.sheet_set import draw_sheets
from riktig.plan.circuit.plugged import plugged_on
from riktig.plan.wiring.links import Means
from support import HEAD, plan_of

DEVICES = "".join(
    f'[device.{name}]\nkind = "{kind}"\n{more}\n'
    for name, kind, more in (
        ("Q1", "breaker", ""), ("K1", "contactor", ""), ("K2", "contactor", ""), ("F1", "overload", "amps = 11"),
        ("F2", "overload", "amps = 15"), ("M1", "motor", "kw = 7.5\namps = 15"),
    )
)  # fmt: skip
SPEEDS = (
    "L1 L2 L3 > Q1 > @q1 @q2 @q3", "@q1 @q2 @q3 > K1 > F1 > @a1 @a2 @a3", "@q1 @q2 @q3 > K2 > F2 > @b1 @b2 @b3",
)  # fmt: skip
TWO_WINDINGS = ("@a1 > M1:1U-1V > @a2", "@a2 > M1:1V-1W > @a3", "@b1 > M1:2U-2V > @b2", "@b2 > M1:2V-2W > @b3")
TAPPED = ("@a1 @a2 @a3 > K3 > @s @s @s", "@a1 > M1:1U-2U > @b1", "@a2 > M1:1V-2V > @b2", "@a3 > M1:1W-2W > @b3")
TRIPS = "".join(f'[[rung]]\npath = "C1+ > F{n}:nc > K{m}:nc > K{n}:coil > C1-"\n' for n, m in ((1, 2), (2, 1)))
STAR = '[device.K3]\nkind = "contactor"\n'


def feeders(*paths: str) -> str:
    return "".join(f'[[feeder]]\npath = "{path}"\n' for path in paths)


def test_two_windings_have_a_dial_each_and_one_circuit() -> None:
    plan = plan_of(HEAD + DEVICES + feeders(*SPEEDS, *TWO_WINDINGS) + TRIPS)
    assert plan.parts["M1"].code == "motor-2sp-6"
    assert dict(plan.power_circuits["M1"].devices) == {"Q1": "Q", "K1": "K", "K2": "K", "F1": "F", "F2": "F"}
    assert (plan.setting_of("F1"), plan.setting_of("F2")) == (11, 15)
    assert {v.subject: v.value for v in plan.sizing if v.quantity == "overload_setting"} == {"F1": 11, "F2": 15}
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


def test_the_contactor_that_bridges_a_tapped_winding_is_sized_as_the_others() -> None:
    """In double star the bridge leads half of each line's current: a contactor of the motor's is on the safe side."""
    plan = plan_of(HEAD + DEVICES + STAR + feeders(*SPEEDS, *TAPPED))
    assert plan.parts["M1"].traits["winding"] == "tapped"
    assert {plan.parts[k].rating("amps") for k in ("K1", "K2", "K3")} == {18}
    bridge = next(p.number for p in plan.potentials if "K3:2/T1" in p.net.terminals)
    sizes = [c.size.mm2 for c in plan.conductors if c.number == bridge]
    assert sizes and set(sizes) == {plan.starters["M1"].line.mm2}


@pytest.mark.parametrize(
    ("change", "rule"),
    [(("amps = 11", ""), "motor-speeds"), (("amps = 15", "amps = 16"), "overload-dial")],
)
def test_a_speed_that_nobody_states_and_a_dial_above_the_motor_are_musts(change: tuple[str, str], rule: str) -> None:
    text = (HEAD + DEVICES + feeders(*SPEEDS, *TWO_WINDINGS) + TRIPS).replace(*change, 1)
    assert [f.rule for f in find_all(plan_of(text)) if f.severity == "must"] == [rule]


def test_in_north_america_the_leads_are_called_as_nema_has_them() -> None:
    """T1 to T3 and T4 to T6 of a tapped winding, T11 to T13 of a second one, T1 to T12: NEMA MG 1 2.60, from memory."""
    head = HEAD.replace("volts = 400", 'volts = 480\n[practice]\nstandard = "ul"')
    twelve = [f"@{w}{n} > M1:{w.upper()}{n}-{w.upper()}{n + 1} > @{w}{n + 1}" for n in (1, 3) for w in "uvw"]
    starts = ("@q1 @q2 @q3 > K1 > F1 > @u1 @v1 @w1", "@q1 @q2 @q3 > K2 > F2 > @u3 @v3 @w3")
    found = {}
    for name, paths in (
        ("two", (*SPEEDS, *TWO_WINDINGS)),
        ("tapped", (*SPEEDS, *TAPPED)),
        ("twelve", (SPEEDS[0], *starts, *twelve)),
    ):
        plan = plan_of(head + DEVICES + STAR + feeders(*paths))
        marks = {m for e in plan.parts["M1"].elements for m in e.marks if m != "PE"}
        found[name] = sorted(int(plan.mark_words("M1", mark)[1:]) for mark in marks)
    assert found == {"two": [1, 2, 3, 11, 12, 13], "tapped": [1, 2, 3, 4, 5, 6], "twelve": list(range(1, 13))}


def test_an_overload_straight_behind_a_contactor_hangs_on_it() -> None:
    plan = plan_of(HEAD + DEVICES + feeders(*SPEEDS, *TWO_WINDINGS))
    joined = {
        frozenset(t.partition(":")[0] for t in (link.a, link.b)) for link in plan.links if link.means is Means.FACTORY
    }
    assert {frozenset({"K1", "F1"}), frozenset({"K2", "F2"})} <= joined
    boxes = plan.plate.boxes
    assert all(boxes[f"K{n}"].x == boxes[f"F{n}"].x and boxes[f"K{n}"].y == boxes[f"F{n}"].top for n in (1, 2))


@pytest.mark.parametrize(
    ("path", "host"),
    [
        ("L1 L2 L3 > Q1 > K1 > F1 > M1", "K1"), ("L1 L2 L3 > Q1 > (K1 | K2[3 2 1]) > F1 > M1", "K1"),
        ("L1 L2 L3 > Q1 > (K2[3 2 1] | K1) > F1 > M1", None), ("L1 L2 L3 > K1 > Q1 > F1 > M1", None),
    ],
)  # fmt: skip
def test_an_overload_hangs_on_no_contactor_that_exchanges_lines_or_stands_elsewhere(
    path: str, host: str | None
) -> None:
    plan = plan_of(HEAD + DEVICES + feeders(path))
    assert plan.parts["F1"].mounting is Mounting.PLUGGED
    assert plugged_on(plan.circuit, plan.parts).get("F1") == host


def test_an_overload_with_one_changeover_is_taken_only_where_its_half_is_asked_for() -> None:
    text = HEAD + DEVICES + '[device.P1]\nkind = "lamp"\n' + feeders("L1 L2 L3 > Q1 > K1 > F1 > M1")
    rungs = '[[rung]]\npath = "C1+ > F1:95-96 > K1:coil > C1-"\n[[rung]]\npath = "C1+ > F1:{} > P1 > C1-"\n'
    usual, changed = (plan_of(text + rungs.format(marks)) for marks in ("97-98", "95-98"))
    assert (usual.parts["F1"].code, changed.parts["F1"].code) == ("ov13", "ov13-co")
    trip = [{t for p in plan.potentials for t in p.net.terminals if t.startswith("F1:9")} for plan in (usual, changed)]
    assert trip == [{"F1:95", "F1:96", "F1:97", "F1:98"}, {"F1:95", "F1:96", "F1:98"}]
    assert not any(f.rule.startswith("contact") for f in find_all(changed))


@pytest.mark.parametrize("paths", [(*SPEEDS, *TWO_WINDINGS), (*SPEEDS, *TAPPED)])
def test_each_speed_is_drawn_and_only_windings_of_three_phases_become_one_motor(paths: tuple[str, ...]) -> None:
    plan = plan_of(HEAD + DEVICES + STAR + feeders(*paths))
    names = [
        item.shape.name
        for sheet in draw_sheets(plan)
        for item in sheet.items
        if isinstance(item, Symbol) and item.ref == "M1"
    ]
    assert names and (sum(name.startswith("motor-3") for name in names) == 1) is (paths[-1] == TAPPED[-1])
