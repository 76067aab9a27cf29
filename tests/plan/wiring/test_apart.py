"""Power and extra-low voltage go up and down in different ducts: common practice, no source."""

from itertools import chain

import networkx
import pytest

from riktig.job.edits import replace
from riktig.plan.place.faults import joints
from riktig.plan.place.routes import DuctNetwork
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.plan.wiring.apart import find_bands
from support import HEAD, STARTER, plan_of


@pytest.fixture(params=["left", "right"], scope="module")
def plan(request: pytest.FixtureRequest) -> Plan:
    """Three motors of a supply of 24 V beside one of mains voltage, with read-outs of the mains on the door."""
    text = HEAD.replace("[enclosure]", f'[enclosure]\nhinge = "{request.param}"')
    text = text.replace("[supply]", '[practice]\nuprights = "apart"\n[supply]')
    text += '[control.C2]\nkind = "psu"\nfrom = "L1 N"\nvolts = 24\n' + STARTER
    text += "".join(STARTER.replace("M1", f"M{n}").replace('"C1"', '"C2"') for n in (2, 3, 4))
    return plan_of(text + '[device.P9]\nkind = "lamp"\nat = "door"\n[[feeder]]\npath = "L1 > P9 > N"\n')


def test_no_upright_has_wires_of_both_but_those_of_power_that_lead_to_the_door(plan: Plan) -> None:
    bands = find_bands(plan.job, plan.parts, plan.potentials)
    assert bands.power and bands.low and not bands.power & bands.low
    uprights = {duct.code for duct in plan.plate.ducts if duct.is_vertical}
    lies = {"power": set(), "low": set()}  # type: ignore[var-annotated]
    for c in plan.conductors:
        sort = "power" if c.number in bands.power else "low" if c.number in bands.low else None
        if sort is not None and c.location == "plate":
            lies[sort] |= uprights.intersection(c.route)
    assert lies["power"] and lies["low"] and not lies["power"] & lies["low"]


def test_a_way_that_shuns_a_duct_is_the_shortest_of_those_that_do_not_take_it(plan: Plan) -> None:
    """The published algorithm of networkx on the ducts without that one."""
    ducts = plan.plate.ducts
    upright = next(duct.code for duct in ducts if duct.is_vertical)
    levels = [duct for duct in ducts if not duct.is_vertical]
    network, graph = DuctNetwork(ducts), networkx.Graph()
    on: dict[str, list[tuple[float, tuple[str, str]]]] = {}
    for pair, (x, y) in joints(ducts).items():
        for code in pair:
            duct = next(d for d in ducts if d.code == code)
            on.setdefault(code, []).append((y if duct.is_vertical else x, pair))
    for code, places in on.items():
        if code != upright:
            for (a, one), (b, other) in chain.from_iterable([zip(sorted(places), sorted(places)[1:], strict=False)]):
                graph.add_edge(one, other, weight=abs(a - b))
    first, last = levels[0], levels[-1]
    begin, end = first.box.centre[0], last.box.centre[0]
    for code, at, name in ((first.code, begin, "begin"), (last.code, end, "end")):
        for place, pair in on[code]:
            graph.add_edge(name, pair, weight=abs(place - at))
    route = network.route((first.code, begin), (last.code, end), None, frozenset({upright}))
    assert upright not in route.codes
    assert route.length == pytest.approx(networkx.shortest_path_length(graph, "begin", "end", weight="weight"))
    assert route.length == pytest.approx(sum(abs(leg.end - leg.start) for leg in route.legs))


def test_where_both_may_share_each_way_is_the_shortest(plan: Plan) -> None:
    job = replace(plan.job, practice=replace(plan.job.practice, uprights="shared"))
    shared = compute_plan(settle(job))
    network = DuctNetwork(shared.plate.ducts)
    for c in shared.conductors:
        if c.legs and c.location == "plate":
            begin, end = (c.legs[0].duct, c.legs[0].start), (c.legs[-1].duct, c.legs[-1].end)
            assert network.route(begin, end).length <= sum(abs(leg.end - leg.start) for leg in c.legs) + 1e-6
    assert {c.id: c.length_mm for c in shared.conductors} != {c.id: c.length_mm for c in plan.conductors}
