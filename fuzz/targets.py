"""Owns what is done with one mutated input, and what of it may be refused how: anything else that comes out is a fault of Riktig."""

import contextlib
import json
import random
import shutil
import sqlite3
import sys
import tempfile
import tomllib
import zlib
from collections.abc import Sequence
from importlib.resources import files
from pathlib import Path
from typing import Any

from mutate import Pool, change_bytes, change_tables, change_text, write_toml

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from panels import panel_text  # noqa: E402
from riktig.catalogue.loader import CatalogueError  # noqa: E402
from riktig.checks.run import find_all  # noqa: E402
from riktig.drawings.door import draw_door  # noqa: E402
from riktig.drawings.plate import draw_plate  # noqa: E402
from riktig.drawings.sheet_set import draw_sheets  # noqa: E402
from riktig.files.brief_reader import BriefError, parse_brief  # noqa: E402
from riktig.files.brief_writer import write_brief  # noqa: E402
from riktig.files.documents import NAMES, ExportError, export_documents  # noqa: E402
from riktig.files.formats import pack_job, pack_plan  # noqa: E402
from riktig.files.from_to import read_from_to  # noqa: E402
from riktig.files.job_access import JobFileError  # noqa: E402
from riktig.files.job_file import JobFile  # noqa: E402
from riktig.files.motor_list import read_motor_list  # noqa: E402
from riktig.files.part_import import read_part_file  # noqa: E402
from riktig.files.plan_json import plan_to_dict  # noqa: E402
from riktig.files.rows_in import ListError  # noqa: E402
from riktig.files.schedule_in import read_schedule  # noqa: E402
from riktig.files.script_file import ScriptFileError, read_script  # noqa: E402
from riktig.job.faults import JobError  # noqa: E402
from riktig.live.actions import VERBS  # noqa: E402
from riktig.live.claims import WORDS  # noqa: E402
from riktig.live.panel import gears_of  # noqa: E402
from riktig.live.scripts import ScriptError, play, report  # noqa: E402
from riktig.live.simulation import Simulation  # noqa: E402
from riktig.plan.answers.reconcile import reconcile  # noqa: E402
from riktig.plan.changes.schedule import apply_edits  # noqa: E402
from riktig.plan.making.release import issue_revision  # noqa: E402
from riktig.plan.plan import Plan, compute_plan  # noqa: E402
from riktig.plan.settle import settle  # noqa: E402
from riktig.record.events import EventKind, make_event  # noqa: E402
from riktig.record.progress import list_work, read_progress  # noqa: E402

ROOM = Path(tempfile.mkdtemp(prefix="riktig-fuzz-"))
EXPORTED = 0.05
"""Share of the readable briefs whose documents are written as well; that takes most of the time of a case."""


class Unplaced(AssertionError):
    """A refusal that does not say where, or in more than one line for one fault."""


def _check_brief_error(error: BriefError, text: str) -> None:
    lines = text.count("\n") + 2
    if not error.faults:
        raise Unplaced("no fault is named")
    for fault in error.faults:
        if not 1 <= fault.line <= lines or not fault.message or "\n" in fault.message or len(fault.message) > 1000:
            raise Unplaced(f"line {fault.line} of {lines}: {fault.message[:200]!r}")


def read_brief_text(text: str, *, exports: bool = False) -> bool:
    """Read a brief, and if it is sound compute, judge and draw all that follows from it; return whether it was sound."""
    try:
        job = parse_brief(text, "brief.toml")
    except BriefError as error:
        _check_brief_error(error, text)
        return False
    plan = compute_plan(job)
    find_all(plan)
    json.dumps(plan_to_dict(plan), allow_nan=False)
    draw_sheets(plan), draw_plate(plan), draw_door(plan)
    Simulation(plan)
    if parse_brief(write_brief(job)) != job:
        raise Unplaced("a brief that was written does not read back equal")
    if exports:
        folder = ROOM / "export"
        with contextlib.suppress(ExportError):
            export_documents(plan, folder, anyway=True)
        shutil.rmtree(folder, ignore_errors=True)
    return True


def export_text(text: str, names: Sequence[str]) -> bool:
    """Export documents of a brief; return whether it was sound. All files stand whole in the folder, and nothing else does."""
    try:
        plan = compute_plan(parse_brief(text, "brief.toml"))
    except BriefError:
        return False
    folder = ROOM / "export"
    try:
        written = export_documents(plan, folder, names, anyway=True)
        if {path.name for path in folder.iterdir()} != {path.name for path in written}:
            raise Unplaced("the folder has other files than were written")
        if any(path.stat().st_size == 0 for path in written):
            raise Unplaced("a file is empty")
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    return True


def read_job_file(data: bytes) -> bool:
    """Open a job file and read all that is in it, as a reader does; return whether it was sound."""
    path = ROOM / "job.riktig"
    path.write_bytes(data)
    try:
        with JobFile.open(path, read_only=True) as file:
            events = file.events()
            file.gestures(), file.version()
            for name, _, _ in file.issues():
                file.issued_plan(name)
            plan = compute_plan(settle(file.load_job()))
        progress = read_progress(list_work(plan), events, "1")
        _ = progress.operations, progress.testing.failed, progress.wires_done, progress.next_operation
    except (JobFileError, JobError) as error:
        if "\n" in str(error) or not str(error):
            raise Unplaced(repr(str(error)[:300])) from error
        return False
    finally:
        if path.read_bytes() != data:
            raise Unplaced("the file was not left as it was")
    find_all(plan)
    return True


TABLE_PLAN: list[Plan] = []


def read_table(data: bytes, suffix: str = ".csv") -> bool:
    """Read a table as schedule, list of wires, parts and motors; return whether one of them took it."""
    path = ROOM / f"table{suffix}"
    path.write_bytes(data)
    if not TABLE_PLAN:
        TABLE_PLAN.append(compute_plan(parse_brief(panel_text(3))))
    took = False
    with contextlib.suppress(ListError, JobError):
        apply_edits(TABLE_PLAN[0].job, read_schedule(path, TABLE_PLAN[0]))
        took = True
    with contextlib.suppress(ListError):
        reconcile(TABLE_PLAN[0], read_from_to(path))
        took = True
    with contextlib.suppress(CatalogueError):
        took = bool(read_part_file(path).families) or took
    read_motor_list(data.decode("utf-8", errors="replace"), supply="C1")
    return took


# -- sound ones to begin with


_IN_A_WALL = '[device.V77]\nkind = "fan"\nat = "right_wall"\n'


def base_briefs() -> list[str]:
    """Return sound briefs: the demos, random panels of all sorts, a fan in a side wall, and some with all their choices written out."""
    demos = [files("riktig").joinpath("demos", f"{name}.toml").read_text(encoding="utf-8") for name in ("iec", "ul")]
    panels = [panel_text(seed) for seed in range(12)]
    panels.append(f"{panels[0]}{_IN_A_WALL}")
    kept = [write_brief(parse_brief(text)) for text in (demos[0], panels[1], panels[2])]
    kept.append(write_brief(issue_revision(parse_brief(panels[-1]), "A")))
    return [*demos, *panels, *kept]


def base_job_file() -> bytes:
    """Return a job file with a few states, events of every kind, and an issued revision."""
    path = ROOM / "base.riktig"
    job = parse_brief(panel_text(5, most=2))
    with JobFile.create(path, job) as file:
        work = list_work(compute_plan(job))
        for operation in list(work.by_key.values())[:20]:
            file.append_event(make_event(EventKind.TICK, str(operation.key), unit="1", person="Ada"))
        for kind in EventKind:
            file.append_event(make_event(kind, "K1", unit="1", person="Ada", value=1.5, reason="x"))
        issued = issue_revision(job, "A")
        file.issue_packed("A", pack_job(issued), pack_plan(plan_to_dict(compute_plan(issued))))
    return path.read_bytes()


def base_tables() -> list[tuple[bytes, str]]:
    """Return tables that are exported, a list of wires, parts and motors, with the ending of their names."""
    folder = ROOM / "tables"
    export_documents(compute_plan(parse_brief(panel_text(3))), folder, ("wires", "terminals", "labels", "bom"))
    made = [(path.read_bytes(), path.suffix) for path in sorted(folder.iterdir())]
    others = (
        "number,from,to\n1,K1:A1,S1:13\n2,K1:A2,X1:1\n",
        "code,kind,title,width,height,depth,contacts\nrl-x,relay,Relay,18,80,70,co 11-12-14\n",
        "name;title;kW;kind\nM1;Pump;1,5;dol\nM2;Fan;4;star-delta\n",
    )
    return [*made, *((text.encode(), ".csv") for text in others)]


# -- one case


class Briefs:
    """Sound briefs, as texts and as tables."""

    def __init__(self) -> None:
        self.texts = base_briefs()
        self.tables = [tomllib.loads(text) for text in self.texts]
        self.pool = Pool(self.tables)

    def mutated(self, chance: random.Random) -> str:
        """Return a mutated brief."""
        at = chance.randrange(len(self.texts))
        if chance.random() < 0.15:
            return change_text(self.texts[at], chance)
        return write_toml(change_tables(self.tables[at], chance, self.pool))


class Scripts:
    """Scripts of random actions, faults and claims on a few panels: most words mean something there."""

    def __init__(self, texts: Sequence[str]) -> None:
        self.plans = [compute_plan(parse_brief(text)) for text in texts]

    def mutated(self, chance: random.Random) -> tuple[str, Plan]:
        """Return a script and the panel that it is for."""
        plan = chance.choice(self.plans)
        words = _Words(plan, chance)
        steps = [
            {
                "do": [words.action() for _ in range(chance.randint(0, 6))],
                "expect": [words.claim() for _ in range(chance.randint(0, 3))],
                "never": [f"{words.claim()} and {words.claim()}"],
            }
            for _ in range(chance.randint(1, 5))
        ]
        moves = {"always": chance.uniform(-0.01, 0.01), words.claim(): 0.01}
        body = {"at": 0.5, "low": 0, "high": 2, "moves": moves, "operates": {words.name(): "> 1"}}
        table: dict[str, Any] = {"step": steps} | ({"field": {"A": body}} if chance.random() < 0.2 else {})
        text = write_toml(table)
        return (change_text(text, chance) if chance.random() < 0.2 else text), plan


class _Words:
    """What scripts may say of one panel, drawn at random; now and then something that means nothing."""

    def __init__(self, plan: Plan, chance: random.Random) -> None:
        self.chance, self.gears = chance, gears_of(plan)
        self.wires = [f"{p.number}@{plan.terminal_label(t)}" for p in plan.potentials for t in p.net.terminals]
        self.ends = [*(p.number for p in plan.potentials), *(wire.partition("@")[2] for wire in self.wires)]
        self.levels = [level.name for level in plan.job.levels]

    def name(self) -> str:
        return self.chance.choice([*self.gears])

    def _fault(self) -> str:
        end = self.chance.choice(self.wires).partition("@")[2]
        return self.chance.choice(
            (
                f"open {self.chance.choice(self.wires)}",
                f"swap {end} {self.ends[-1]}",
                "swap L1 L2",
                f"short {end} {self.ends[0]}",
            )
        )

    def action(self) -> str:
        chance, of, choice = self.chance, self.name(), self.chance.random()
        if choice < 0.2:
            return f"wait {chance.choice(('0.1', '5', '600', '3600'))}"
        if choice < 0.3:
            return f"{chance.choice(('fault', 'fault', 'mend'))} {self._fault()}"
        if choice < 0.4 and self.levels:
            return f"level {chance.choice(self.levels)} {chance.choice((0, 1, 1.3, 5))}"
        if choice < 0.5:
            return f"{chance.choice(('lose', 'mend'))} {chance.choice(('L1', 'L2'))}"
        gear = self.gears[of]
        verb = chance.choice(sorted({*gear.verbs, "fail", "mend"}) if choice < 0.98 else VERBS)
        values = {
            "turn": [*getattr(gear, "choices", ()), "off"],
            "set": ["1.5"] if choice < 0.95 else ["nan", "hot", "Q1 on"],
        }
        return f"{verb} {of} {chance.choice(values.get(verb, ['']))}".strip()

    def claim(self) -> str:
        word = self.chance.choice((*WORDS, "< 5 V")) if self.chance.random() < 0.98 else "<= x V"
        of = self.chance.choice(self.ends) if word in {"live", "dead", "< 5 V"} else self.name()
        return f"{self.chance.choice(('', 'not '))}{of} {word}"


def read_script_text(data: bytes, plan: Plan) -> bool:
    """Read a script and play it; return whether it could be played."""
    path = ROOM / "script.toml"
    path.write_bytes(data)
    try:
        script, _ = read_script(path)
        json.dumps(report(play(plan, script), plan, script), allow_nan=False)
    except ScriptFileError as error:
        if not all(line.startswith("script.toml:") for line in str(error).split("\n")):
            raise Unplaced(repr(str(error)[:300])) from error
        return False
    except ScriptError as error:
        if "\n" in str(error) or not str(error):
            raise Unplaced(repr(str(error)[:300])) from error
        return False
    return True


def some_documents(chance: random.Random) -> tuple[str, ...]:
    """Return which documents are exported: all, or a few."""
    return NAMES if chance.random() < 0.2 else tuple(chance.sample(NAMES, chance.randint(1, 3)))


def is_sound(text: str) -> bool:
    """Return whether a brief is one; what ends otherwise than by a refusal is taken too, so that the case shows it."""
    try:
        parse_brief(text, "brief.toml")
    except BriefError:
        return False
    except Exception:  # noqa: BLE001 the case that is made of it fails by it
        return True
    return True


def job_case(chance: random.Random, base: bytes) -> bytes:
    """Return a mutated job file: bytes of the file, or rows of its tables."""
    if chance.random() < 0.3:
        return change_bytes(base, chance)
    path = ROOM / "case.riktig"
    path.write_bytes(base)
    db = sqlite3.connect(path)
    db.executescript("DROP TRIGGER events_stay; DROP TRIGGER events_last;")
    choice = chance.randrange(6)
    if choice < 3:
        table, column = chance.choice((("snapshots", "job"), ("issues", "plan"), ("snapshots", "job")))
        for row, blob in db.execute(f"SELECT rowid, {column} FROM {table}").fetchall():  # noqa: S608 names from here
            document = _change_document(json.loads(zlib.decompress(blob)), chance)
            text = json.dumps(document, default=str).encode()
            packed = zlib.compress(text if choice else change_bytes(text, chance))
            db.execute(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (packed, row))  # noqa: S608
    elif choice < 5:
        column = chance.choice(("time", "unit", "person", "kind", "subject", "data"))
        value = chance.choice(
            ("", "x", "wire:K1:A1", "{}", "[]", '{"value": "x"}', '{"value": NaN}', b"\xff\x00", 5, 1.5, "[" * 5000)
        )
        db.execute(f"UPDATE events SET {column} = ? WHERE seq = ?", (value, chance.randint(1, 25)))  # noqa: S608
    else:
        with contextlib.suppress(sqlite3.Error):
            name = chance.choice(("snapshots", "position", "events", "issues"))
            db.execute(chance.choice((f"DROP TABLE {name}", f"DELETE FROM {name}", f"ALTER TABLE {name} RENAME TO gone",
                                      "UPDATE position SET seq = 99", "UPDATE position SET seq = 'x'",
                                      "UPDATE snapshots SET job = 'x'", "UPDATE issues SET name = 7, time = x'ff'")))  # fmt: skip
    db.commit()
    db.close()
    return path.read_bytes()


def _change_document(document: dict[str, Any], chance: random.Random) -> dict[str, Any]:
    return change_tables(document, chance, Pool([document]))


def table_case(chance: random.Random, bases: list[tuple[bytes, str]]) -> tuple[bytes, str]:
    """Return a mutated table and the ending of its name."""
    data, suffix = chance.choice(bases)
    if suffix == ".csv" and chance.random() < 0.7:
        return change_text(data.decode(), chance).encode(chance.choice(("utf-8", "utf-16", "utf-8-sig"))), suffix
    return change_bytes(data, chance), suffix
