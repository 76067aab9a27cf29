"""Parting a bundle into lots of one length: least waste for each number of lots, and where it costs least."""

import random
from itertools import combinations, product

import pytest

from effort import examples
from riktig.catalogue.prices import Prices
from riktig.job import edits
from riktig.plan.making.bundles import WorkStage, bundles_of
from riktig.plan.making.hidden import covers_of
from riktig.plan.making.lots import (
    CURVE,
    best_lots,
    cut_lengths,
    hold_lots,
    let_lots_go,
    lots_of,
    outcome_of,
    outcomes,
    part_bundles,
    part_lengths,
)  # fmt: skip
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.record.keys import Sort
from riktig.record.operations import Phase, list_operations
from support import HEAD, STARTER, demo_text, job_of, plan_of


def lengths_by_chance(seed: int) -> list[float]:
    chance = random.Random(seed)
    return [10.0 * chance.randint(20, 60) for _ in range(chance.randint(1, 9))]


def brute_force(lengths: list[float], lots: int) -> float:
    """Return the least waste over all ways to choose the lengths of so many lots."""
    distinct = sorted(set(lengths))
    chosen = (pick for pick in combinations(distinct, lots) if pick[-1] == distinct[-1])
    return min(sum(min(c for c in pick if c >= length) - length for length in lengths) for pick in chosen)


@pytest.mark.parametrize("seed", range(examples(300)))
def test_parting_into_so_many_lots_wastes_as_little_as_trying_all(seed: int) -> None:
    lengths = lengths_by_chance(seed)
    wasted = []
    for lots in range(1, len(set(lengths)) + 1):
        waste, cut = part_lengths(lengths, lots)
        assert waste == pytest.approx(brute_force(lengths, lots)) and len(cut) == lots
        wasted.append(waste)
    assert wasted == sorted(wasted, reverse=True) and wasted[-1] == 0


@pytest.mark.parametrize("seed", range(examples(30)))
def test_where_it_costs_least_is_found_by_trying_all_numbers_of_lots_of_all_bundles(seed: int) -> None:
    metre, worth = 0.2, 0.05
    bundles = [lengths_by_chance(100 * seed + n) for n in range(3)]

    def cost(lengths: list[float], lots: int) -> float:
        return part_lengths(lengths, lots)[0] / 1000 * metre + lots * worth

    least = min(sum(map(cost, bundles, numbers)) for numbers in product(*(range(1, len(set(b)) + 1) for b in bundles)))
    found = sum(cost(lengths, len(best_lots(lengths, metre, worth))) for lengths in bundles)
    assert found == pytest.approx(least)


@pytest.fixture(scope="module", params=["iec", "ul"])
def plan(request: pytest.FixtureRequest) -> Plan:
    return plan_of(demo_text(request.param))


def test_every_wire_is_in_one_bundle_and_one_lot_that_is_long_enough(plan: Plan) -> None:
    wires = {wire.id: wire for wire in plan.conductors if wire.kind == "wire"}
    bundled = [wire.id for bundle in bundles_of(plan) for wire in bundle.wires]
    assert sorted(bundled) == sorted(wires)
    cut = cut_lengths(plan)
    assert cut.keys() == wires.keys() and all(cut[wire] >= wires[wire].length_mm for wire in wires)
    for bundle in bundles_of(plan):
        assert {(w.size, w.colour) for w in bundle.wires} == {(bundle.size, bundle.colour)}


def test_bundles_stand_in_working_order_with_the_door_last(plan: Plan) -> None:
    """Common practice, no source."""
    stages = [bundle.stage for bundle in bundles_of(plan)]
    assert stages == sorted(stages, key=list(WorkStage).index) and stages[-1] is WorkStage.DOOR


def test_wires_that_a_cover_will_hide_are_laid_first_in_their_stage_and_the_cover_goes_on_last(plan: Plan) -> None:
    """What stays live is covered once it is wired: common practice, no source."""
    covered = {name for names, _ in covers_of(plan).values() for name in names}
    assert covered and not any(plan.parts[name].kind in {"socket", "light"} for name in covered & plan.parts.keys())
    for stage in WorkStage:
        hides = [
            [not {plan.item_of(wire.a), plan.item_of(wire.b)}.isdisjoint(covered) for wire in bundle.wires]
            for bundle in bundles_of(plan)
            if bundle.stage is stage
        ]
        assert [any(one) for one in hides] == sorted((any(one) for one in hides), reverse=True)
        assert all(one == sorted(one, reverse=True) for one in hides)
    operations = list_operations(plan)
    fitted = [n for n, one in enumerate(operations) if one.key.sort is Sort.COVER]
    wired = [n for n, one in enumerate(operations) if one.phase is Phase.WIRE]
    assert len(fitted) == len(covers_of(plan)) and min(fitted) > max(wired)


def test_from_own_lengths_to_one_length_waste_only_grows_and_set_ups_only_fall_and_the_middle_costs_least(
    plan: Plan,
) -> None:
    found = outcomes(plan, Prices())
    assert [one.batching for one in found] == list(CURVE)
    assert found[0].wasted_m == 0 and found[-1].set_ups == len(bundles_of(plan))
    for before, after in zip(found, found[1:], strict=False):
        assert after.wasted_money >= before.wasted_money - 1e-9 and after.set_ups <= before.set_ups
    assert min(found, key=lambda one: one.money).batching == 50


def test_a_lot_that_is_held_stays_while_another_wire_comes_and_while_it_is_long_enough() -> None:
    job = job_of(HEAD + STARTER)
    plan = compute_plan(job)
    held = settle(hold_lots(job, plan))
    before = cut_lengths(plan)
    after = cut_lengths(compute_plan(settle(edits.change_starter(held, "M1", lamps=("run",)))))
    same = before.keys() & after.keys()
    assert len(same) > 20 and all(after[wire] == before[wire] or after[wire] > before[wire] for wire in same)
    assert sum(after[wire] == before[wire] for wire in same) > 0.9 * len(same)
    assert settle(let_lots_go(held)).ledger.lots == {}


def test_a_release_holds_all_lots_and_lets_none_go() -> None:
    issued = issue_revision(job_of(HEAD + STARTER), "A")
    assert issued.ledger.lots.keys() == cut_lengths(compute_plan(issued)).keys()
    assert let_lots_go(issued).ledger.lots == issued.ledger.lots


def test_dearer_work_makes_fewer_lots_and_dearer_wire_more(plan: Plan) -> None:
    bundles = bundles_of(plan)

    def set_ups(**prices: float) -> int:
        stated = Prices(**prices)
        return outcome_of(part_bundles(bundles, stated, 50), stated, 50).set_ups

    usual = set_ups()
    assert set_ups(minute=5) < usual < set_ups(minute=0.1)
    dear = Prices(metre={bundle.size.mm2: 20.0 for bundle in bundles})
    assert outcome_of(part_bundles(bundles, dear, 50), dear, 50).set_ups > usual


def test_the_lots_of_a_panel_follow_its_practice() -> None:
    job = job_of(HEAD + STARTER)
    for batching in (0.0, 100.0):
        plan = compute_plan(settle(edits.change_part(job, "practice", batching=batching)))
        most = max(len(one.lots) for one in lots_of(plan))
        assert (most == 1) is (batching == 100)
