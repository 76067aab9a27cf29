"""Laws that hold for every circuit, on random ones."""

import random

import networkx as nx
import pytest
from hypothesis import HealthCheck, given, settings

from effort import examples
from riktig.drawings.plate import geometry_of
from riktig.files.brief_reader import parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.model import Job
from riktig.job.paths import Group, Item, Nodes, parse_path
from riktig.plan.making.release import issue_revision
from riktig.plan.place.depth import door_solids, find_meetings, plate_solids
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.capacities import Capacities
from strategies import briefs, panels
from support import HEAD, STARTER, TWO_STATIONS, job_of

LAWS = settings(
    max_examples=examples(130),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
)


def components_by_hand(plan: Plan) -> set[frozenset[str]]:
    """Return the potentials of the rungs by walking their trees onto a networkx graph: an independent reading."""
    graph = nx.Graph()
    uses = {(u.key.split("|")[0], u.ref.column): u for u in plan.uses}

    def walk(key: str, items: tuple[Item, ...], into: str) -> str:
        for item in items:
            if isinstance(item, Nodes):
                graph.add_edge(into, f"={item.names[0]}")
                into = f"={item.names[0]}"
            elif isinstance(item, Group):
                exit_point = f"{key}/{item.column}"
                for branch in item.branches:
                    graph.add_edge(walk(key, branch, into), exit_point)
                into = exit_point
            else:
                use = uses[(key, item.column)]
                left, right = plan.netlist.ends[use.key]
                graph.add_edge(into, f"{use.device}:{left[0]}")
                into = f"{use.device}:{right[0]}"
        return into

    for rung in plan.job.rungs:
        path = parse_path(rung.path)
        assert isinstance(path[0], Nodes)
        walk(rung.name, path[1:], f"={path[0].names[0]}")
    return {frozenset(t for t in c if ":" in t) for c in nx.connected_components(graph)}


@LAWS
@given(briefs())
def test_terminals_of_one_potential_are_joined_and_no_others(text: str) -> None:
    plan = compute_plan(parse_brief(text))
    in_rungs = {
        f"{u.device}:{m}" for u in plan.uses if u.key.startswith("rung") for s in plan.netlist.ends[u.key] for m in s
    }
    netlist = {frozenset(in_rungs & set(p.net.terminals)) for p in plan.potentials}
    assert components_by_hand(plan) == netlist - {frozenset()}
    graph = nx.Graph((c.a, c.b) for c in plan.conductors)
    for potential in plan.potentials:
        own = [c for c in plan.conductors if c.number == potential.number]
        reached = {t for c in own for t in (c.a, c.b)}
        if len(potential.net.terminals) > 1:
            assert set(potential.net.terminals) <= nx.node_connected_component(graph, potential.net.terminals[0])
            assert len(own) == len(reached) - 1, "no conductor is redundant"


@LAWS
@given(briefs())
def test_no_clamp_is_over_its_limit_and_no_route_beats_the_straight_way(text: str) -> None:
    plan = compute_plan(parse_brief(text))
    capacities = Capacities(plan.parts, plan.clamps, plan.twins)
    for link in plan.links:
        capacities.use(link)
    assert all(capacities.left(t) >= 0 for link in plan.links for t in (link.a, link.b))
    geometry = geometry_of(plan)
    for wire in plan.conductors:
        if wire.location == "plate" and wire.kind == "wire":
            a, b = geometry.access(wire.a), geometry.access(wire.b)
            assert wire.length_mm >= abs(a.x - b.x) + abs(a.y - b.y)


@LAWS
@given(briefs())
def test_a_brief_comes_back_equal(text: str) -> None:
    job = parse_brief(text)
    again = parse_brief(write_brief(job))
    assert again == job
    assert compute_plan(again).conductors == compute_plan(job).conductors


def random_edit(job: Job, chance: random.Random) -> Job:
    """Return the Job after one random edit of a person."""
    choice = chance.randrange(7)
    if choice == 0:
        return edits.change_starter(job, chance.choice(job.starters).name, kw=chance.choice([0.75, 1.5, 3, 4, 5.5]))
    if choice == 1:
        return edits.duplicate_starter(job, job.starters[0].name)
    if choice == 2 and len(job.starters) > 1:
        return edits.remove(job, "starters", chance.choice(job.starters).name)
    if choice == 3:
        contact = chance.choice(["K1:no", "S0a:no", "S1b:nc", "K1:nc"])
        return edits.add_rung(job, f"C1+ > {contact} > P1 > C1-")
    if choice == 4 and len(job.rungs) > 1:
        return edits.remove(job, "rungs", chance.choice(job.rungs).name)
    if choice == 5:
        wish = chance.choice([(), ("run",), ("trip",), ("run", "trip")])
        return edits.change_starter(job, chance.choice(job.starters).name, lamps=wish)
    rung = chance.choice(job.rungs)
    return edits.change_rung(job, rung.name, chance.choice(["C1+ > S0b:nc > K1:coil > C1-", "C1+ > S1a:no > P1 > C1-"]))


@pytest.mark.parametrize("seed", range(examples(10)))
def test_500_random_edits_after_release_move_nothing_that_is_kept(seed: int) -> None:
    """50 edits from each seed (10 with all effort): numbers, chain links, strip terminals and places of what stays do not change."""
    chance = random.Random(seed)
    job = issue_revision(job_of(TWO_STATIONS + STARTER), "A")
    retired: set[str] = set()
    new = compute_plan(job)
    done = looked = 0
    while done < 50:
        before = job
        try:
            job = settle(random_edit(job, chance))
        except JobError:
            continue
        done += 1
        old, new = new, compute_plan(job)
        at_old = {t: p.number for p in old.potentials for t in p.net.terminals}
        anchored = {c.value.terminals[0] for c in before.ledger.numbers.values() if c.value.terminals}
        used_before = set(before.ledger.numbers)
        retired |= used_before - {p.number for p in old.potentials}
        assert not retired & {p.number for p in new.potentials}, "a retired number is never given out again"
        for potential in new.potentials:
            anchors = [t for t in potential.net.terminals if t in at_old and t in anchored]
            owned = [n for n in before.ledger.numbers if n in {at_old[t] for t in anchors}]
            assert not owned or potential.number == owned[0] or potential.number in {"PE", "N", "L1", "L2", "L3"}
        ends = {frozenset((c.a, c.b)) for c in new.conductors if c.is_wired}
        at_new = {t: p.number for p in new.potentials for t in p.net.terminals}
        in_combs = {tooth for comb in new.combs for bar in comb.bars for tooth in bar}
        looked += len(before.ledger.links)
        for key, choice in before.ledger.links.items():
            a, b = key.split(" ")
            is_one = a in at_new and at_new.get(a) == at_new.get(b)
            if choice.is_held and is_one:
                assert frozenset((a, b)) in ends, "a released wire keeps its ends"
            if is_one and not {a, b} & in_combs:
                assert key in job.ledger.links and job.ledger.links[key].value == choice.value
        # these take a good place: what met something before, or would now that the plate holds deeper parts
        would_meet = find_meetings(
            door_solids(old.door.boxes, old.parts), plate_solids(new.plate, new.parts), job.enclosure
        )
        in_the_way = {meeting.door for meeting in (*old.door.meetings, *would_meet)}
        for key, choice in before.ledger.places.items():
            if key in job.ledger.places and key not in in_the_way:
                assert job.ledger.places[key].value == choice.value
        for key, choice in before.ledger.clamps.items():
            assert key not in job.ledger.clamps or job.ledger.clamps[key].value == choice.value
    assert looked > 1000


def test_moving_nothing_settles_to_the_very_same_job() -> None:
    job = job_of(HEAD + STARTER)
    assert settle(job) is job


@LAWS
@given(text=panels())
def test_any_panel_settles_once_and_reads_back_from_its_own_brief(text: str) -> None:
    job = job_of(text)
    assert settle(job) is job
    assert parse_brief(write_brief(job)) == job


@LAWS
@given(text=panels())
def test_no_clamp_of_any_panel_is_over_its_limit_and_every_potential_hangs_together(text: str) -> None:
    plan = compute_plan(job_of(text))
    capacities = Capacities(plan.parts, plan.clamps, plan.twins)
    for link in plan.links:
        capacities.use(link)
    assert [t for link in plan.links for t in (link.a, link.b) if capacities.left(t) < 0] == []
    for potential in plan.potentials:
        graph = nx.Graph()
        graph.add_nodes_from(potential.net.terminals)
        graph.add_edges_from((link.a, link.b) for link in plan.links if link.number == potential.number)
        assert nx.is_connected(graph), potential.number


@LAWS
@given(text=panels())
def test_after_a_release_an_option_more_changes_no_number_that_is_there(text: str) -> None:
    released = issue_revision(job_of(text), "A")
    starter = released.starters[0]
    more = settle(edits.change_starter(released, starter.name, hours=not starter.hours, isolator=False))
    before = {t: n for n, c in released.ledger.numbers.items() for t in c.value.terminals}
    after = {t: n for n, c in more.ledger.numbers.items() for t in c.value.terminals}
    gone = {t for t in before if t.partition(":")[0] in {f"{starter.name}.QM", f"{starter.name}.P"}}
    anchors = {c.value.terminals[0] for c in released.ledger.numbers.values() if c.value.terminals}
    kept = (anchors - gone) & after.keys()
    assert {t: after[t] for t in kept} == {t: before[t] for t in kept}
