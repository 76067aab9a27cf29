"""A starter as plain circuit and back: nothing that is built, numbered or placed changes."""

import pytest

from riktig.files.brief_reader import parse_brief
from riktig.files.brief_writer import write_brief
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.model import Job
from riktig.job.paths import parse_path, write_path
from riktig.plan.changes.detach import attach_starter, can_attach, detach_starter, remove_starter
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import demo_text, job_of

CASES = [("iec", name) for name in ("M1", "M2", "M3", "M4", "M5", "M6")] + [("ul", name) for name in ("M1", "M4", "M5")]


def facts(plan: Plan) -> tuple[object, ...]:
    numbers = {t: p.number for p in plan.potentials for t in p.net.terminals}
    return (
        numbers,
        plan.tags,
        plan.contacts,
        {c.id for c in plan.conductors},
        {d: p.code for d, p in plan.parts.items()},
    )


def detached(world: str, name: str) -> tuple[Job, Job]:
    job = job_of(demo_text(world))
    return job, settle(detach_starter(job, name))


@pytest.mark.parametrize(("world", "name"), CASES)
def test_detaching_changes_no_number_tag_contact_part_or_wire_and_the_way_back_is_open(world: str, name: str) -> None:
    job, plain = detached(world, name)
    assert facts(compute_plan(plain)) == facts(compute_plan(job))
    assert can_attach(plain, name)
    assert parse_brief(write_brief(plain)) == plain
    back = settle(attach_starter(plain, name))
    assert back.starters == job.starters and facts(compute_plan(back)) == facts(compute_plan(job))


def test_what_was_changed_meanwhile_is_not_thrown_away() -> None:
    _, plain = detached("iec", "M6")
    changed = settle(edits.change_rung(plain, "M6/run", plain.rungs[0].path.replace("M6.S0:nc > ", "")))
    assert not can_attach(changed, "M6")
    with pytest.raises(JobError, match="was changed since it was detached"):
        attach_starter(changed, "M6")


def test_a_starter_that_is_detached_twice_or_is_not_there_is_refused() -> None:
    _, plain = detached("iec", "M6")
    with pytest.raises(JobError, match="plain circuit already"):
        detach_starter(plain, "M6")
    with pytest.raises(JobError, match="there is no 'M99'"):
        detach_starter(plain, "M99")


def test_removing_a_detached_starter_takes_its_circuit_along() -> None:
    _, plain = detached("iec", "M6")
    gone = settle(remove_starter(plain, "M6"))
    assert not any(d.name.startswith("M6") for d in gone.devices) and gone.rungs == ()


def test_plain_circuit_may_lose_a_part_and_is_still_planned() -> None:
    _, plain = detached("iec", "M6")
    path = next(f.path for f in plain.feeders if f.name == "M6/power")
    bare = edits.change_member(plain, "feeders", "M6/power", path=path.replace(" > M6.F", ""))
    run = next(r.path for r in plain.rungs if r.name == "M6/run")
    bare = edits.change_rung(bare, "M6/run", run.replace("M6.F:95-96 > ", ""))
    assert "M6.F" not in compute_plan(settle(edits.remove(bare, "devices", "M6.F"))).parts


@pytest.mark.parametrize(
    "text", ["C1+ > (A:no > B | (C:13-14 | D) > E) > @x > F:coil > C1-", "L1 L2 L3 > Q > (K | R[3 2 1]) > M"]
)
def test_a_written_path_reads_back(text: str) -> None:
    assert write_path(parse_path(text, is_feeder=text.startswith("L1"))) == text


@pytest.mark.parametrize(("world", "name"), CASES)
def test_a_copy_of_a_detached_starter_uses_its_own_parts_alike_and_names_potentials_of_its_own(
    world: str, name: str
) -> None:
    job, plain = detached(world, name)
    copied = settle(edits.duplicate_starter(plain, name))
    (new,) = {s.name for s in copied.starters} - {s.name for s in job.starters}
    assert edits.plain_circuit(copied, name) == edits.plain_circuit(plain, name)
    plan = compute_plan(copied)

    def uses_in(who: str) -> list[tuple[str, str | None]]:
        return [(u.device.removeprefix(who), u.ref.what) for u in plan.uses if u.path.startswith(f"{who}/")]

    assert uses_in(new) == uses_in(name) and len(uses_in(new)) > 5
    named = {
        who: {n.partition("_")[2] for net in plan.netlist.nets for n in net.names if n.startswith(f"@{who}_")}
        for who in (name, new)
    }
    assert named[new] == named[name], "its named potentials have names of their own"
    assert {
        f"{new}.{role}" for d in plan.circuit.index if (role := d.partition(f"{name}.")[2])
    } <= plan.circuit.index.keys()
