"""Owns the headless commands and what they print. Must not compute: it calls the packages below. What is refused is raised, and told at
the edge, `main`.
"""

import sys
from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any

import typer

from riktig.catalogue.family import catalogue_schema
from riktig.catalogue.loader import user_catalogue_path
from riktig.checks.book import all_rules, inspect_all
from riktig.checks.finding import SEVERITIES, Finding, Severity
from riktig.checks.recorded import Recorded
from riktig.checks.rule import WORLD_WORDS, Verdict, count_words
from riktig.checks.worlds import compare, in_world, judged_by
from riktig.checks.yardsticks import yardsticks
from riktig.cli.base import CAUTION, DEFAULT_UNIT, JobArgument, JsonOption, app, plan_of, print_json, read_job
from riktig.files.brief_reader import read_brief
from riktig.files.brief_writer import save_brief
from riktig.files.documents import NAMES, export_documents
from riktig.files.from_to import read_from_to
from riktig.files.job_file import JobFile
from riktig.files.part_import import add_parts, read_part_file
from riktig.files.plan_json import findings_to_list, papers_to_dict, plan_to_dict, verdicts_to_list
from riktig.files.salvage import read_salvage, write_salvage
from riktig.files.schedule_in import read_schedule
from riktig.files.writing import FileKind, check_target
from riktig.job.faults import did_you_mean
from riktig.job.model import job_schema
from riktig.job.practice import Standard
from riktig.plan.answers.reconcile import reconcile
from riktig.plan.changes.numbers import take_numbers
from riktig.plan.changes.schedule import apply_edits
from riktig.plan.plan import Plan, compute_plan
from riktig.record.events import Event
from riktig.record.inspected import recorded_of
from riktig.record.progress import Progress, list_work, read_progress
from riktig.refusal import Refusal
from riktig.standards.editions import edition as edition_of
from riktig.standards.editions import editions_of
from riktig.standards.tables import own_tables, own_tables_folder, shipped_names


@app.command("import")
def import_brief(
    brief: Annotated[Path, typer.Argument(metavar="BRIEF.toml")],
    out: Annotated[Path, typer.Argument(metavar="OUT.riktig")],
    replace: Annotated[bool, typer.Option(help="Replace the job in OUT; its record of the build stays.")] = False,
) -> None:
    """Make a job file from a brief."""
    job = read_brief(brief)
    if out.exists() and not replace:
        raise Refusal(f"{out} exists: give another name, or --replace to put this job into it and keep its record")
    if out.exists():
        with JobFile.open(out) as file:
            file.save_edit(job, f"import {brief.name}")
    else:
        JobFile.create(out, job).close()


@app.command("rescue")
def rescue_job(
    job: Annotated[Path, typer.Argument(metavar="JOB.riktig", help="A damaged job file; it is left as it is.")],
    out: Annotated[Path, typer.Argument(metavar="COPY.riktig")],
) -> None:
    """Save what can be read of a damaged job file as a new one, and say what cannot."""
    found = read_salvage(job)
    write_salvage(found, out)
    for loss in found.losses:
        typer.echo(f"Not in {out.name}: {loss}")
    revisions = "".join(f", revision {name}" for name, *_ in found.issues)
    typer.echo(f"In {out.name}: the job, {len(found.events)} events of the record{revisions}")


@app.command("export-brief")
def export_brief(job: JobArgument, out: Annotated[Path, typer.Argument(metavar="OUT.toml")]) -> None:
    """Write a job as a brief that imports again to an equal job."""
    save_brief(read_job(job)[0], out, (job,))


@app.command()
def plan(job: JobArgument) -> None:
    """Print the whole Plan as JSON."""
    print_json(plan_to_dict(plan_of(job)))


@app.command()
def check(
    job: Annotated[Path | None, typer.Argument(metavar="JOB", help="A .riktig job file or a brief (.toml).")] = None,
    as_json: JsonOption = False,
    world: Annotated[
        Standard | None, typer.Option(help="Judge it in this world of standards, and say what would change.")
    ] = None,
    edition: Annotated[
        str | None,
        typer.Option(help="Judge it by this edition (a year) of IEC 60204-1 or NEC, and say what would change."),
    ] = None,
    rule: Annotated[
        str | None, typer.Option(help="Explain one rule: what it asks, how it is judged, its source.")
    ] = None,
) -> None:
    """Print findings by subject, worst first; exit 1 if one of them must be mended."""
    if rule is not None:
        _explain_rule(rule)
    if job is None:
        if rule is None:
            raise Refusal("check needs a JOB, or --rule with the name of a rule")
        return
    stated, events = read_job(job)
    here = compute_plan(stated)
    made = _by_edition(here if world is None else in_world(here, world), edition)
    verdicts = inspect_all(made, units=_units_of(here, events) if made is here else ())
    if as_json:
        print_json(
            {
                "findings": findings_to_list(made),
                "rules": verdicts_to_list(verdicts, made.job.practice),
                **papers_to_dict(made),
            }
        )
    else:
        _print_verdicts(made, [one for one in verdicts if rule in {None, one.rule.id}])
        if made is not here:
            typer.echo("\nWhat would change from what the job is judged by itself:")
            for line in compare(here, made).lines or ("nothing",):
                typer.echo(f"  {line}")
    if any(finding.severity is Severity.MUST for one in verdicts for finding in one.findings):
        raise typer.Exit(1)


def _by_edition(plan: Plan, year: str | None) -> Plan:
    """Return the Plan of the job as it would be by the edition of a year.

    Raises:
        Refusal: there is none of that year.
    """
    now = plan.job.practice.edition
    if year is None or year == now.year:
        return plan
    if year not in [one.year for one in editions_of(now.standard)]:
        raise Refusal(
            f"--edition {year}: of {now.standard} there are {', '.join(one.year for one in editions_of(now.standard))}"
        )
    wanted = edition_of(now.standard, year).cited
    return judged_by(plan, next(one for one in yardsticks(plan.job.practice) if one.name == wanted))


def _units_of(plan: Plan, events: Sequence[Event]) -> tuple[Recorded, ...]:
    """Return what is recorded of each unit."""
    work = list_work(plan) if events else None
    return tuple(
        recorded_of(read_progress(work, events, unit), unit, is_issued=plan.job.revision is not None)
        for unit in dict.fromkeys(event.unit for event in events)
        if work is not None
    )


def _explain_rule(name: str) -> None:
    found = next((one for one in all_rules() if one.id == name), None)
    if found is None:
        raise Refusal(f"there is no rule {name}{did_you_mean(name, [one.id for one in all_rules()])}")
    worlds = " and ".join(sorted(WORLD_WORDS[world] for world in found.worlds))
    machines = ", of machines only" if found.is_for_machines else ""
    typer.echo(f"{found.id}: {found.title}.")
    typer.echo(f"  under {found.subject.value}, in {worlds}{machines}; asked where there is {found.needs or 'a panel'}")
    typer.echo(f"  judged: {found.judged}\n  source: {found.source}")


def _print_verdicts(made: Plan, verdicts: Sequence[Verdict]) -> None:
    """Print findings under their subjects, that with the gravest first."""
    groups: dict[str, list[Finding]] = {}
    for verdict in verdicts:
        groups.setdefault(verdict.rule.subject.value, []).extend(verdict.findings)

    def weight(finding: Finding) -> int:
        return SEVERITIES.index(finding.severity)

    for subject, found in sorted(groups.items(), key=lambda group: min(map(weight, group[1]), default=9)):
        if found:
            typer.echo(subject)
        for finding in sorted(found, key=weight):
            name = made.tags.get(finding.subject, finding.subject)
            waived = f" Waived by {finding.waived}." if finding.waived else ""
            typer.echo(
                f"{finding.severity.value:6} {finding.rule:22} {name:10} {finding.message}{waived} [{finding.source}]"
            )
    typer.echo(f"{len(verdicts)} rules: {count_words(verdict.outcome for verdict in verdicts)}")
    counts = Counter(finding.severity.value for found in groups.values() for finding in found)
    words = ", ".join(f"{counts[s.value]} {s.value}" for s in Severity)
    typer.echo(f"{words}. The local code and a competent person decide.")


@app.command("live")
def play_script(
    job: JobArgument,
    script: Annotated[
        Path | None,
        typer.Argument(metavar="SCRIPT.toml", help="What is done, expected, never to be; else all that the job keeps."),
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Play a script on the circuit; exit 1 if an expectation is not met. A simulation is no proof: the real panel is tested."""
    from riktig.files.script_file import read_script  # the solver's library costs a start more than all other commands
    from riktig.live.scripts import ScriptError, play, report

    made = plan_of(job)
    read = [read_script(script)] if script is not None else [(kept, {}) for kept in made.job.scripts]
    if not read:
        raise Refusal(f"{job.name} keeps no script: give one, or write [[script]] into the brief")
    reports = []
    for one, lines in read:
        try:
            played = play(made, one)
        except ScriptError as error:
            where = f"{script.name}:{lines[error.step]}" if script is not None else one.title or one.name
            raise Refusal(f"{where}: {error}") from error
        reports.append(report(played, made, one))
        if not as_json:
            _print_played(reports[-1])
    if as_json:
        print_json(reports[0] if script is not None else {"scripts": reports})
    if not all(one["passed"] for one in reports):
        raise typer.Exit(1)


def _print_played(report: dict[str, Any]) -> None:
    if report["title"]:
        typer.echo(report["title"])
    for number, step in enumerate(report["steps"], start=1):
        typer.echo(f"step {number:<3} {step['time_s']:10.3f} s  {'; '.join(step['do'])}")
        for miss in step["missed"]:
            because = f"; {miss['because']}" if miss["because"] else ""
            typer.echo(f"    MISSED {miss['expected']}: {miss['was']} at {miss['time_s']:.3f} s{because}")
    missed = sum(len(step["missed"]) for step in report["steps"])
    typer.echo(f"{len(report['steps'])} steps, {missed} expectations missed. {CAUTION}")


@app.command()
def export(
    job: JobArgument,
    folder: Annotated[Path, typer.Argument(metavar="DIR")],
    only: Annotated[str, typer.Option(help=f"Comma-separated, of: {', '.join(NAMES)}.")] = ",".join(NAMES),
    anyway: Annotated[
        bool, typer.Option("--anyway", help="Write plate, door, drill and cuts though they are impossible, stamped.")
    ] = False,
) -> None:
    """Write schedules as CSV and drawings as SVG and PDF."""
    names = [name.strip() for name in only.split(",") if name.strip()]
    made = plan_of(job)
    export_documents(made, folder, names, inputs=(job,), anyway=anyway, on_file=lambda path: typer.echo(str(path)))


@app.command()
def status(
    job: JobArgument,
    as_json: JsonOption = False,
    unit: Annotated[str, typer.Option(help="Serial number of the panel.")] = DEFAULT_UNIT,
) -> None:
    """Print how far build and test of one panel are."""
    decided, events = read_job(job)
    report = status_to_dict(read_progress(list_work(compute_plan(decided)), events, unit), unit)
    if as_json:
        print_json(report)
        return
    typer.echo(f"Unit {unit}: {report['wires']['done']} of {report['wires']['total']} wires landed, "
               f"{report['tests']['passed']} of {report['tests']['total']} tests passed, "
               f"{report['tests']['failed']} failed")  # fmt: skip
    for phase in report["phases"]:
        typer.echo(f"  {phase['phase']:22} {phase['done']:4} of {phase['total']}")
    for line in report["rework"]:
        typer.echo(f"  rework: {line['text']}")
    if report["next"] is not None:
        typer.echo(f"Next: {report['next']['title']}. {report['next']['detail']}")


def status_to_dict(progress: Progress, unit: str) -> dict[str, Any]:
    """Return the progress of a unit as plain values, keys as in docs/interfaces.md."""
    done, total = progress.wires_done()
    phases = dict.fromkeys(op.phase for op in progress.operations)
    following = progress.next_operation
    return {
        "unit": unit,
        "operations": {"done": len(progress.done), "total": len(progress.operations)},
        "wires": {"done": done, "total": total},
        "tests": {
            "passed": sum(progress.verdicts.values()),
            "failed": sum(not v for v in progress.verdicts.values()),
            "total": len(progress.testing.steps),
        },
        "phases": [
            {
                "phase": phase.value,
                "done": sum(op.key in progress.done for op in progress.operations if op.phase is phase),
                "total": sum(op.phase is phase for op in progress.operations),
            }
            for phase in phases
        ],
        "rework": [{"action": r.action, "text": r.text} for r in progress.rework],
        "next": None if following is None else {"title": following.title, "detail": following.detail},
    }


def _print_share(share: float) -> None:
    """Tell a person at a terminal how far it is; Ctrl+C ends it."""
    if sys.stderr.isatty():
        sys.stderr.write(f"\r{share:4.0%} read, Ctrl+C stops \r")


@app.command("import-parts")
def import_parts(
    source: Annotated[Path, typer.Argument(metavar="PARTS.csv|xlsx")],
    into: Annotated[Path | None, typer.Option(help="The catalogue file; else your own one.")] = None,
) -> None:
    """Add parts of your own to your catalogue."""
    target = into or user_catalogue_path()
    check_target(target, FileKind.CATALOGUE, (source,))
    read = read_part_file(source, _print_share)
    if read.faults:
        raise Refusal("\n".join(fault.text(source.name) for fault in read.faults))
    if not read.families:
        raise Refusal(f"{source.name} has no part below its headings")
    add_parts(read.families, target)
    typer.echo(f"{len(read.families)} parts added to {target}", err=True)


@app.command("reconcile")
def reconcile_list(
    job: JobArgument,
    source: Annotated[Path, typer.Argument(metavar="LIST", help="CSV or XLSX with the headings number, from, to.")],
    out: Annotated[
        Path | None,
        typer.Option("--take", metavar="OUT.toml", help="Write a brief with the numbers of the list taken over."),
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Compare a from-to list of existing wires with the circuit; exit 1 if they disagree."""
    decided = read_job(job)[0]
    found = reconcile(compute_plan(decided), read_from_to(source, _print_share))
    if out is not None:
        save_brief(take_numbers(decided, found.numbers), out, (job, source))
    if as_json:
        discrepancies = [
            {"sort": d.sort.value, "lines": list(d.lines), "message": d.message} for d in found.discrepancies
        ]
        print_json({"discrepancies": discrepancies, "numbers": dict(found.numbers)})
    else:
        for d in found.discrepancies:
            lines = f"line {', '.join(str(n) for n in d.lines[:4])}" if d.lines else "no line"
            typer.echo(f"{d.sort.value:8} {lines:18} {d.message}")
        typer.echo(
            f"{len(found.discrepancies)} to clear up, {len(found.numbers)} numbers differ where circuit and list agree."
        )
    if found.discrepancies:
        raise typer.Exit(1)


@app.command("take")
def take_schedule(
    job: JobArgument,
    source: Annotated[Path, typer.Argument(metavar="SCHEDULE", help="Edited wires, terminals or cables, CSV or XLSX.")],
    out: Annotated[
        Path | None,
        typer.Option("--out", metavar="OUT.toml", help="Write a brief with the changes; else only show them."),
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Read an edited schedule back: show what it changes, and with --out write a brief that has it."""
    decided = read_job(job)[0]
    edits = read_schedule(source, compute_plan(decided), _print_share)
    if out is not None:
        save_brief(apply_edits(decided, edits), out, (job, source))
    if as_json:
        print_json(
            [{"sort": e.sort.value, "key": e.key, "before": e.before, "after": e.after, "line": e.line} for e in edits]
        )
        return
    for edit in edits:
        typer.echo(f"line {edit.line:<5} {edit.text}")
    typer.echo(f"{len(edits)} changes{'' if out is not None else '; --out OUT.toml writes them'}.")


@app.command("tables")
def list_tables() -> None:
    """List the tables of standards, and which of them the shop replaced by its own copy."""
    own = own_tables()
    for name in shipped_names():
        typer.echo(f"{name:36} {f'own copy: {own[name].title}' if name in own else 'shipped, from memory'}")
    typer.echo(f"Own copies belong into {own_tables_folder()}", err=True)


@app.command("schema")
def print_schema(
    catalogue: Annotated[bool, typer.Option("--catalogue", help="That of a catalogue file instead.")] = False,
) -> None:
    """Print the JSON Schema of a Job, or of a catalogue file."""
    print_json(catalogue_schema() if catalogue else job_schema())


def command_names() -> frozenset[str]:
    """Return the words that are commands and not file names."""
    import riktig.cli.printing  # noqa: F401, PLC0415 it registers its commands
    import riktig.cli.testing  # noqa: F401, PLC0415

    return frozenset(c.name or getattr(c.callback, "__name__", "") for c in app.registered_commands)
