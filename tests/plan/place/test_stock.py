"""Bars: as few as the exact solver needs, each piece once, cuts counted."""

import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from riktig.plan.place.stock import pack_bars


def fewest_bars(lengths: list[float], stock: float, kerf: float) -> int:
    """Return the least number of bars by integer programming: x[piece, bar], used[bar], bars taken in order."""
    n = len(lengths)
    most = len(pack_bars(lengths, stock, kerf))
    cost = np.concatenate([np.zeros(n * most), np.ones(most)])
    each = np.zeros((n, len(cost)))
    room = np.zeros((most, len(cost)))
    for piece in range(n):
        each[piece, piece * most : (piece + 1) * most] = 1
        for bar in range(most):
            room[bar, piece * most + bar] = lengths[piece] + kerf
    for bar in range(most):
        room[bar, n * most + bar] = -(stock + kerf)
    order = np.zeros((max(most - 1, 0), len(cost)))
    for bar in range(most - 1):
        order[bar, n * most + bar], order[bar, n * most + bar + 1] = -1, 1
    rules = [LinearConstraint(each, 1, 1), LinearConstraint(room, -np.inf, 1e-9)]
    rules += [LinearConstraint(order, -np.inf, 0)] if most > 1 else []
    found = milp(
        cost, constraints=rules, integrality=np.ones(len(cost)), bounds=Bounds(0, 1), options={"time_limit": 60}
    )
    assert found.status == 0, found.message
    return round(found.fun)


@pytest.mark.parametrize("seed", range(50))
def test_as_few_bars_as_the_exact_solver_needs(seed: int) -> None:
    """SciPy `milp` (HiGHS) as oracle; from few long pieces to many of all lengths, whole and broken millimetres."""
    chance = random.Random(seed)
    low, high = chance.choice([(50, 1990), (300, 1100), (600, 700), (450, 1000)])
    lengths = [round(chance.uniform(low, high), chance.choice([0, 1])) for _ in range(chance.randint(2, 13))]
    bars = pack_bars(lengths, 2000.0, 3.0)
    assert len(bars) == fewest_bars(lengths, 2000.0, 3.0)


@given(
    st.lists(st.floats(20, 2400), max_size=25), st.sampled_from([1000.0, 2000.0, 3000.0]), st.sampled_from([0.0, 3.0])
)
def test_each_piece_is_cut_once_and_cuts_are_counted(lengths: list[float], stock: float, kerf: float) -> None:
    bars = pack_bars(lengths, stock, kerf)
    assert sorted(k for bar in bars for k in bar) == list(range(len(lengths)))
    for bar in bars:
        used = sum(lengths[k] for k in bar) + (len(bar) - 1) * kerf
        assert used <= stock + 1e-6 or (len(bar) == 1 and lengths[bar[0]] > stock)


@pytest.mark.parametrize("seed", range(4))
def test_a_thousand_pieces_reach_the_lower_bound_or_one_bar_more(seed: int) -> None:
    """No packing uses less than all lengths and cuts together fill."""
    chance = random.Random(seed)
    few = [round(chance.uniform(200, 1500)) for _ in range(12)]
    lengths = [chance.choice(few) if seed % 2 else round(chance.uniform(300, 1100)) for _ in range(1000)]
    bars = pack_bars(lengths, 2000.0, 3.0)
    assert sorted(k for bar in bars for k in bar) == list(range(1000))
    assert max(sum(lengths[k] + 3 for k in bar) for bar in bars) <= 2003 + 1e-6
    first_fit: list[float] = []
    for length in sorted(lengths, reverse=True):
        at = next((b for b, free in enumerate(first_fit) if free >= length + 3), None)
        if at is None:
            first_fit.append(2003.0)
            at = len(first_fit) - 1
        first_fit[at] -= length + 3
    assert len(bars) <= len(first_fit)


def test_first_fit_is_beaten_where_it_wastes_a_bar() -> None:
    """By hand: longest first puts the two of 800 together, then 600 three times, then one alone; 800 and twice 600 fill two bars."""
    assert len(pack_bars([800, 800, 600, 600, 600, 600], 2000, 0)) == 2
