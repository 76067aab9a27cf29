"""What a person does to a job, by chance: one edit after the other, settled."""

import random
from collections.abc import Callable
from functools import cache

from panels import PRACTICE as CHOICES
from panels import panel_text
from riktig.files.brief_reader import parse_brief
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.model import Job
from riktig.job.overrides import override_value
from riktig.plan.changes import plate as plate_edits
from riktig.plan.changes.detach import attach_starter, detach_starter
from riktig.plan.changes.strips import clamps_of, move_clamp
from riktig.plan.changes.wires import rewire
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle

Edit = Callable[[Job, random.Random], Job]


def _starter(job: Job, chance: random.Random) -> str:
    return chance.choice(job.starters).name


def _nudge(job: Job, chance: random.Random) -> Job:
    plate = compute_plan(job).plate
    item = chance.choice(sorted(plate.items))
    move = plate_edits.nudge(plate, item, chance.choice([-5.0, 5.0]), 0.0)
    return plate_edits.keep_moves(job, moves=plate_edits.places_of((move,))) if move.is_legal else job


def _shift_clamp(job: Job, chance: random.Random) -> Job:
    row = clamps_of(job, "X2") or clamps_of(job, "X1")
    return move_clamp(job, chance.choice(row), chance.choice([-2, 1, 3])) if row else job


def _toggle_detached(job: Job, chance: random.Random) -> Job:
    starter = chance.choice(job.starters)
    return (attach_starter if starter.detached else detach_starter)(job, name=starter.name)


PRACTICE: dict[str, tuple[object, ...]] = {
    **CHOICES, "grouped": (2, 4, 6), "grouping": ("declared", "laid"),
    "kerf": (0.0, 3.0), "stock": (1500.0, 2000.0), "conductors": ("mm2", "awg"),
}  # fmt: skip
ENCLOSURE: dict[str, tuple[object, ...]] = {
    "width": (600.0, 800.0, 1200.0), "height": (800.0, 1200.0, 2000.0), "depth": (200.0, 300.0, 400.0), "hinge": ("left", "right"),
    "ambient": (20.0, 35.0, 45.0), "material": ("steel", "polyester"),
}  # fmt: skip


def _practice(job: Job, chance: random.Random) -> Job:
    key = chance.choice(sorted(PRACTICE))
    return edits.change_part(job, "practice", **{key: chance.choice(PRACTICE[key])})


def _enclosure(job: Job, chance: random.Random) -> Job:
    key = chance.choice(sorted(ENCLOSURE))
    return edits.change_part(job, "enclosure", **{key: chance.choice(ENCLOSURE[key])})


def _supply(job: Job, chance: random.Random) -> Job:
    key, values = chance.choice(
        [("fault_ka", (3.0, 6.0, 18.0)), ("entry", ("top", "bottom")), ("volts", (400.0, 480.0))]
    )
    return edits.change_part(job, "supply", **{key: chance.choice(values)})


def _incoming(job: Job, chance: random.Random) -> Job:
    key, values = chance.choice(
        [("switch", ("door", "plate")), ("main_contactor", (True, False)), ("protection", ("none", "fuse"))]
    )
    return edits.change_part(job, "incoming", **{key: chance.choice(values)})


def _location(job: Job, chance: random.Random) -> Job:
    return edits.change_member(
        job, "locations", "st1", distance=chance.choice([5.0, 15.0, 80.0]), title=chance.choice(["", "Mill"])
    )


def _control(job: Job, chance: random.Random) -> Job:
    return edits.change_member(
        job, "controls", "C1", volts=chance.choice([24.0, 115.0, 230.0]), earthed=chance.choice([True, False])
    )


@cache
def _donor(seed: int) -> Job:
    return parse_brief(panel_text(1000 + seed, most=3))


_BORROWED = tuple(name for name in Job.model_fields if name not in {"info", "ledger", "revision", "rungs"})


def _borrow(job: Job, chance: random.Random) -> Job:
    """Take one table over from another panel: modules, ways in, practice, starters."""
    donor, field = _donor(chance.randrange(12)), chance.choice(_BORROWED)
    return edits.replace(job, **{field: getattr(donor, field)})


def _feeder(job: Job, chance: random.Random) -> Job:
    name = edits.free_name(job, "Q")
    breaker = edits.Device(name=name, kind="breaker", poles=3, amps=chance.choice([6.0, 16.0]))
    load = edits.Device(name=f"E{name}", kind="load", poles=3, at="field", title="Own load")
    return edits.add_feeder(edits.add_device(edits.add_device(job, breaker), load), f"L1 L2 L3 > {name} > E{name}")


EDITS: dict[str, Edit] = {
    "power": lambda job, c: edits.change_starter(job, _starter(job, c), kw=c.choice([0.75, 1.5, 4.0, 7.5, 15.0]), hp=None),
    "lamp": lambda job, c: edits.change_starter(
        job, _starter(job, c), lamps=c.choice([(), ("run",), ("trip",), ("run", "trip")])
    ),
    "hours": lambda job, c: edits.change_starter(job, _starter(job, c), hours=c.choice([True, False])),
    "title": lambda job, c: edits.change_starter(job, _starter(job, c), title=c.choice(["", "Mill", "Press 2"])),
    "station": lambda job, c: edits.change_starter(job, _starter(job, c), buttons_at=c.choice([("door",), ("st1",), ("door", "st2")])),
    "start": lambda job, c: edits.change_starter(job, _starter(job, c), start_seconds=c.choice([4.0, 9.0])),
    "add": lambda job, c: edits.duplicate_starter(job, _starter(job, c)),
    "remove": lambda job, c: edits.remove(job, "starters", _starter(job, c)) if len(job.starters) > 1 else job,
    "tag": lambda job, c: edits.keep_choice(job, "tags", f"{_starter(job, c)}.K", f"K9{c.randrange(9)}"),
    "rung": lambda job, c: edits.add_rung(job, f"C1+ > {_starter(job, c)}.K:no > P9 > C1-"),
    "device": lambda job, c: edits.add_device(job, edits.Device(name=edits.free_name(job, "P"), kind="lamp", at="door", title="Own lamp")),
    "section": lambda job, c: override_value(job, f"{_starter(job, c)}|conductor_section", c.choice([4.0, 6.0]), "as it was"),
    "practice": _practice,
    "enclosure": _enclosure,
    "supply": _supply,
    "incoming": _incoming,
    "location": _location,
    "control": _control,
    "borrow": _borrow,
    "feeder": _feeder,
    "nudge": _nudge,
    "clamp": _shift_clamp,
    "detach": _toggle_detached,
    "rewire": lambda job, c: rewire(job),
    "issue": lambda job, c: issue_revision(job, f"R{c.randrange(1000)}"),
}  # fmt: skip
"""Every sort of edit by its name."""
RARE = frozenset({"issue", "detach", "rewire", "remove"})


def edit_of(name: str, job: Job, chance: random.Random) -> Job:
    """Return the settled Job after one edit, the Job itself where it does not fit."""
    try:
        return settle(EDITS[name](job, chance))
    except JobError:
        return job


def random_edit(job: Job, chance: random.Random) -> tuple[str, Job]:
    """Return what a person did and the settled Job after it."""
    name = chance.choice([*(name for name in EDITS if name not in RARE for _ in range(4)), *sorted(RARE)])
    return name, edit_of(name, job, chance)
