"""Owns what a path would look like before it is kept: the sheet that it would stand on. Must not keep anything."""

from dataclasses import dataclass

from riktig.drawings.circuit.sheets import draw_circuit
from riktig.drawings.display import Drawing
from riktig.job.edits import add_feeder, add_rung, change_member
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """A path that is being written: `name` is that of the row it changes, empty for a new one."""

    name: str
    path: str
    is_feeder: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Preview:
    """The sheet of a draft, the devices in it, and its name there."""

    drawing: Drawing
    refs: frozenset[str]
    name: str


def preview_path(plan: Plan, draft: Draft) -> Preview:
    """Return the sheet on which a draft would stand, drawn as it would be.

    Raises:
        JobError: the path does not fit the Job.
    """
    field = "feeders" if draft.is_feeder else "rungs"
    if draft.name:
        job = change_member(plan.job, field, draft.name, path=draft.path)
        name = draft.name
    else:
        job = (add_feeder if draft.is_feeder else add_rung)(plan.job, path=draft.path)
        name = getattr(job, field)[-1].name
    ahead = compute_plan(settle(job))
    place = next(p for (path, _), p in ahead.sheets.mentions.items() if path == name)
    (drawing,) = draw_circuit(ahead, only=place.sheet)
    devices = frozenset(use.device for use in ahead.uses if use.path == name)
    return Preview(drawing=drawing, refs=devices, name=name)
