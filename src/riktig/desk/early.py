"""Owns what is shown of an edit before all that follows from it is there: what the motors come to. Must not know a screen."""

from dataclasses import replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.job.model import Job
    from riktig.pipeline.engine import Run
    from riktig.plan.basis.sized import SizedValue
    from riktig.plan.plan import Plan

_PRODUCTS = ("circuit", "parts", "starters", "motors", "power_circuits", "motor_roles", "own_loads")


def early_plan(before: "Plan", job: "Job", run: "Run") -> "Plan":
    """Return the Plan before an edit with what a Job after it, not settled yet, says of its motors: devices, parts, and values of motors
    that changed. The panel's totals and all behind the parts are as they were. Only these stages are run.

    Args:
        before: the Plan before the edit.
        job: the Job after it.
        run: its products, each made when it is first asked for.
    """
    products = {name: run[name] for name in _PRODUCTS}
    are_tagged = products["parts"].keys() <= before.tags.keys()
    return replace(
        before, job=job, tags=before.tags if are_tagged else run["tags"], sizing=_sizing(before, run), **products
    )


def _sizing(before: "Plan", run: "Run") -> "tuple[SizedValue, ...]":
    """Return all values, those of motors that changed and of parts as they are now."""
    changed = (sizes for name, sizes in run["starters"].items() if sizes is not before.starters.get(name))
    fresh = (*(value for sizes in changed for value in sizes.values), *run["equipment"].values)
    return tuple({**{value.key: value for value in before.sizing}, **{value.key: value for value in fresh}}.values())
