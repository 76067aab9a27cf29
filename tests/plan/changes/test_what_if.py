"""What a wish would do, against the Plan of a brief that says the same."""

from collections.abc import Sequence

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from riktig.checks.run import find_all
from riktig.drawings.size_charts import draw_charts
from riktig.job.faults import JobError
from riktig.job.overrides import override_value
from riktig.plan.answers.feeder_drop import profile_feeder
from riktig.plan.changes.what_if import Wish, apply_wish, try_wish
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.links import link_key
from support import HEAD, STARTER, plan_of, small_text

TWO = (
    HEAD.replace("height = 1200", "height = 1200\nambient = 35").replace(
        "[supply]", '[practice]\ndistribution = "chain"\n[supply]'
    )
    + STARTER
    + STARTER.replace("M1", "M2").replace("1.5", "7.5")
)


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(TWO)


@settings(max_examples=12)
@given(
    st.sampled_from([None, 20.0, 45.0, 58.0]),
    st.sampled_from([None, 3.0, 22.0, 60.0]),
    st.sampled_from([None, 0.37, 4.0, 30.0]),
)
def test_it_says_what_the_plan_of_the_changed_job_says(
    ambient: float | None, fault_ka: float | None, power: float | None
) -> None:
    plan = plan_of(TWO)
    wish = Wish(ambient=ambient, fault_ka=fault_ka, starter="M1", power=power)
    ahead, real = try_wish(plan, wish), compute_plan(apply_wish(plan.job, wish))
    routed = {"losses", "temperature_rise"}
    assert {v.key: v.text for v in ahead.plan.sizing if v.quantity not in routed} == {
        v.key: v.text for v in real.sizing if v.quantity not in routed
    }
    assert (
        ahead.plan.panel.sccr_ka == real.panel.sccr_ka
        and ahead.plan.panel.sccr_limited_by == real.panel.sccr_limited_by
    )
    assert {d: p.code for d, p in ahead.plan.parts.items()} == {d: p.code for d, p in real.parts.items()}
    assert ahead.plan.panel.heat.rise_k == pytest.approx(real.panel.heat.rise_k, abs=2.0), "wires are not routed again"
    assert not wish.is_empty or (not ahead.changes and not ahead.parts)


def test_nothing_wished_changes_nothing_and_keeps_what_was_set_by_hand() -> None:
    plan = plan_of(TWO)
    wire = next(c for c in plan.conductors if c.kind == "wire" and c.number == "1L1")
    job = settle(override_value(plan.job, f"{link_key(wire.a, wire.b)}|wire_section", 6.0, "spare"))
    own = compute_plan(job)
    ahead = try_wish(own, Wish())
    assert ahead.plan.sizing == own.sizing and ahead.plan.conductors == own.conductors
    assert (ahead.changes, ahead.parts, ahead.unmet) == ((), (), tuple(own.unmet.items()))
    assert [f.message for f in find_all(ahead.plan)] == [f.message for f in find_all(own)]


def test_only_what_depends_on_it_changes(plan: Plan) -> None:
    outcome = try_wish(plan, Wish(starter="M1", power=4.0))
    assert {c.subject.partition(".")[0] for c in outcome.changes} <= {"M1", "Q0", "panel"}
    assert next(c for c in outcome.changes if c.quantity == "motor_current").after == "8.5 A"
    assert plan.job.starters[0].kw == 1.5


def test_stronger_parts_of_the_same_size_are_told_too(plan: Plan) -> None:
    outcome = try_wish(plan, Wish(fault_ka=22.0))
    assert any(c.subject == "M1.Q" and "25 kA" in c.after for c in outcome.parts)


def test_a_wish_that_does_not_fit_is_a_job_error(plan: Plan) -> None:
    with pytest.raises(JobError):
        try_wish(plan, Wish(ambient=200.0))


# -- charts and feeder


def test_the_voltage_along_a_feeder_falls_and_ends_at_the_cables_drop(plan: Plan) -> None:
    """Source: 100 U I / Ik of IEC 60909, by hand 49.6 A of 2 motors + start of M2 7.2 · 15.5 A over 6 kA; then the drops."""
    profile = profile_feeder(plan, "M2")
    values = {(v.quantity): v.value for v in plan.sizing if v.subject == "M2"}
    running = [p.running_percent for p in profile.points]
    starting = [p.starting_percent for p in profile.points]
    assert running == sorted(running, reverse=True) and starting == sorted(starting, reverse=True)
    assert running[2] - running[3] == pytest.approx(values["voltage_drop"])
    assert starting[2] - starting[3] == pytest.approx(values["start_drop"])
    amps = plan.panel.full_load_a - 15.5 + 7.2 * 15.5
    assert 100 - starting[1] == pytest.approx(100 * amps / (1000 * plan.job.supply.available_ka))
    with pytest.raises(KeyError):
        profile_feeder(plan, "M9")


def test_one_line_is_followed_through_the_panel_and_no_control_wire(plan: Plan) -> None:
    """Source: the wires of the lines as the Plan lists them, put together by hand, the shortest of three; M2 hangs on M1's breaker."""
    wires = {frozenset((c.a, c.b)): c.length_mm / 1000 for c in plan.conductors if c.location == "plate"}
    into, out = ("1", "3", "5"), ("2/T1", "4/T2", "6/T3")

    def least(one: str, other: str, ends: tuple[Sequence[str], Sequence[str]]) -> float:
        return min(wires[frozenset((f"{one}:{a}", f"{other}:{b}"))] for a, b in zip(*ends, strict=True))

    start = least("Q0", "M1.Q", (out, into))
    coil, strip = ("1/L1", "3/L2", "5/L3"), {"M1": ("1", "2", "3"), "M2": ("5", "6", "7")}
    for name, between in (("M1", 0.0), ("M2", least("M1.Q", "M2.Q", (into, into)))):
        inside = least(f"{name}.Q", f"{name}.K", (("2", "4", "6"), coil)) + least(f"{name}.F", "X1", (out, strip[name]))
        assert profile_feeder(plan, name).points[2].metres == pytest.approx(start + between + inside, abs=1e-4)


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_charts_name_every_component_and_their_texts_stay_on_the_paper(world: str) -> None:
    plan = plan_of(small_text(world))
    charts = draw_charts(plan, "M1")
    assert charts.feeder is not None
    links = {link.device: link.strength for b in plan.panel.short_circuit.branches for link in b.links}
    texts = {(item.ref, item.text) for item in charts.chain.items if hasattr(item, "text")}
    assert all((device, f"{strength.ka:g} kA") in texts for device, strength in links.items())
    weakest = {ref for ref, text in texts if text in {"weakest", "too weak"}}
    assert weakest >= set(plan.panel.sccr_limited_by)
    for drawing in (charts.chain, charts.heat, charts.feeder):
        for item in drawing.items:
            if hasattr(item, "text"):
                assert 0 <= item.x <= drawing.width and 0 <= item.y <= drawing.height, item
    bars = {item.ref for item in charts.heat.items if item.ref}
    assert bars <= plan.panel.heat.by_device.keys() and len(bars) >= 5
