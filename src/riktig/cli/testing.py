"""Owns the commands about testing a panel: its test, what that reveals, its report, a meter that stands in. Must not derive anything."""

import time
from math import inf
from pathlib import Path
from typing import Annotated, Any

import typer

from riktig.cli.base import DEFAULT_UNIT, JobArgument, JsonOption, app, plan_of, print_json, read_job
from riktig.job.scripts import seen_in_words
from riktig.plan.plan import Plan, compute_plan
from riktig.refusal import Refusal

CAUTION = (
    "Dead tests come first. Live tests are done by competent persons alone, and hands keep off; the local code and a competent person "
    "decide. What is derived is an aid, from the circuit as it is drawn."
)


@app.command("derive-tests")
def derive(job: JobArgument, as_json: JsonOption = False) -> None:
    """Print the function test that follows from the circuit: what to do, what must be seen, and what it does not reach."""
    from riktig.live.derive import derive_tests  # the solver's library costs a start more than all other commands
    from riktig.live.derived import as_document

    found = as_document(derive_tests(plan_of(job)))
    if as_json:
        print_json(found)
        return
    typer.echo(CAUTION)
    for number, step in enumerate(found["steps"], start=1):
        seen = seen_in_words(step["expect"], step["never"]) or "nothing changes"
        typer.echo(f"{number:4}  {'; '.join(step['do']) or 'switch on'}\n      -> {seen}   ({step['for']})")
    contacts, conductors = found["contacts"], found["conductors"]
    typer.echo(f"{contacts['moved']} of {contacts['all']} contacts seen closed and open, {conductors['carried']} of {conductors['all']} "
               "conductors with current")  # fmt: skip
    for one in contacts["never"]:
        typer.echo(f"  not moved: {one['from']} - {one['to']}: {one['because']}")
    for one in conductors["never"]:
        typer.echo(f"  no current: {one['number']}, {one['from']} to {one['to']}: {one['because']}")


@app.command("test-plan")
def print_test(
    job: JobArgument,
    as_json: JsonOption = False,
    faults: Annotated[bool, typer.Option("--faults", help="Also which single faults of wiring it reveals.")] = False,
) -> None:
    """Print the whole test of a panel in the order of the work: what is done, between which points, and what must be read."""
    from riktig.prove.coverage import report_faults
    from riktig.prove.program import list_steps, travel_m
    from riktig.prove.steps import PREPARATIONS

    plan = plan_of(job)
    steps = list_steps(plan)
    rows = [_step_row(plan, step) for step in steps]
    cover = report_faults(plan, steps, plan.job.scripts) if faults else None
    if as_json:
        print_json({"steps": rows, "faults": None if cover is None else {
            "all": cover.count, "first": dict(cover.first), "never": [{"fault": w, "because": b} for w, b in cover.hidden],
            "revealed": [{"fault": r.fault, "phase": r.phase.value, "first": r.first, "steps": r.count} for r in cover.revealed],
        }})  # fmt: skip
        return
    typer.echo(CAUTION)
    phase = None
    for number, (step, row) in enumerate(zip(steps, rows, strict=True), start=1):
        if step.phase is not phase:
            phase = step.phase
            typer.echo(f"\n{phase.value.upper()}: {PREPARATIONS[phase]}")
        tail = "".join(f"\n      {words}" for words in (step.do, step.prepare) if words and words != row["asks"])
        typer.echo(f"{number:5}  {row['title']}   [{row['asks']}]{tail}")
    ours, drawn = travel_m(plan, steps)
    typer.echo(f"\nContinuity in this order: both probes go {ours:g} m; along the schematic they would go {drawn:g} m.")
    if cover is not None:
        typer.echo(f"\n{cover.count - len(cover.hidden)} of {cover.count} single faults of wiring are revealed, first by: "
                   + ", ".join(f"{name} {count}" for name, count in cover.first.items()))  # fmt: skip
        for words, because in cover.hidden:
            typer.echo(f"  never: {words}: {because}")


def _step_row(plan: Plan, step: Any) -> dict[str, Any]:
    sides = {side: [plan.terminal_label(end) for end in ends] for side, ends in (("a", step.a), ("b", step.b))}
    title = f"{step.group}: {step.title}" if step.group else step.title
    return {
        "id": step.key, "phase": step.phase.value, "title": title, **sides, "asks": step.limit_words, "unit": step.unit.value,
        "low": step.low, "high": None if step.high == float("inf") else step.high, "expected": step.expected, "do": step.do,
        "prepare": step.prepare, "proves": step.proves, "source": step.source,
    }  # fmt: skip


@app.command("test-report")
def write_test_report(
    job: JobArgument,
    folder: Annotated[Path, typer.Argument(metavar="DIR")],
    unit: Annotated[str, typer.Option(help="Serial number of the panel.")] = DEFAULT_UNIT,
) -> None:
    """Write the report of the test of one panel as PDF and XLSX: readings, by whom, with what, what is left, what standards ask."""
    from riktig.files.proof_papers import write_report
    from riktig.prove.program import list_steps
    from riktig.record.testing import read_testing

    decided, events = read_job(job)
    plan = compute_plan(decided)
    for path in write_report(plan, read_testing(list_steps(plan), events, unit), unit, folder):
        typer.echo(str(path))


@app.command("meter")
def stand_in(
    job: JobArgument,
    port: Annotated[int, typer.Option(min=1, max=65535)] = 9151,
    serial: Annotated[str, typer.Option(help="Its number.")] = "S-0001",
) -> None:
    """Stand in for a meter on this machine until stopped; its probes lie where `TAG:MARK TAG:MARK` is typed."""
    from riktig.prove.steps import Unit
    from riktig.standins.meter import SimulatedMeter
    from riktig.standins.panel import SimulatedPanel

    plan = plan_of(job)
    panel = SimulatedPanel(plan)
    ends = {plan.terminal_label(end): end for c in plan.conductors for end in (c.a, c.b)}
    try:
        meter = SimulatedMeter(serial, port=port)
    except OSError as error:
        raise Refusal(f"port {port} cannot be used ({error.strerror}): choose another one with --port") from error
    typer.echo(
        f"a simulated meter no. {serial} at 127.0.0.1:{port}; type two terminals to put its probes there, Ctrl+C stops it"
    )
    try:
        while line := typer.get_text_stream("stdin").readline():
            a, _, b = line.strip().partition(" ")
            if a in ends and b.strip() in ends:
                ohms = panel.between((ends[a],), (ends[b.strip()],))
                meter.probes = lambda unit, ohms=ohms: ohms if unit is Unit.OHM else inf  # type: ignore[misc]
                typer.echo(f"probes at {a} and {b.strip()}")
            else:
                typer.echo(f"no terminals are called {line.strip()!r}: write two as TAG:MARK TAG:MARK")
        while True:
            time.sleep(1.0)
    finally:
        meter.close()
