"""Busbar combs over breakers and bridges over relays that stand beside each other."""

from dataclasses import replace

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.checks.run import find_all
from riktig.job import edits
from riktig.job.ledger import Choice, ChoiceState
from riktig.plan.making.bom import build_bom
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.record.operations import list_operations
from support import HEAD, job_of, plan_of

WAY = "[way.W{n}]\namps = 10\npoles = {poles}\n"
RELAY = '[device.K{n}]\nkind = "relay"\n[[rung]]\npath = "C1+ > S1:no > K{n}:coil > C1-"\n'


def ways(*poles: int) -> str:
    return HEAD.replace("[control.C1]", "[control.C1]") + "".join(
        WAY.format(n=n, poles=p) for n, p in enumerate(poles, 1)
    )


def relays(count: int) -> str:
    text = HEAD.replace("width = 800", "width = 2000") + '[device.S1]\nkind = "pushbutton"\ncontacts = ["no"]\n'
    text += "".join(f'[device.K{n}]\nkind = "relay"\n' for n in range(1, count + 1))
    branches = " | ".join(f"K{n}:coil" for n in range(1, count + 1))
    return text + f'[[rung]]\npath = "C1+ > S1:no > ({branches}) > C1-"\n'


@pytest.mark.parametrize(("kw", "main", "combs"), [(20, 25.0, 1), (25, 35.0, 0)])
def test_a_comb_lies_only_where_a_clamp_under_it_takes_its_feed(kw: int, main: float, combs: int) -> None:
    """Combs are made up to 35 mm2, but the breaker that is fed takes 25 mm2 in its clamp: common practice, no source."""
    heavy = f'[device.E9]\nkind = "heater"\nkw = {kw}\nat = "field"\n[device.Q9]\nkind = "breaker"\n'
    plan = plan_of(ways(3, 3, 3) + heavy + '[[feeder]]\npath = "L1 L2 L3 > Q9 > E9"\n')
    assert (plan.sections.inside["L1"].mm2, plan.clamp_at("W1.F:1").mm2_max) == (main, 25.0)
    assert len(plan.combs) == combs and not [f for f in find_all(plan) if f.rule == "clamp-size"]


def test_breakers_of_three_poles_beside_each_other_take_a_comb_of_three_bars() -> None:
    """Breaker rows take a comb rather than loops: common practice, no source. By hand: three breakers and the
    one of two poles ahead of the transformer, 3 x 3 + 2 teeth, 3 + 3 + 2 wires less.
    """
    plan = plan_of(ways(3, 3, 3))
    (comb,) = plan.combs
    assert (comb.phases, comb.pins, len(comb.devices)) == (3, 11, 4)
    assert sum(c.kind == "comb" for c in plan.conductors) == 8
    assert [line.quantity for line in build_bom(plan) if line.code.startswith("comb-3x11")] == [1]
    titles = [op.title for op in list_operations(plan) if op.key.startswith("comb:")]
    assert titles == ["Fit the comb over F3, F4, F5, F1"]


def test_single_poles_spread_over_the_phases_take_a_comb_of_three_bars_too() -> None:
    plan = plan_of(ways(1, 1, 1, 1, 1, 1))
    (comb,) = plan.combs
    assert (comb.phases, comb.pins) == (3, 6 + 2), "and what protects the transformer goes on where they end"
    numbers = [{plan.potential_of(t).number for t in bar} for bar in comb.bars]  # type: ignore[union-attr]
    assert sorted(n for bar in numbers for n in bar) == ["L1", "L2", "L3"]


def test_a_comb_never_joins_two_potentials_and_each_tooth_leaves_room_for_the_feed() -> None:
    plan = plan_of(ways(3, 1, 1, 1, 3, 1, 3))
    for conductor in plan.conductors:
        a, b = plan.potential_of(conductor.a), plan.potential_of(conductor.b)
        assert a is None or b is None or a is b
    for potential in plan.potentials:
        graph = nx.Graph((c.a, c.b) for c in plan.conductors if c.number == potential.number)
        assert graph.number_of_edges() == max(graph.number_of_nodes() - 1, 0)


@pytest.mark.parametrize(("count", "runs"), [(2, [2]), (8, [8]), (9, [8]), (10, [8, 2]), (17, [8, 8])])
def test_a_relay_row_takes_a_bridge_over_eight_and_a_fresh_feed_at_the_ninth(count: int, runs: list[int]) -> None:
    """Common practice, no source."""
    plan = plan_of(relays(count))
    assert [comb.pins for comb in plan.combs if comb.bars[0][0].endswith(":A2")] == runs
    fed = {t for c in plan.conductors if c.kind == "wire" for t in (c.a, c.b) if t.endswith(":A2")}
    assert len(fed) >= -(-count // 8), "every bridge has a feed"


def test_moving_a_breaker_away_breaks_its_comb_and_re_chains_nothing_between_the_others() -> None:
    job = job_of(ways(3, 3, 3, 3))
    plan = compute_plan(job)
    last = plan.combs[0].devices[-1]
    place = job.ledger.places[last].value
    places = {**job.ledger.places, last: Choice(replace(place, x=place.x + 60), ChoiceState.KEPT)}
    moved = settle(edits.replace(job, ledger=edits.replace(job.ledger, places=places)))
    after = compute_plan(moved)
    assert [comb.devices for comb in after.combs] == [plan.combs[0].devices[:-1]]
    assert set(job.ledger.links) <= set(moved.ledger.links), "what was wired stays, two wires to the moved one come"
    assert last == "C1.FP" and len(moved.ledger.links) == len(job.ledger.links) + 2


@settings(max_examples=examples(25))
@given(st.lists(st.sampled_from([1, 3]), min_size=1, max_size=9), st.booleans())
def test_any_row_of_breakers_hangs_together_with_no_join_too_many(poles: list[int], is_released: bool) -> None:
    job = job_of(ways(*poles))
    if is_released:
        job = settle(edits.replace(issue_revision(job, "A"), ways=job.ways[:-1]))
    plan: Plan = compute_plan(job)
    assert settle(job) is job
    for potential in plan.potentials:
        graph = nx.Graph()
        graph.add_nodes_from(potential.net.terminals)
        joins = [(c.a, c.b) for c in plan.conductors if c.number == potential.number]
        graph.add_edges_from(joins)
        assert nx.is_connected(graph)
        assert len(joins) == graph.number_of_nodes() - 1
