"""Rules of behaviour against an independent relay simulation that really presses, trips and switches on.

A random starter of a random panel is written out, one contact of its rungs is left out or of the other sort. Where a person who tries it
finds what must not be, the rule that forbids it has to say so; the rule may say more, for it also asks what no hand can try.
"""

import random
from collections.abc import Iterator

import pytest

from effort import examples
from panels import panel_text
from relay_simulation import Panel
from riktig.checks.run import find_all
from riktig.job.edits import change_rung
from riktig.job.faults import JobError
from riktig.job.model import Job
from riktig.job.path_edits import swap_sort, take_out
from riktig.job.paths import PathError, parse_path, refs_of
from riktig.job.roles import groups_of, restarts
from riktig.plan.changes.detach import detach_starter
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import job_of

_MADE = ("dol", "reversing", "star-delta", "pump")


def fresh(plan: Plan) -> Panel:
    """Return a panel that is switched on, its door closed, and what a person puts on first put on."""
    panel = Panel(plan)
    doors = [d.id for d in plan.circuit.devices if d.kind == "limit-switch" and d.wants.get("use") == "enclosure"]
    return panel.hold(*doors).wait()


def enabled(panel: Panel) -> Panel:
    """Press and let go of what pulls control-on relays in."""
    for device in panel.plan.circuit.devices:
        if device.kind == "pushbutton" and device.role in {"SB", "SX"}:
            panel.hold(device.id).release(device.id)
    return panel.wait()


def broken(plan: Plan, name: str) -> Iterator[tuple[str, str]]:
    """Yield (rule, contactor) of what somebody who tries a starter finds."""
    job, own = plan.job, [d for d in plan.circuit.devices if d.id.startswith(f"{name}.")]
    starter = next(s for s in job.starters if s.name == name)
    contactors = [d.id for d in own if d.kind == "contactor"]
    starts = [
        d.id
        for d in own
        if d.role in {"S1", "S2"} or (d.kind == "pushbutton" and d.id.rpartition(".")[2][:2] in {"S1", "S2"})
    ]
    stops = [d.id for d in own if d.id.rpartition(".")[2].startswith("S0")]
    selector = next((d for d in own if d.kind == "selector"), None)
    positions = [*(selector.positions or ()), None] if selector is not None else [None]
    floats = [d.id for d in plan.circuit.devices if d.kind == "float"]
    for position in positions:
        for held in (starts, []):
            for levels in ([], floats) if floats else ([],):
                panel = fresh(plan).hold(*levels)
                if selector is not None:
                    panel.turn(selector.id, position)
                if not held and not restarts(starter, job) and panel.wait().on & set(contactors):
                    yield "supply-return", contactors[0]
                enabled(panel).hold(*held).wait()
                on = panel.on & set(contactors)
                if {f"{name}.K", f"{name}.KR"} <= on or {f"{name}.KS", f"{name}.KD"} <= on:
                    yield "interlock-open", contactors[0]
                for stop in stops:
                    if panel.hold(stop).on & set(contactors):
                        yield "stop-first", contactors[0]
                    panel.release(stop)
                if f"{name}.F" in plan.parts and plan.parts[f"{name}.F"].kind == "overload":
                    if panel.hold(*held).trip(f"{name}.F").on & set(contactors):
                        yield "overload-first", contactors[0]
                    panel.reset(f"{name}.F")
                for group in groups_of(starter, job):
                    for device in (
                        d.id for d in plan.circuit.devices if d.owner == group.name and d.kind == "emergency-stop"
                    ):
                        if panel.hold(device, *held).wait().on & set(contactors):
                            yield "emergency-stop-reach", contactors[0]
                        panel.release(device)


def mutated(job: Job, name: str, chance: random.Random) -> Job:
    """Return the Job with one contact of a starter's rungs left out or of the other sort.

    Raises:
        JobError: that is no circuit.
        PathError: that is no path.
    """
    rung = chance.choice([r for r in job.rungs if r.name.startswith(f"{name}/") and "coil" in r.path])
    refs = [ref for ref in refs_of(parse_path(rung.path, is_feeder=False)) if ref.what != "coil"]
    act = chance.choice((take_out, swap_sort))
    return settle(change_rung(job, rung.name, act(rung.path, chance.choice(refs).column)))


@pytest.mark.parametrize("seed", range(examples(300)))
def test_what_a_person_finds_by_trying_is_found_by_the_rules(seed: int) -> None:
    chance = random.Random(seed)
    job = job_of(panel_text(seed))
    names = [
        s.name
        for s in job.starters
        if s.kind in _MADE and s.control in {None, "buttons", "selector"} and not s.detached
    ]
    if not names:
        pytest.skip("no starter of relays alone")
    name = chance.choice(names)
    job = settle(detach_starter(job, name))
    before = set(broken(compute_plan(job), name))
    assert before == set(), "the sound circuit"
    try:
        plan = compute_plan(mutated(job, name, chance))
    except (JobError, PathError):
        return
    said = {finding.rule for finding in find_all(plan)}
    try:
        tried = {rule for rule, _ in broken(plan, name)}
    except AssertionError:  # relays that never come to rest: another matter
        return
    assert tried - {"overload-first" if "trip-unused" in said else ""} <= said
