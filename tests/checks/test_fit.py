"""Duct fill and loads against a plain count, and what the checks say of room."""

from math import pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.checks.finding import Severity
from riktig.checks.fit import check_ducts
from riktig.checks.run import RULES, find_all
from riktig.plan.place.routes import Leg
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.duct_fill import duct_loads
from riktig.standards.wire_diameters import outer_diameter_mm
from riktig.units.conductor_size import from_mm2
from support import HEAD, STARTER, plan_of


def wire(start: float, end: float, mm2: float = 1.5, stage: str = "control") -> Conductor:
    leg = Leg(duct="D4", start=start, end=end)
    return Conductor(
        id=f"{start} {end} 1", number="1", kind="wire", a="A:1", b="B:1", location="plate", size=from_mm2(mm2),
        colour="red", length_mm=1.0, legs=(leg,), stage=stage, batch="",
    )  # fmt: skip


@given(st.lists(st.tuples(st.integers(0, 50), st.integers(0, 50)), min_size=1, max_size=20))
def test_the_fullest_place_of_a_duct_is_that_of_a_plain_count(ways: list[tuple[int, int]]) -> None:
    wires = tuple(wire(a, b) for a, b in ways)
    area = outer_diameter_mm(1.5) ** 2 * pi / 4
    plain = max(sum(min(a, b) <= place <= max(a, b) for a, b in ways) for place in range(51))
    assert duct_loads(wires, ())["D4"].area == pytest.approx(plain * area)


def test_power_circuits_are_counted_by_threes() -> None:
    wires = tuple(wire(0, 10, stage="feeds") for _ in range(7))
    assert duct_loads(wires, ())["D4"].circuits == 3
    assert duct_loads(tuple(wire(0, 10) for _ in range(7)), ())["D4"].circuits == 0


@pytest.mark.parametrize(("mm2", "low", "high"), [(1.0, 2.4, 3.2), (2.5, 3.3, 4.3), (6, 4.9, 6.0), (16, 7.6, 9.8)])
def test_outer_diameters_lie_in_the_range_of_the_standard(mm2: float, low: float, high: float) -> None:
    """EN 50525-2-31 H05V-K and H07V-K, smallest and largest mean diameter, from memory."""
    assert low <= outer_diameter_mm(mm2) <= high


def test_a_duct_that_is_too_full_is_named_with_its_fill() -> None:
    """About 60 % at most: common practice, no source. The plate is too low for wider ducts."""
    plan = plan_of(HEAD + "".join(STARTER.replace("M1", f"M{n}").replace("1.5", "7.5") for n in range(1, 15)))
    full = {code for code, percent in plan.fill_percent.items() if percent > 60}
    found = {f.subject for f in check_ducts(plan) if f.rule == "duct-fill"}
    assert found == full and full


def test_rules_are_sorted_by_weight_and_each_names_source_evidence_and_limit() -> None:
    text = HEAD.replace("height = 1200", "height = 400") + STARTER.replace("kw = 1.5", "kw = 300")
    found = find_all(plan_of(text))
    weights = [list(Severity).index(f.severity) for f in found]
    assert weights == sorted(weights) and len({f.rule for f in found}) >= 5
    assert all(f.source and f.limit and f.message for f in found)
    assert len(RULES) == len(set(RULES))
