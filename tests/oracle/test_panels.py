"""Whole panels against a recalculation that shares nothing with the product."""

import tomllib
from pathlib import Path

import pytest

from oracle.recalculate import differences, recalculate
from riktig.files.brief_reader import parse_brief
from riktig.files.plan_json import plan_to_dict
from riktig.plan.plan import compute_plan

HERE = Path(__file__).parent
PANELS = (
    "gatehouse",
    "quarry480",
    "delta240",
    "feedmill480",
    "tannery",
    "cannery",
    "cornermill",
    "ropeworks",
    "paperboard",
)


@pytest.mark.parametrize("name", PANELS)
def test_every_size_of_a_panel_is_what_it_is_by_hand(name: str) -> None:
    brief = HERE / f"{name}.toml"
    plan = plan_to_dict(compute_plan(parse_brief(brief.read_text())))
    stated = tomllib.loads(brief.read_text())
    assert len(recalculate(stated, plan)) >= 15
    assert differences(stated, plan) == []
