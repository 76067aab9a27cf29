"""Fans and heaters that the enclosure needs, chosen from the catalogue by what they must do."""

import pytest

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from support import HEAD, plan_of

SMALL = HEAD.replace("width = 800\nheight = 1200", "width = 600\nheight = 1800\ndepth = 300\nambient_min = -20")
DRIVES = "".join(f'[starter.M{n}]\nkw = 7.5\nkind = "drive"\nsupply = "C1"\n' for n in (1, 2))
CLIMATE = '[excepted.X1]\nload = "fan"\n[excepted.X2]\nload = "heater"\n'


def value(plan: Plan, subject: str) -> tuple[float, float | None]:
    found = next(v for v in plan.sizing if v.subject == subject)
    return found.value, found.needed


def test_a_fan_is_large_enough_for_what_the_balance_finds_with_the_wires_as_routed() -> None:
    """V = f (P - k A ΔT) / ΔT with 3.1 at sea level, common practice; sized with wires at 30 % of the devices."""
    plan = plan_of(SMALL + DRIVES + '[excepted.X1]\nload = "fan"\n')
    chosen, needed = value(plan, "X1.E")
    assert needed is not None and chosen >= needed > 0 and plan.parts["X1.E"].rating("m3h") == chosen
    assert plan.panel.heat.inside_c <= plan.job.enclosure.inside_max
    assert not {"inside-temperature", "rating-missing"} & {f.rule for f in find_all(plan)}
    smaller = [m3h for m3h in (25, 60, 110, 250, 400, 600) if m3h < chosen]
    assert not smaller or smaller[-1] < needed, "and no larger than it must be"


def test_a_heater_gives_what_the_walls_lose_in_the_cold() -> None:
    """By hand: at a wall 1.4 · 0.6 (1.8 + 0.3) + 1.8 · 0.3 · 1.8 = 2.736 m2; 5.5 · 2.736 · 25 K = 376 W, more than the largest of 150 W,
    so one finding asks for two more; three share it.
    """
    one = plan_of(SMALL + DRIVES + CLIMATE)
    assert value(one, "X2.E")[1] == pytest.approx(376.2, abs=0.1)
    warmer = plan_of((SMALL + DRIVES + CLIMATE).replace("ambient_min = -20", "ambient_min = 0"))
    assert value(warmer, "X2.E") == (100, pytest.approx(75.2, abs=0.1))
    assert "cold-enclosure" not in {f.rule for f in find_all(warmer)}
    (cold,) = [f for f in find_all(one) if f.rule in {"rating-missing", "cold-enclosure"}]
    assert "376 W" in cold.message and cold.message.endswith('load = "heater", 2 of them')
    three = plan_of(SMALL + DRIVES + CLIMATE + "".join(f'[excepted.X{n}]\nload = "heater"\n' for n in (7, 8)))
    assert not [f for f in find_all(three) if f.rule in {"rating-missing", "cold-enclosure"}]


def test_a_person_may_take_a_larger_fan() -> None:
    text = SMALL + DRIVES + CLIMATE + '[kept.values]\n"X1.E|fan_air" = "400 | dusty: filters clog"\n'
    assert value(plan_of(text), "X1.E")[0] == 400
