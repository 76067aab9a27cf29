"""Ways through ducts that lie anywhere, against the reference library; what no duct leads to is told apart."""

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.plan.place.faults import FaultKind, find_faults, joints
from riktig.plan.place.items import Band, PlateItem
from riktig.plan.place.layout import Box, Duct, PlateLayout
from riktig.plan.place.reach import Reach
from riktig.plan.place.routes import DuctNetwork


def level(code: str, x: float, y: float, length: float) -> Duct:
    return Duct(code=code, box=Box(x=x, y=y, w=length, h=40), is_vertical=False)


def upright(code: str, x: float, y: float, length: float) -> Duct:
    return Duct(code=code, box=Box(x=x, y=y, w=40, h=length), is_vertical=True)


def plate(*ducts: Duct, boxes: dict[str, Box] | None = None) -> PlateLayout:
    boxes = boxes or {}
    rows = {
        name: max(0, sum(d.level > b.centre[1] for d in ducts if not d.is_vertical) - 1) for name, b in boxes.items()
    }
    items = {
        name: PlateItem(id=name, band=Band.STARTER, width=b.w, height=b.h, depth=60, on_rail=False)
        for name, b in boxes.items()
    }
    return PlateLayout(
        width=1000, height=1000, boxes=boxes, row_of=rows, rail_of={}, rails=(), ducts=ducts, items=items
    )


@st.composite
def frames(draw: st.DrawFn) -> PlateLayout:
    """Draw plates with uprights of any number and levels that reach from one to another of them, as a hand would lay them."""
    count = draw(st.integers(1, 4))
    xs = sorted(draw(st.lists(st.integers(0, 9), min_size=count, max_size=count, unique=True)))
    ducts = [upright(f"V{k}", 100.0 * x, 0, 1000) for k, x in enumerate(xs)]
    ys = draw(st.lists(st.integers(0, 12), min_size=1, max_size=6, unique=True))
    for k, y in enumerate(ys):
        left = draw(st.integers(0, count - 1))
        right = draw(st.integers(left, count - 1))
        start = 100.0 * xs[left] + 40
        end = 100.0 * xs[right] if right > left else start + 55
        ducts.append(level(f"H{k}", start, 75.0 * y, end - start))
    return plate(*ducts)


@settings(max_examples=examples(150))
@given(frames(), st.data())
def test_any_way_is_as_long_as_the_reference_library_says(layout: PlateLayout, data: st.DataObject) -> None:
    """networkx: ducts as chains of their joints and the two places; Dijkstra as oracle, the legs as witness."""
    network = DuctNetwork(layout.ducts)
    chosen = [data.draw(st.sampled_from(layout.ducts)) for _ in range(2)]
    places = []
    for duct in chosen:
        low = duct.box.y if duct.is_vertical else duct.box.x
        places.append((duct.code, low + data.draw(st.floats(0, duct.length))))
    graph: nx.Graph = nx.Graph()
    met = joints(layout.ducts)
    for duct in layout.ducts:
        on = [((a, b), (y if duct.is_vertical else x)) for (a, b), (x, y) in met.items() if duct.code in (a, b)]
        on.extend(((k, "end"), at) for k, (code, at) in enumerate(places) if code == duct.code)
        on.sort(key=lambda n: n[1])
        graph.add_nodes_from(name for name, _ in on)
        graph.add_weighted_edges_from((a, b, q - p) for (a, p), (b, q) in zip(on, on[1:], strict=False))
    route = network.route(*places)
    if not nx.has_path(graph, (0, "end"), (1, "end")):
        assert not route.is_whole
        return
    assert route.is_whole and route.length == pytest.approx(
        nx.dijkstra_path_length(graph, (0, "end"), (1, "end")), abs=1e-3
    )
    assert sum(abs(leg.end - leg.start) for leg in route.legs) == pytest.approx(route.length, abs=1e-3)
    assert network.lengths(places)[0, 1] == pytest.approx(route.length, abs=1e-3)


@settings(max_examples=examples(60))
@given(frames())
def test_loose_ducts_are_those_that_the_reference_library_finds_apart(layout: PlateLayout) -> None:
    graph: nx.Graph = nx.Graph()
    graph.add_nodes_from(duct.code for duct in layout.ducts)
    graph.add_edges_from(joints(layout.ducts))
    groups = list(nx.connected_components(graph))
    loose = [f for f in find_faults(layout) if f.kind is FaultKind.LOOSE]
    assert len(loose) == len(groups) - 1 and all(f.missing >= 0 for f in loose)


def test_a_duct_in_the_middle_makes_a_way_shorter() -> None:
    """By hand: from the middle of one level to the middle of the next is 300 mm over an upright there, 760 mm and more around."""
    sides = (
        upright("V1", 0, 0, 1000),
        upright("V2", 960, 0, 1000),
        level("H1", 40, 100, 920),
        level("H2", 40, 400, 920),
    )
    around = DuctNetwork(plate(*sides).ducts).route(("H1", 500.0), ("H2", 500.0))
    across = DuctNetwork(plate(*sides, upright("V3", 480, 140, 260)).ducts).route(("H1", 500.0), ("H2", 500.0))
    assert around.length == 2 * 480 + 300 and across.length == 300 and across.codes == ("H1", "V3", "H2")


def test_two_pieces_end_to_end_are_one_way() -> None:
    network = DuctNetwork(plate(level("H1", 0, 100, 400), level("H2", 400, 100, 400)).ducts)
    route = network.route(("H1", 100.0), ("H2", 700.0))
    assert route.is_whole and route.length == pytest.approx(600)


def test_wires_go_straight_up_or_down_else_the_other_way_else_to_the_nearest_upright() -> None:
    ducts = (upright("V1", 0, 0, 1000), level("H1", 40, 100, 900), level("H2", 40, 500, 900))
    part, between = Box(x=300, y=250, w=50, h=100), Box(x=280, y=380, w=100, h=40)
    reach = Reach(plate(*ducts, boxes={"K1": part}))
    up = reach.access(320, 350, is_top=True, item="K1")
    assert (up.duct, up.at, up.tail) == ("H2", 320, 170)
    blocked = Reach(plate(*ducts, boxes={"K1": part, "T1": between}))
    assert blocked.straight(320, 350, is_top=True, item="K1").blocked_by == "T1"
    assert blocked.access(320, 350, is_top=True, item="K1").duct == "H1"
    alone = Reach(plate(upright("V1", 0, 0, 1000), boxes={"K1": part}))
    assert alone.access(320, 350, is_top=True, item="K1").duct == "V1"
    assert Reach(plate(boxes={"K1": part})).access(320, 350, is_top=True, item="K1").duct == ""


def test_each_terminal_finds_its_own_way_whoever_asks_first() -> None:
    """A part that stands above one half of a strip is in the way of that half alone."""
    ducts = (upright("V1", 0, 0, 1000), level("H1", 40, 100, 900), level("H2", 40, 500, 900))
    boxes = {"X1": Box(x=300, y=250, w=200, h=50), "T1": Box(x=280, y=380, w=100, h=40)}
    own = {320.0: "H1", 480.0: "H2"}
    for order in (own, reversed(own)):
        reach = Reach(plate(*ducts, boxes=boxes))
        assert {x: reach.access(x, 300, is_top=True, item="X1").duct for x in order} == own


def test_a_plate_without_ducts_still_has_lengths() -> None:
    network = DuctNetwork(plate().ducts)
    assert not network.route(("", 10.0), ("", 30.0)).is_whole and network.route(("", 10.0), ("", 30.0)).length == 20


def test_conductors_of_one_circuit_take_the_same_ducts_though_each_would_be_shorter_apart() -> None:
    """All conductors of a circuit in one raceway: NEC 300.3(B); together, IEC 60204-1:2016 13.1.3; from memory. Two ways round; the
    terminals of one device lie on both sides of the middle between the uprights.
    """
    ring = (
        upright("V0", 0, 0, 1000),
        upright("V1", 500, 0, 1000),
        level("H0", 40, 100, 460),
        level("H1", 40, 800, 460),
    )
    network = DuctNetwork(ring)
    lone = [network.route(("H0", x), ("H1", x)).codes for x in (240.0, 300.0)]
    led = [network.route(("H0", x), ("H1", x), (266.0, 274.0)).codes for x in (240.0, 300.0)]
    assert lone[0] != lone[1]
    assert led[0] == led[1] in lone
