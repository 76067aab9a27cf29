"""The table of stages: what is made step by step is what is made from nothing, and a stage reads what it declares."""

import os
import random
from dataclasses import fields, is_dataclass, replace
from itertools import chain
from typing import Any

import pytest

from panels import panel_text
from person import random_edit
from riktig.catalogue.shop import shop_now
from riktig.files.brief_reader import parse_brief
from riktig.job import edits
from riktig.job.ledger import Ledger
from riktig.job.model import Job
from riktig.pipeline.engine import Memory, Run, Stage
from riktig.pipeline.facets import UndeclaredInput
from riktig.pipeline.rows import no_rows
from riktig.plan.settle import settle
from riktig.plan.sizes.starter import size_starter
from riktig.plan.stages import STAGES, memory, run_of
from riktig.standards.shelf import ShutShelf

TOOLS = frozenset({"geometry", "network", "ways", "lengths"})
"""Products that only look things up in others, and have no equality of their own."""
PRODUCTS = [stage.name for stage in STAGES if stage.name not in TOOLS and not stage.kept]
SEQUENCES = int(os.environ.get("RIKTIG_SEQUENCES", "2"))
LENGTH = 20


def from_nothing(job: Job) -> dict[str, Any]:
    """Return the products of a Job with nothing remembered, no row either."""
    size_starter.cache_clear()
    with no_rows():
        run = Run(Memory(STAGES), job, shop_now(), allocates=False)
        return {product: run[product] for product in PRODUCTS}


def ordered(value: Any) -> Any:
    """Return a product with its mappings, also those in fields, as lists: equal only where the order is."""
    if isinstance(value, dict):
        return list(value.items())
    if is_dataclass(value):
        return [ordered(getattr(value, field.name)) for field in fields(value)]
    return value


@pytest.mark.parametrize("seed", range(SEQUENCES))
def test_after_any_edits_every_product_is_that_of_a_fresh_start(seed: int) -> None:
    chance = random.Random(seed)
    job = parse_brief(panel_text(seed))
    before = [job]
    for step in range(LENGTH):
        name, job = random_edit(job, chance) if chance.random() < 0.9 else ("undo", chance.choice(before))
        before.append(job)
        known, fresh = run_of(job), from_nothing(job)
        differing = [product for product in PRODUCTS if ordered(known[product]) != ordered(fresh[product])]
        assert differing == [], (seed, step, name)
        copy = Job.model_validate_json(job.model_dump_json())
        assert settle(copy) == job, (seed, step, name)


def test_a_title_sizes_nothing_again_and_a_second_settling_runs_nothing() -> None:
    job = parse_brief(panel_text(3))
    memory().ran.clear()
    assert settle(job) is job and memory().ran == []
    titled = settle(edits.change_starter(job, "M1", title="Another title"))
    assert not {"starters", "sections", "items", "plate_choices", "panel"} & set(memory().ran)
    assert run_of(titled)["panel"] is run_of(job)["panel"]
    moved = settle(edits.keep_choice(titled, "tags", "M1.K", "K77"))
    assert moved.ledger.tags["M1.K"].value == "K77"
    assert not {"joins", "plate_choices", "sections"} & set(memory().ran[-8:])


RARE = """
brief = 1
[job]
number = "G-rare"
[supply]
system = "3ph+n"
volts = 400
[extra_supply.P]
system = "3ph"
volts = 500
[control.C1]
kind = "direct"
from = "P.L1 P.L2"
[starter.M1]
kind = "dol"
kw = 4
supply = "C1"
[device.X1]
kind = "lamp"
[device.R1]
kind = "resistor"
[[rung]]
path = "C1+ > M1.K:no > X1 > C1-"
[[feeder]]
path = "L1 > R1 > M1.M:U-V > L2"
[device.M2]
kind = "motor"
kw = 1.1
[device.Q2]
kind = "breaker"
[[feeder]]
path = "P.L1 P.L2 P.L3 > Q2 > M2"
[device.E2]
kind = "load"
kw = 2
[[feeder]]
path = "L1 L2 L3 > Q3 > E2"
[device.Q3]
kind = "breaker"
[device.V1]
kind = "fan"
at = "left_wall"
[device.F9]
kind = "breaker"
[[feeder]]
path = "L1 > F9 > V1 > N"
[kept.parts]
"M1.Q" = "of no catalogue"
[kept.holes]
"V1" = "120 300"
"""
"""A control supply and a motor in plain circuit on a second way in, a device called like a strip, a motor named by its role, a part
that is held and unknown, a fan in a side wall.
"""


@pytest.fixture(scope="module")
def runs() -> list[Run]:
    """Return the products of panels that between them ask every stage all that it reads."""
    settled = [parse_brief(text) for text in (*map(panel_text, range(16)), panel_text(68, most=9), RARE)]
    jobs = chain(settled, (edits.replace(job, ledger=Ledger()) for job in settled))
    return [Run(Memory(STAGES), job, shop_now(), allocates=True) for job in jobs]


def runs_without(stage: Stage, name: str, run: Run) -> bool:
    """Return whether a stage of the table still runs when one of its inputs is not declared."""
    less = replace(stage, inputs=tuple(other for other in stage.inputs if other != name))
    try:
        less.call({other: run[other] for other in less.inputs})
    except (UndeclaredInput, ShutShelf, TypeError):
        return False
    return True


@pytest.mark.parametrize("stage", STAGES, ids=lambda stage: stage.name)
def test_a_stage_cannot_do_without_any_input_that_it_declares(stage: Stage, runs: list[Run]) -> None:
    needless = [name for name in stage.inputs if all(runs_without(stage, name, run) for run in runs)]
    assert needless == []
