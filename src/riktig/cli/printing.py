"""Owns the commands that print labels and that stand in for a printer. Must not fit labels, nor know the protocol."""

import time
from pathlib import Path
from typing import Annotated

import typer

from riktig.cli.base import DEFAULT_UNIT, app
from riktig.drawings.labels.fitting import Fitted, fit_labels
from riktig.drawings.labels.pages import by_medium
from riktig.files.job_file import JobFile
from riktig.files.label_printer import DEFAULT_PORT, connected, print_labels, read_address
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.record.events import EventKind, make_event
from riktig.record.labels import LabelStep, read_labels
from riktig.refusal import Refusal


@app.command("print")
def print_tape(
    job: Annotated[
        Path, typer.Argument(metavar="JOB.riktig", help="A job file: what is printed is noted in its Record.")
    ],
    person: Annotated[str, typer.Option(help="Who prints.")],
    printer: Annotated[str, typer.Option(help="HOST:PORT of the printer.")] = f"127.0.0.1:{DEFAULT_PORT}",
    unit: Annotated[str, typer.Option(help="Serial number of the panel.")] = DEFAULT_UNIT,
) -> None:
    """Print what is left to print on the medium that is loaded, each label exactly once, also after a jam, a power cut or a stop."""
    host, port = read_address(printer)
    with JobFile.open(job) as file, connected(host, port) as link:
        if not file.may_record:
            raise Refusal(
                f"{job.name} may not be written, so that what is printed cannot be noted: copy it to where you may write"
            )
        plan = compute_plan(settle(file.load_job()))
        members = {medium.code: rows for medium, rows in by_medium(fit_labels(plan)).items()}.get(link.medium)
        if members is None:
            raise Refusal(f"{link.medium} is loaded, and no label of {job.name} is printed on it: load another medium")

        def note(label: Fitted) -> None:
            texts = {label.sticker.key: label.sticker.text}
            file.append_event(
                make_event(
                    EventKind.LABELS, "labels:1", unit=unit, person=person, step=LabelStep.PRINTED.value, texts=texts
                )
            )

        done = read_labels(file.events(), unit)
        count = print_labels(link, members, done, plan.job.info.number, unit, note)
    typer.echo(f"{count} of {len(members)} labels on {link.medium} printed now, {len(members) - count} before")


@app.command("printer")
def stand_in(
    medium: Annotated[str, typer.Option(help="Code of the medium that is loaded.")] = "tape-9",
    port: Annotated[int, typer.Option(min=1, max=65535)] = DEFAULT_PORT,
    memory: Annotated[Path, typer.Option(help="Where it remembers what it printed.")] = Path("printer.tape"),
    metres: Annotated[float, typer.Option(min=0.01, max=1000, help="Tape that is loaded.")] = 8.0,
) -> None:
    """Stand in for a label printer on this machine until stopped, and show the tape as it comes out."""
    from riktig.standins.label_printer import SimulatedPrinter

    try:
        stand = SimulatedPrinter(memory, medium=medium, tape_mm=1000 * metres, port=port)
    except OSError as error:
        raise Refusal(f"port {port} cannot be used ({error.strerror}): choose another one with --port") from error
    typer.echo(f"a simulated printer with {medium}, {metres:g} m, at 127.0.0.1:{port}; stop it with Ctrl+C")
    shown = len(stand.tape)
    try:
        while True:
            for text in stand.tape[shown:]:
                typer.echo(f"  {shown + 1:4}  {text}")
                shown += 1
            time.sleep(0.1)
    finally:
        stand.close()
