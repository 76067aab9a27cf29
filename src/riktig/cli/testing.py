"""Owns the command that derives the function test of a panel. Must not derive it."""

import typer

from riktig.cli.base import JobArgument, JsonOption, app, plan_of, print_json

CAUTION = (
    "Dead tests come first. Live tests are done by competent persons alone, and hands keep off; the local code and a competent person "
    "decide. What is derived is an aid, from the circuit as it is drawn."
)


@app.command("derive-tests")
def derive(job: JobArgument, as_json: JsonOption = False) -> None:
    """Print the function test that follows from the circuit: what to do, what must be seen, and what it does not reach."""
    from riktig.live.derive import (  # the solver's library costs a start more than all other commands
        as_document,
        derive_tests,
    )

    found = as_document(derive_tests(plan_of(job)))
    if as_json:
        print_json(found)
        return
    typer.echo(CAUTION)
    for number, step in enumerate(found["steps"], start=1):
        seen = ", ".join(step["expect"]) or "nothing changes"
        seen += "".join(f"; at no instant {text}" for text in step["never"])
        typer.echo(f"{number:4}  {'; '.join(step['do']) or 'switch on'}\n      -> {seen}   ({step['for']})")
    contacts, conductors = found["contacts"], found["conductors"]
    typer.echo(f"{contacts['moved']} of {contacts['all']} contacts seen closed and open, {conductors['carried']} of {conductors['all']} "
               "conductors with current")  # fmt: skip
    for one in contacts["never"]:
        typer.echo(f"  not moved: {one['from']} - {one['to']}: {one['because']}")
    for one in conductors["never"]:
        typer.echo(f"  no current: {one['number']}, {one['from']} to {one['to']}: {one['because']}")
