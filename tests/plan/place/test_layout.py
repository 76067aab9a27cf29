"""Plate, routes, door, pieces: everything has a place, nothing overlaps, lengths are right."""

from itertools import combinations

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from riktig.checks.run import find_all
from riktig.drawings.plate import geometry_of
from riktig.job import edits
from riktig.plan.making.release import issue_revision
from riktig.plan.place.items import FINGER_MM
from riktig.plan.place.layout import Box, PlateLayout
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.place.stack import ROW_FILL
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.geometry import TAIL_MM
from support import HEAD, STARTER, job_of, plan_of, small_text

LAYOUT = plan_of(HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 9))).plate


def overlap(a: Box, b: Box) -> bool:
    return a.x < b.x + b.w - 1e-6 and b.x < a.x + a.w - 1e-6 and a.y < b.y + b.h - 1e-6 and b.y < a.y + a.h - 1e-6


@settings(max_examples=15)
@given(st.lists(st.sampled_from([0.37, 1.5, 4, 11, 18.5]), min_size=1, max_size=9), st.sampled_from([500, 700, 1200]))
def test_parts_and_ducts_never_overlap_and_leave_finger_room(powers: list[float], width: int) -> None:
    text = HEAD.replace("width = 800", f"width = {width}")
    plan = plan_of(text + "".join(f'[starter.M{n}]\nkw = {kw}\nsupply = "C1"\n' for n, kw in enumerate(powers)))
    plate = plan.plate
    if any(f.rule.startswith("plate-") for f in find_all(plan)):
        return
    boxes = [*plate.boxes.values(), *(duct.box for duct in plate.ducts)]
    assert not [pair for pair in combinations(boxes, 2) if overlap(*pair)]
    for box in plate.boxes.values():
        for duct in plate.ducts:
            if not duct.is_vertical and duct.box.y >= box.y + box.h:
                assert duct.box.y - (box.y + box.h) >= FINGER_MM - 1e-6


def test_rails_keep_their_reserve() -> None:
    """About 20 % spare rail: common practice, no source."""
    for row in range(len(LAYOUT.levels) - 1):
        members = [item for item in LAYOUT.items.values() if LAYOUT.row_of[item.id] == row]
        inner = LAYOUT.levels[row].box.w - 2 * 10
        assert members and sum(item.width for item in members) <= ROW_FILL * inner


@pytest.mark.parametrize(("entry", "is_lowest"), [("bottom", True), ("top", False)])
def test_strips_stand_on_the_side_where_the_cables_enter(entry: str, is_lowest: bool) -> None:
    """Common practice, no source."""
    plate = plan_of(HEAD.replace("volts = 400", f'volts = 400\nentry = "{entry}"') + STARTER).plate
    others = [box.y for item, box in plate.boxes.items() if item not in {"X1", "PE.bar", "PE.plate"}]
    assert (plate.boxes["X1"].y < min(others)) is is_lowest


def test_a_part_stays_where_it_is_and_a_new_one_takes_a_gap() -> None:
    job = issue_revision(job_of(HEAD + STARTER), "A")
    before = compute_plan(job).plate.boxes
    after = compute_plan(settle(edits.duplicate_starter(job, "M1"))).plate.boxes
    assert all(after[item] == box for item, box in before.items() if not item.startswith("X"))
    assert "M2.K" in after and after["M2.K"].y == before["M1.K"].y


def test_routes_are_the_shortest_of_the_reference_library() -> None:
    """networkx.dijkstra_path_length as oracle, every pair of horizontal ducts."""
    network = DuctNetwork(LAYOUT.ducts)
    graph = _graph(LAYOUT)
    codes = [d.code for d in LAYOUT.ducts if not d.is_vertical]
    for a in codes:
        for b in codes:
            ours = network.route((a, 100.0), (b, 500.0)).length
            assert ours == pytest.approx(nx.dijkstra_path_length(graph, ("a", a), ("b", b)))


def _graph(layout: PlateLayout) -> nx.Graph:
    graph: nx.Graph = nx.Graph()
    uprights = [d for d in layout.ducts if d.is_vertical]
    levels = sorted((d.box.centre[1], d.code) for d in layout.ducts if not d.is_vertical)
    for upright in uprights:
        for (y, code), (z, other) in zip(levels, levels[1:], strict=False):
            graph.add_edge((upright.code, code), (upright.code, other), weight=z - y)
    for _, code in levels:
        for place, name in ((100.0, "a"), (500.0, "b")):
            for upright in uprights:
                graph.add_edge((name, code), (upright.code, code), weight=abs(place - upright.box.centre[0]))
        graph.add_edge(("a", code), ("b", code), weight=400.0)
    return graph


@given(st.floats(50, 700), st.floats(50, 700), st.sampled_from(["D3", "D4", "D5"]), st.sampled_from(["D3", "D5", "D6"]))
def test_a_route_reads_back_as_legs_that_hang_together(x: float, y: float, a: str, b: str) -> None:
    route = DuctNetwork(LAYOUT.ducts).route((a, x), (b, y))
    assert (route.codes[0], route.codes[-1]) == (a, b)
    assert sum(abs(leg.end - leg.start) for leg in route.legs) == pytest.approx(route.length, abs=1e-3)


def test_the_length_of_a_wire_is_its_way_and_tails() -> None:
    """By hand: along the duct from one terminal to the other, up or down to its centre at both ends, 60 mm each to dress."""
    plan = plan_of(HEAD + STARTER)
    wire = next(c for c in plan.conductors if c.number == "3L1" and c.kind == "wire")
    geometry = geometry_of(plan)
    a, b = geometry.access(wire.a), geometry.access(wire.b)
    assert a.duct == b.duct == wire.route[0]
    level = plan.plate.duct(a.duct)
    assert level is not None
    exact = abs(a.x - b.x) + abs(a.y - level.box.centre[1]) + abs(b.y - level.box.centre[1]) + 2 * TAIL_MM
    assert exact <= wire.length_mm < exact + 10


def test_stages_run_in_working_order_and_cores_are_as_long_as_their_cable() -> None:
    """Mains, feeds, earth, control, field, door: common practice, no source."""
    plan = plan_of(small_text())
    assert list(dict.fromkeys(c.stage for c in plan.conductors)) == [
        "distribution",
        "feeds",
        "earth",
        "control",
        "field",
        "door",
    ]
    assert {c.length_mm for c in plan.conductors if c.kind == "core"} == {18_000.0}


def test_holes_are_drilled_for_all_that_does_not_sit_on_rail() -> None:
    """Tap drill 4.2 mm for M5 (ISO 2306), from memory; these holes get forgotten: common practice."""
    plan = plan_of(HEAD + STARTER)
    by_target = {t: [h for h in plan.holes if h.target == t] for t in {h.target for h in plan.holes}}
    assert {"C1.T", "PE.bar", "PE.plate"} <= set(by_target) and "M1.K" not in by_target
    assert {h.diameter for h in by_target["R1"]} == {4.2} and {h.fix for h in by_target["C1.T"]} == {"tap M5"}
    drilled = plan_of(HEAD.replace("[supply]", '[practice]\nfixing = "self-drilling"\n[supply]') + STARTER)
    assert all("self-drilling" in h.fix for h in drilled.holes if h.target == "R1")


def test_the_door_handle_sits_where_the_shaft_is_and_buttons_keep_clear_of_it() -> None:
    """By hand: the plate is 50 mm smaller than the enclosure, so its corner lies 25 mm in. 30 x 40 mm for 22 mm
    devices, IEC 60947-5-1, from memory.
    """
    plan = plan_of(HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, 5)))
    handle = next(c for c in plan.door.cutouts if c.device == "Q0")
    assert (handle.x - 25, handle.y - 25) == plan.plate.boxes["Q0"].centre
    for one, other in combinations(plan.door.cutouts, 2):
        assert abs(one.x - other.x) >= 30 or abs(one.y - other.y) >= 40
