"""Kills a process that works on a job file at random instants and looks whether anything that it had acknowledged is lost.

`kill.py [COUNT] [--seed N] [--only WORK]`: a forked process edits, ticks, tests, issues, arranges, exports and brings files of
earlier formats to the present one, and says so as it goes; `kill -9` ends it.
Then the file must open with all that was said, and each document that is there must be whole. Leaves with 1 where not.
"""

import argparse
import json
import os
import random
import shutil
import signal
import sys
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from pypdf import PdfReader

from riktig.files.brief_reader import parse_brief
from riktig.files.documents import export_documents
from riktig.files.formats import pack_job, pack_plan
from riktig.files.job_file import JobFile
from riktig.files.plan_json import plan_to_dict
from riktig.job import edits
from riktig.job.model import Job
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.plan import Plan, compute_plan
from riktig.prove.program import list_steps
from riktig.prove.steps import Step
from riktig.record.events import EventKind, make_event
from riktig.record.testing import read_testing

BRIEF = """brief = 1
[job]
number = "K-1"
[supply]
system = "3ph+n"
volts = 400
[enclosure]
width = 600
height = 800
[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230
[starter.M1]
kw = 1.5
supply = "C1"
lamps = ["run", "trip"]
"""
EXPORTED = ("wires", "terminals", "bom", "plate", "sheets")
OLD = Path(__file__).parent.parent / "tests" / "data"
Say = Callable[..., None]
STEPS: list[Step] = []
"""Of the test of the panel, made before the first kill."""


def edit(path: Path, plan: Plan, say: Say) -> None:
    """Save edits, ticks and measurements one after another."""
    with JobFile.open(path) as file:
        job = file.load_job()
        for n in range(int(job.info.title or "0") + 1, 10**9):
            job = edits.replace(job, info=edits.replace(job.info, title=str(n)))
            file.save_edit(job, f"edit {n}")
            say("edit", n)
            kind = EventKind.MEASURE if n % 2 else EventKind.TICK
            data = {"ohms": 0.1, "verdict": "pass"} if n % 2 else {"as": "x"}
            event = file.append_event(make_event(kind, f"op {n}", unit="1", person="Ada", **data))
            say("event", event.sequence, f"op {n}")


def prove(path: Path, plan: Plan, say: Say) -> None:
    """Test the panel: readings, steps left out, phases waived, measurements on the way to a fault, faults that are found."""
    sorts = (
        (EventKind.MEASURE, {"ohms": 0.1, "verdict": "pass"}), (EventKind.SKIP, {"reason": "no access"}),
        (EventKind.PROBE, {"ohms": None, "a": "K1:A1", "b": "K1:A2"}), (EventKind.WAIVE, {"reason": "done before"}),
        (EventKind.FAULT, {"words": "w", "mend": "m", "slip": "open", "retest": ["t"]}), (EventKind.CAUTION, {"reason": "read"}),
    )  # fmt: skip
    with JobFile.open(path) as file:
        for n in range(10**9):
            step, (kind, data) = STEPS[n % len(STEPS)], sorts[n % len(sorts)]
            subject = "phase:continuity" if kind is EventKind.WAIVE else step.key
            event = file.append_event(
                make_event(kind, subject, unit="1", person="Ada", **{"as": step.as_planned, **data})
            )
            say("event", event.sequence, subject)


def issue(path: Path, plan: Plan, say: Say) -> None:
    """Issue one revision after another."""
    with JobFile.open(path) as file:
        job, packed = file.load_job(), pack_plan(plan_to_dict(plan))
        for n in range(len(file.issues()), 10**9):
            file.issue_packed(f"R{n}", pack_job(job), packed)
            say("issue", f"R{n}")


def arrange(path: Path, plan: Plan, say: Say) -> None:
    """Arrange the plate again and again."""
    with JobFile.open(path) as file:
        while True:
            job = arrange_plate(file.load_job(), effort=0.01)
            file.save_edit(job, "arrange")
            say("places", str(job.ledger.places["M1.K"].value))


def export(path: Path, plan: Plan, say: Say) -> None:
    """Write documents over those that are there."""
    while True:
        export_documents(
            plan, path.parent / "out", EXPORTED, inputs=(path,), on_file=lambda made: say("file", made.name)
        )


def migrate(path: Path, plan: Plan, say: Say) -> None:
    """Bring a file of an earlier format to the present one."""
    for n, old in enumerate(sorted(OLD.glob("job_*.riktig")) * 1000):
        copy = path.with_name(f"old{n % 4}.riktig")
        shutil.copyfile(old, copy.with_suffix(".part"))
        copy.with_suffix(".part").rename(copy)
        with JobFile.open(copy) as file:
            file.save_edit(file.load_job(), "as it is now")
        say("old", copy.name)


WORK = {"edit": edit, "prove": prove, "issue": issue, "arrange": arrange, "export": export, "migrate": migrate}


def run_child(work: Callable[[Path, Plan, Say], None], path: Path, plan: Plan, seconds: float) -> list[list[object]]:
    """Return what a forked process acknowledged until it was killed."""
    out, into = os.pipe()
    pid = os.fork()
    if pid == 0:
        os.close(out)
        try:
            work(path, plan, lambda *words: os.write(into, json.dumps(words).encode() + b"\n"))
        finally:
            os._exit(3)
    os.close(into)
    time.sleep(seconds)
    os.kill(pid, signal.SIGKILL)
    with os.fdopen(out, "rb") as pipe:
        lines = pipe.read().split(b"\n")[:-1]
    if os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]) != -signal.SIGKILL:
        raise SystemExit(f"{work.__name__} ended by itself: {lines[-1:]}")
    return [json.loads(line) for line in lines]


def find_loss(path: Path, said: list[list[object]], whole: dict[str, bytes]) -> str:
    """Return what is lost of what was acknowledged, "" if nothing is."""
    with JobFile.open(path) as file:
        job, events, issues = file.load_job(), {e.sequence: e.subject for e in file.events()}, file.issues()
        names = {name for name, _, _ in issues}
        read_testing((), file.events(), "1")
        for sort, *words in said:
            if sort == "edit" and int(job.info.title or "0") < int(str(words[0])):
                return f"edit {words[0]}"
            if sort == "event" and events.get(int(str(words[0]))) != words[1]:
                return f"event {words}"
            if sort == "issue" and (words[0] not in names or file.issued_plan(str(words[0])) is None):
                return f"revision {words[0]}"
        places = [words[0] for sort, *words in said if sort == "places"]
        if places and file.gestures()[0] != "arrange":
            return "what was arranged"
    for made in (path.parent / "out").glob("[!.]*"):
        if not is_whole(made, whole):
            return f"{made.name} is not whole"
    for old in path.parent.glob("old*.riktig"):
        with JobFile.open(old) as file:
            file.load_job(), file.events(), file.issues()
    return ""


def is_whole(made: Path, whole: dict[str, bytes]) -> bool:
    """Return whether a document is all there."""
    if made.suffix == ".pdf":
        return len(PdfReader(made).pages) > 0
    if made.suffix == ".xlsx":
        with zipfile.ZipFile(made) as packed:
            return packed.testzip() is None
    return made.read_bytes() == whole[made.name]


def main() -> int:
    """Run as the words of the command line say."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("count", nargs="?", type=int, default=200)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--only", choices=sorted(WORK), help="what it works on, each of all at random where left out")
    given = words.parse_args()
    chance, done, lost, acknowledged = random.Random(given.seed), Counter[str](), 0, 0
    job: Job = parse_brief(BRIEF)
    plan = compute_plan(job)
    STEPS.extend(step for step in list_steps(plan) if step.is_read)
    with tempfile.TemporaryDirectory(prefix="riktig-kill-") as folder:
        path = Path(folder) / "a.riktig"
        JobFile.create(path, job).close()
        export_documents(plan, path.parent / "out", EXPORTED)
        whole = {made.name: made.read_bytes() for made in (path.parent / "out").iterdir()}
        for n in range(given.count):
            name = given.only or chance.choice([*WORK, "edit", "edit"])
            slow = name in {"arrange", "export"}
            said = run_child(WORK[name], path, plan, chance.uniform(0.0, 1.2 if slow else 0.15))
            loss = find_loss(path, said, whole)
            done[name] += 1
            acknowledged += len(said)
            if loss:
                lost += 1
                print(f"kill {n}, {name}: lost {loss}")
            if name == "issue" and chance.random() < 0.3:  # the file grows with each revision
                path.unlink()
                JobFile.create(path, job).close()
    print(f"{sum(done.values())} kills ({', '.join(f'{k} {v}' for k, v in sorted(done.items()))}), "
          f"{acknowledged} acknowledged, {lost} lost")  # fmt: skip
    return 1 if lost else 0


if __name__ == "__main__":
    sys.exit(main())
