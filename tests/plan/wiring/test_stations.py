"""Conductors to stations away from the panel, counted by hand from the circuit as a builder draws it."""

from collections import Counter
from itertools import combinations

import pytest
from shapely import box as shapely_box

from riktig.checks.run import find_all
from riktig.drawings.shop_papers import hole_rows
from riktig.plan.plan import Plan
from support import HEAD, cores, plan_of

LAMPS = HEAD + '[starter.M1]\nkw = 1.5\nsupply = "C1"\nbuttons_at = "st1"\nlamps = ["run", "trip"]\n'
PARALLEL = HEAD + '[starter.M1]\nkw = 1.5\nkind = "reversing"\nsupply = "C1"\nbuttons_at = ["st1", "st2"]\n'
STOPS = (
    HEAD
    + '[estop.E1]\nat = ["st1", "st2"]\nstops = "all"\nreset = "button"\n'
    + '[starter.M1]\nkw = 1.5\nsupply = "C1"\nbuttons_at = "st1"\n[starter.M2]\nkw = 1.5\nsupply = "C1"\nbuttons_at = "st2"\n'
)


def jumpers(plan: Plan, place: str) -> list[str]:
    return [c.number for c in plan.conductors if c.location == place]


def earths(plan: Plan, place: str) -> int:
    return sum("PE" in cable.numbers for cable in plan.cables if cable.drop == place)


def test_a_station_with_buttons_and_lamps() -> None:
    """By hand: 1 feeds overload, lamp contact and trip contact; 2 to the stop, 3 between stop and start with the seal-in, 4 to the
    coil, 5 back, 6 to the run lamp, 7 to the trip lamp. 2 to 7 go to the station, 3 and 5 are jumpered there.
    """
    plan = plan_of(LAMPS)
    assert cores(plan, "st1") == ["2", "3", "4", "5", "6", "7"]
    assert jumpers(plan, "st1") == ["3", "5"] and earths(plan, "st1") == 1


def test_two_stations_in_parallel_on_a_reversing_starter() -> None:
    """By hand: 2 to the first stop, 3 between the stops, 4 from the second stop to all starts and both seal-ins, 5 forward to its
    interlock, 6 to its coil, 7 back, 8 reverse, 9 to its coil. 6, 7 and 9 stay inside.
    """
    plan = plan_of(PARALLEL)
    assert cores(plan, "st1") == ["2", "3", "4", "5", "8"] and jumpers(plan, "st1") == ["4"]
    assert cores(plan, "st2") == ["3", "4", "5", "8"] and jumpers(plan, "st2") == ["4", "4"]


def test_two_stations_with_emergency_stops_in_series_and_one_reset() -> None:
    """By hand: each motor takes three (to its stop, between, to its coil): 2 3 4 and 6 7 8. The emergency stops lie in series: 9 to
    the first, 10 on to the second, 11 from there to the relay, and 12 back from the reset, which is at the first station.
    """
    plan = plan_of(STOPS)
    assert cores(plan, "st1") == ["2", "3", "4", "9", "10", "11", "12"]
    assert cores(plan, "st2") == ["6", "7", "8", "10", "11"]
    assert (jumpers(plan, "st1"), jumpers(plan, "st2")) == (["3"], ["7"])


@pytest.mark.parametrize(
    ("text", "place", "cores_in_all"), [(LAMPS, "st1", 12), (PARALLEL, "st2", 5), (STOPS, "st1", 12)]
)
def test_a_cable_is_the_next_standard_one_with_a_tenth_to_spare(text: str, place: str, cores_in_all: int) -> None:
    """Standard cables of 5, 7, 12 cores, at least 10 % spare from seven up: common practice. 7 used want 7.7, so 12; 5 take 5."""
    cable = next(c for c in plan_of(text).cables if c.drop == place)
    assert len(cable.numbers) + cable.spare == cores_in_all


def test_a_metal_station_has_a_hole_for_its_earth_stud_and_the_list_says_how_each_hole_is_made() -> None:
    plan = plan_of(LAMPS)
    station = next(s for s in plan.stations if s.location == "st1")
    stud = next(c for c in station.cutouts if c.device == "st1.PE")
    others = [c for c in station.cutouts if c.device != "st1.PE"]
    assert stud.diameter == plan.parts["st1.PE"].rating("hole_mm") and all(
        min(stud.box.overlap(c.box)) <= 0 for c in others
    )
    how = {row[7]: row[6] for row in hole_rows(plan) if row[0] == "station st1"}
    assert how["PE.st1"] == "through, for M8" and how[plan.tags["M1.S1"]] == "through, notch upward"
    bare = plan_of(LAMPS.replace("[location.st1]", '[location.st1]\nbox = "insulating"'))
    assert len(bare.stations[0].cutouts) == len(others)


PANEL = '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\nvolts = 24\n[controller.A1]\noperator_panel = "st1"\n'


@pytest.mark.parametrize("buttons", [0, 1, 5, 9])
def test_an_operator_panel_stands_above_the_buttons_and_each_earth_has_a_nut_of_its_own(buttons: int) -> None:
    """One conductor to a clamp of earth: IEC 60204-1 13.1.1; the cable lands on the box, not on what can be taken out."""
    text = HEAD + PANEL + "".join(f'[device.S7{n}]\nkind = "pushbutton"\nat = "st1"\n' for n in range(buttons))
    plan = plan_of(text)
    (station,) = plan.stations
    boxes = [shapely_box(b.x, b.y, b.right, b.top) for b in (hole.box for hole in station.cutouts)]
    lid = shapely_box(0, 0, station.width, station.height)
    assert station.fits and all(lid.contains(box) for box in boxes)
    assert not any(one.distance(other) < 8 for one, other in combinations(boxes, 2))
    panel = next(hole for hole in station.cutouts if hole.device == "A1.HMI")
    assert all(hole.box.top < panel.box.y for hole in station.operators if hole is not panel)
    landed = Counter(
        end
        for c in plan.conductors
        if c.is_wired and c.number == "PE"
        for end in (c.a, c.b)
        if "st1" in end or "HMI" in end
    )
    assert landed and set(landed.values()) == {1}
    (core,) = (c for c in plan.conductors if c.kind == "core" and c.number == "PE" and "st1" in c.a + c.b)
    assert "st1.PE" in core.b
    assert not {f.rule for f in find_all(plan)} & {"clamp-overfull", "station-holes-close", "station-too-small"}
