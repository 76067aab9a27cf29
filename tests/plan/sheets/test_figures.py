"""Paths joined into figures and cut where they are too large: nothing is lost, nothing is twice, every part fits a sheet."""

from collections import Counter

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from effort import examples
from riktig.plan.circuit.model import Circuit
from riktig.plan.sheets.allocation import spot_walk
from riktig.plan.sheets.building import build_figures
from riktig.plan.sheets.figures import (
    CONTROL_CELLS,
    LANES,
    POWER_CELLS,
    Branch,
    Figure,
    Fork,
    Spot,
    Tie,
    branch_cells,
    branch_lanes,
    power_cells,
    spots_in,
)
from riktig.plan.stages import run_of
from strategies import briefs, panels, starter_text
from support import HEAD, STARTER, demo_text, job_of, plan_of


def circuit_of(text: str) -> Circuit:
    return run_of(job_of(text))["circuit"]


def figures_of(text: str) -> dict[str, Figure]:
    return {figure.key: figure for figure in build_figures(circuit_of(text))}


def words(branch: Branch) -> str:
    """Return a branch as a text like a path, with what hangs from a tie in braces."""
    parts = []
    for step in branch.steps:
        if isinstance(step, Spot):
            parts.append("+".join(ref.device for ref in step.refs))
        elif isinstance(step, Tie):
            parts.append(" ".join(step.names) + "".join(f"{{{words(side)}}}" for side in step.sides))
        else:
            assert isinstance(step, Fork)
            inner = (words(Branch(steps=b, end=None, width=branch.width)) for b in step.branches)
            parts.append(f"({' | '.join(inner)})")
    return " > ".join(parts)


TIE_FIRST = (
    HEAD
    + "".join(f'[device.{name}]\nkind = "relay"\n' for name in ("C5", "K1", "K2"))
    + '[[rung]]\npath = "C1+ > K2:nc > @node > (K1:no | K1:no > (K1:no | K1:no > K1:no) > '
    + '(K1:no | K1:no > K1:no > K1:no)) > C5:coil > C1-"\n'
)
"""A cut falls on a named point before a fork that fills a lane."""


@settings(max_examples=examples(60))
@example(TIE_FIRST, 4)
@given(st.one_of(briefs(), panels()), st.integers(4, 9))
def test_every_mention_is_in_one_figure_and_every_figure_fits_a_sheet(text: str, letters: int) -> None:
    circuit = circuit_of(text)
    figures = build_figures(circuit, letters)
    found = Counter(m for f in figures for spot, _ in spot_walk(f) for m in spot.mentions())
    uses = {(use.key.split("|", 1)[0], use.ref) for use in run_of(job_of(text))["uses"]}
    assert set(found) == uses and set(found.values()) == {1}
    assert len({figure.key for figure in figures}) == len(figures)
    for figure in figures:
        room = power_cells(letters) if figure.is_power else CONTROL_CELLS
        assert branch_cells(figure.trunk, is_power=figure.is_power) <= room + 1e-9 and figure.lanes <= LANES
        assert [s for s, _ in spot_walk(figure)] != []


@settings(max_examples=examples(60))
@given(panels())
def test_no_two_spots_of_one_lane_stand_beside_each_other(text: str) -> None:
    """A lane of a figure holds what is in series; two branches of a fork or two side branches have lanes of their own."""
    for figure in build_figures(circuit_of(text)):
        lanes = [lane for _, lane in spot_walk(figure)]
        assert min(lanes) == 0 and max(lanes) < branch_lanes(figure.trunk)
        forks = [step for step in figure.trunk.steps if isinstance(step, Fork)]
        for fork in forks:
            places = [{lane for spot, lane in spot_walk(figure) if spot in set(spots_in(b))} for b in fork.branches]
            assert sum(len(p) for p in places) == len(set().union(*places))


def test_a_star_delta_starter_is_drawn_in_one_piece_with_a_motor_of_six_leads() -> None:
    """By hand from the way the three contactors are joined."""
    power = figures_of(HEAD + starter_text("M1", "star-delta"))["M1/power"]
    assert words(power.trunk) == (
        "M1.Q > @M1_L1 @M1_L2 @M1_L3{M1.KD > @M1_V2 @M1_W2 @M1_U2 > M1.KS} > M1.K > M1.F > M1+M1+M1"
    )


def test_a_reversing_starter_hangs_its_second_rung_from_the_first() -> None:
    figures = figures_of(HEAD + starter_text("M1", "reversing"))
    assert "M1/reverse" not in figures
    assert words(figures["M1/run"].trunk) == (
        "M1.F > M1.S0 > @M1_run{(M1.S2 | M1.KR) > M1.K > M1.KR} > (M1.S1 | M1.K) > M1.KR > M1.K"
    )


def test_a_rung_of_another_owner_never_hangs_from_a_starter() -> None:
    text = demo_text("iec") + '[[rung]]\nname = "own"\npath = "@A1_alarm > M1.K:no > A1.H > C2-"\n'
    assert figures_of(text)["own"].start == ("@A1_alarm",)


@pytest.mark.parametrize("count", [6, 8, 16, 30])
def test_a_long_series_is_cut_into_parts_that_meet(count: int) -> None:
    text = (
        HEAD + "".join(f'[device.K{n}]\nkind = "relay"\n' for n in range(1, count + 1)) + '[device.P9]\nkind = "lamp"\n'
    )
    text += f'[[rung]]\npath = "C1+ > {" > ".join(f"K{n}:no" for n in range(1, count + 1))} > P9 > C1-"\n'
    parts = [f for f in build_figures(circuit_of(text)) if f.key.startswith("rung1")]
    assert len(parts) == -(-(count + 1) // int(CONTROL_CELLS))
    for before, behind in zip(parts, parts[1:], strict=False):
        assert before.trunk.end == behind.start
    assert parts[-1].trunk.end == ("C1-",)


def test_longer_numbers_leave_room_for_fewer_devices_and_short_ones_for_no_more_than_fit() -> None:
    cells = [power_cells(letters) for letters in range(1, 12)]
    assert cells == sorted(cells, reverse=True) and max(cells) == POWER_CELLS
    assert power_cells(9) < 5 < power_cells(4)


def test_a_plain_starter_has_one_figure_in_the_power_circuit_and_its_lamps_beside_its_rung() -> None:
    plan = plan_of(HEAD + STARTER)
    mine = [f.key for f in plan.sheets.figures if f.owner == "M1"]
    assert mine == ["M1/power", "M1/run", "M1/run-lamp", "M1/trip-lamp"]
