"""What is shown of an edit first is what comes out at last, as far as it goes."""

import random

import pytest

from panels import panel_text
from riktig.desk.early import early_plan
from riktig.drawings.display import Text
from riktig.drawings.single_line import draw_single_line
from riktig.files.brief_reader import parse_brief
from riktig.job.edits import change_starter
from riktig.job.model import Job
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import begin_settling, settle_by
from riktig.plan.stages import memory
from support import demo_text

BEHIND = {"netlist", "plate", "conductors", "panel", "sections"}


def changed(job: Job, chance: random.Random) -> Job:
    starter = chance.choice(job.starters)
    if chance.random() < 0.5:
        unit = "kw" if starter.kw is not None else "hp"
        return change_starter(job, starter.name, **{unit: chance.choice((0.75, 2.0, 5.0, 7.5))})
    return change_starter(job, starter.name, lamps=chance.choice(((), ("run",), ("run", "trip"))))


@pytest.mark.parametrize("text", [demo_text("iec"), demo_text("ul"), *(panel_text(seed) for seed in range(4))])
def test_devices_parts_and_motors_are_those_of_the_settled_job(text: str) -> None:
    chance = random.Random(7)
    job = parse_brief(text)
    plan = compute_plan(job)
    for _ in range(3):
        edited = changed(job, chance)
        run = begin_settling(edited)
        memory().ran.clear()
        early = early_plan(plan, edited, run)
        assert not BEHIND & set(memory().ran)
        job = settle_by(run, edited)
        plan = compute_plan(job)
        for name in ("circuit", "parts", "starters", "motors", "power_circuits", "motor_roles", "own_loads"):
            assert getattr(early, name) == getattr(plan, name), name
        assert all(early.tags[device] == plan.tags[device] for device in plan.parts if device in early.parts)
        differing = texts(early) ^ texts(plan)
        assert all(words.startswith(("full load", "fault current", "supply: at most")) for words in differing), (
            differing
        )


def texts(plan: Plan) -> set[str]:
    return {one.text for one in draw_single_line(plan).primitives() if isinstance(one, Text)}
