"""Measures start, planning, edits and drawing, and prints each figure beside its bar. Figures are of this machine in this run.

`--strict` leaves with 1 where a bar is missed; `--only NAME,...` runs some parts; `--runs N` takes the median of so many edits.
"""

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="riktig-bench-")

from bars import missed, report  # noqa: E402
from jobs import mixed_brief_of  # noqa: E402
from window import Turns, application, close_window, open_window, wait_for  # noqa: E402

EMPTY = """
import time; t = time.perf_counter()
from PySide6.QtWidgets import QApplication, QMainWindow
a = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show(); a.processEvents()
print(time.perf_counter() - t)
"""
WINDOW = """
import time; t = time.perf_counter()
from riktig.desk.heap import collect_seldom, hold_off
from riktig.desk.helper import start_helper
collect_seldom(); hold_off()
h = start_helper(is_bare=True)
from riktig.app.main import make_application
from riktig.app.shell import Shell
from riktig.app.theme.theme import Variant, apply_theme, load_theme
a = make_application([]); apply_theme(a, load_theme(Variant.LIGHT)); s = Shell(Variant.LIGHT, h); s.show()
a.processEvents(); shown = time.perf_counter() - t
s.files.open_demo("iec")
while s.session.bundle is None: a.processEvents(); time.sleep(0.0005)
a.processEvents(); print(shown, time.perf_counter() - t); s.close()
"""
COUNTS = (1, 10, 30, 100, 200)
FROM_NOTHING = {10: 0.3, 100: 3.0, 200: 6.5}
OPENING_S = 1.0
START_RUNS, FRAMES, DRAWS = 5, 60, 1000


def best_of(code: str) -> list[float]:
    """Return the smallest of several runs of a snippet in a process of its own, number by number; compiled modules are kept."""
    runs = []
    env = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    for _ in range(START_RUNS):
        out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env).stdout
        runs.append([float(word) for word in out.split()])
    return [min(column) for column in zip(*runs, strict=True)]


def bench_start(runs: int) -> None:
    """Report the start of the window against an empty one (PySide6, the reference of this run)."""
    (empty,) = best_of(EMPTY)
    shown, complete = best_of(WINDOW)
    report("empty QMainWindow shown", empty)
    report("Riktig's window shown, times the empty one", shown / empty, 4.0, "x")
    report("demo's first bench complete behind the start", complete, 1.0)


def from_nothing(count: int) -> tuple[float, Any]:
    """Return how long it takes from a brief to its Plan with nothing remembered, and the Plan."""
    from riktig.files.brief_reader import parse_brief
    from riktig.job.paths import parse_path
    from riktig.plan.plan import compute_plan
    from riktig.plan.sizes import parts
    from riktig.plan.sizes.starter import size_starter
    from riktig.plan.stages import forget

    forget()
    size_starter.cache_clear()
    parse_path.cache_clear()
    parts._FITTING.clear()
    text = mixed_brief_of(count)
    start = time.perf_counter()
    plan = compute_plan(parse_brief(text))
    return time.perf_counter() - start, plan


def bench_plan(runs: int) -> None:
    """Report the time from brief to Plan of mixed starters, its growth, and the stages that take most of it."""
    from riktig.plan.stages import memory

    from_nothing(6)
    before: tuple[int, float] | None = None
    stages: dict[int, dict[str, float]] = {}
    for count in COUNTS:
        took, plan = min((from_nothing(count) for _ in range(2)), key=lambda pair: pair[0])
        stages[count] = dict(memory().seconds)
        report(
            f"{count} mixed starters, {len(plan.conductors)} conductors, brief to Plan", took, FROM_NOTHING.get(count)
        )
        if before is not None and before[0] >= 100:
            report(
                f"growth from {before[0]} to {count} starters, of linear",
                took / before[1] / (count / before[0]),
                1.2,
                "x",
            )
        before = (count, took)
    few, many = COUNTS[-2:]
    for name, seconds in sorted(stages[many].items(), key=lambda item: -item[1])[:12]:
        growth = seconds / max(stages[few].get(name, 0.0), 1e-4) / (many / few)
        print(
            f"    stage {name:18} {stages[few].get(name, 0.0):7.3f} s at {few}, {seconds:7.3f} s at {many}: {growth:4.1f} of linear"
        )


def _starter(job: Any, n: int) -> Any:
    """Return another starter each time, so that nothing comes out as it was a moment ago."""
    return job.starters[n % len(job.starters)]


def _power(job: Any, n: int) -> Any:
    from riktig.job.edits import change_starter

    starter = _starter(job, n)
    return change_starter(job, starter.name, kw=5.5 if starter.kw != 5.5 else 3.0, hp=None)


def _lamp(job: Any, n: int) -> Any:
    from riktig.job.edits import change_starter

    starter = _starter(job, n)
    return change_starter(job, starter.name, lamps=("trip",) if "run" in starter.lamps else ("run", "trip"))


def _title(job: Any, n: int) -> Any:
    from riktig.job.edits import change_starter

    return change_starter(job, _starter(job, n).name, title=f"Elevator {n}")


def _tag(job: Any, n: int) -> Any:
    from riktig.job.edits import keep_choice

    name = _starter(job, n).name
    return keep_choice(job, "tags", f"{name}.Q", f"Q9{n:02}")


def _moved(job: Any, n: int) -> Any:
    from riktig.plan.changes.plate import keep_moves, nudge, places_of
    from riktig.plan.plan import compute_plan

    plate = compute_plan(job).plate
    step = 1.0 + 0.1 * n  # another one each time: what was there a moment ago is remembered
    moves = (nudge(plate, item, step if n % 2 else -step, 0.0) for item in plate.items)
    return keep_moves(job, moves=places_of((next(move for move in moves if move.is_legal),)))


def _practice(job: Any, n: int) -> Any:
    from riktig.job.edits import change_part

    return change_part(job, "practice", earth=("bar", "beside")[n % 2])


def _enclosure(job: Any, n: int) -> Any:
    from riktig.job.edits import change_part

    return change_part(job, "enclosure", ambient=(30.0, 35.0)[n % 2])


EDITS: dict[str, tuple[Callable[[Any, int], Any], str, float]] = {
    "motor power": (_power, "brief", 0.2),
    "lamp": (_lamp, "brief", 0.2),
    "title": (_title, "brief", 0.2),
    "tag": (_tag, "plate", 0.2),
    "part moved": (_moved, "plate", 0.2),
    "practice": (_practice, "terminals", 1.0),
    "enclosure": (_enclosure, "plate", 1.0),
}
"""What is changed, the bench that is open meanwhile, and its bar with 100 starters; on the demo 0.1 s each."""


class Sent:
    """An edit that the worker process can load."""

    def __init__(self, name: str, n: int) -> None:
        self.name, self.n = name, n

    def __call__(self, job: Any) -> Any:
        return EDITS[self.name][0](job, self.n)


def bench_edits(runs: int) -> None:
    """Report what each kind of edit costs in the core alone: settled and planned, 100 and 200 mixed starters."""
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import settle

    for count in (100, 200):
        _, plan = from_nothing(count)
        job = plan.job
        for name, (edit, _, _) in EDITS.items():
            times = []
            for n in range(runs):
                start = time.perf_counter()
                job = settle(edit(job, n))
                compute_plan(job)
                times.append(time.perf_counter() - start)
            report(f"{count} mixed starters, {name}: settled and planned", statistics.median(times))


def bench_rules(runs: int) -> None:
    """Report what judging costs with 100 mixed starters: all rules from nothing, and after each kind of edit."""
    from riktig.checks.run import find_all
    from riktig.checks.watched import Watch
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import settle

    _, plan = from_nothing(100)
    times = []
    for _ in range(runs):
        _, plan = from_nothing(100)
        watch = Watch()
        start = time.perf_counter()
        find_all(plan, watch)
        times.append(time.perf_counter() - start)
    report("100 mixed starters: all rules from nothing", statistics.median(times), 0.5)
    job = plan.job
    for name, (edit, _, _) in EDITS.items():
        times = []
        for n in range(runs):
            job = settle(edit(job, n))
            plan = compute_plan(job)
            start = time.perf_counter()
            find_all(plan, watch)
            times.append(time.perf_counter() - start)
        report(f"100 mixed starters, {name}: rules after it", statistics.median(times), 0.05)


def bench_proof(runs: int) -> None:
    """Report what the test of 100 mixed starters costs: its steps, and the next measurement on the way to a fault."""
    from random import Random

    from riktig.desk.proof_errands import Observed, follow_fault, proof_of
    from riktig.prove.program import list_steps

    times, steps = [], ()
    for _ in range(runs):
        _, plan = from_nothing(100)
        start = time.perf_counter()
        steps = list_steps(plan)
        times.append(time.perf_counter() - start)
    report(f"100 mixed starters, test of {len(steps)} steps", statistics.median(times), 3.0)
    start = time.perf_counter()
    proof = proof_of(plan)
    report(f"100 mixed starters, {len(proof.faults)} faults that may be, once", time.perf_counter() - start)
    times = []
    for fault in Random(1).sample([fault for fault in proof.faults if fault.built is not None], 20):
        first = proof.cover(fault).first
        if first is not None:
            times += _follow(plan, fault, Observed(verdicts=((first.key, False),)), follow_fault)
    report("100 mixed starters, the next measurement on the way to a fault", statistics.median(times), 0.2)
    report("100 mixed starters, the slowest of them", max(times))


def _follow(plan, fault, seen, follow_fault):
    """Return the seconds of each measurement's choice on the way to a fault."""
    from dataclasses import replace

    from riktig.prove.dead import DeadPanel

    network, times = DeadPanel(plan).network(fault.built), []
    for _ in range(12):
        start = time.perf_counter()
        trail = follow_fault(plan, seen)
        times.append(time.perf_counter() - start)
        if trail.probe is None or trail.suspects[0].share > 0.95:
            break
        probe = trail.probe
        reading = (probe.a, probe.b, network.between((probe.a,), probe.b))
        seen = replace(seen, readings=(*seen.readings, reading))
    return times


def bench_making(runs: int) -> None:
    """Report what planning the shop's work costs with 100 mixed starters: lots of wires and labels on their media."""
    from riktig.desk.label_errands import LabelWish, show_labels
    from riktig.drawings.labels.fitting import fit_labels
    from riktig.drawings.labels.pages import label_pages
    from riktig.plan.making.lots import lots_of

    times = []
    for _ in range(runs):
        _, plan = from_nothing(100)
        start = time.perf_counter()
        lots, labels = lots_of(plan), fit_labels(plan)
        times.append(time.perf_counter() - start)
    words = f"{sum(len(one.bundle.wires) for one in lots)} wires in {sum(len(one.lots) for one in lots)} lots, {len(labels)} labels"
    report(f"100 mixed starters, {words}", statistics.median(times), 1.0)
    start = time.perf_counter()
    pages = label_pages(labels, "a4", "bench")
    report(f"100 mixed starters, {len(labels)} labels on {len(pages)} pages", time.perf_counter() - start)
    wish = LabelWish(medium="sleeve-3", page=3, done={})
    start = time.perf_counter()
    show_labels(plan, wish)
    report("100 mixed starters, a page of the Labels bench", time.perf_counter() - start, 0.2)


def bench_window(runs: int) -> None:
    """Report each kind of edit from the edit to the open bench painted, in the real window, and what blocks it longest."""
    from importlib.resources import files

    application()
    early: list[Any] = []
    demo = files("riktig").joinpath("demos", "iec.toml").read_text(encoding="utf-8")
    for words, text, bar in (("demo", demo, 0.1), ("100 mixed starters", mixed_brief_of(100), None)):
        shell = open_window(words.replace(" ", "-"), text)
        for name, (_, bench, own_bar) in EDITS.items():
            shell.show_stage(bench)
            wait_for(shell)
            until = time.perf_counter() + OPENING_S  # to open a bench, and to paint it first, is no edit
            while time.perf_counter() < until:
                application().processEvents()
            if name == "part moved":
                _select_movable(shell)
            times, whole, turns = [], [], Turns()
            shell.session.early_found.connect(early.append)
            for n in range(runs):
                early.clear()
                start, old = time.perf_counter(), shell.session.bundle
                turns.take(partial(_act, shell, name, n))
                is_shown = is_whole = False
                while not is_whole:
                    is_whole, was_shown = shell.session.bundle is not old, is_shown
                    is_shown = is_whole or bool(early)
                    turns.take()  # once more after it has come: that paints
                    if is_shown and not was_shown:
                        times.append(time.perf_counter() - start)
                whole.append(time.perf_counter() - start)
                while shell.session.is_stale:
                    turns.take()
            shell.session.early_found.disconnect(early.append)
            report(f"{words}, {name}: edit to {bench} bench painted", statistics.median(times), bar or own_bar)
            report(f"{words}, {name}: edit to the whole Plan in the window", statistics.median(whole))
            report(f"{words}, {name}: the window's longest turn", 1000 * turns.clock, 50.0, "ms")
            report(f"{words}, {name}: the same by its processor time", 1000 * turns.own, 50.0, "ms")
        if words == "demo":
            _count_none(shell)
        else:
            _measure_table(shell)
            _measure_memory(shell)
        close_window(shell)


def _act(shell: Any, name: str, n: int) -> None:
    """Do what a person does: move a part with the keys, or change something on a card."""
    if name != "part moved":
        shell.session.apply(Sent(name, n), name)
        return
    step = 1.0 if n % 2 else -1.0
    shell.bench("plate").view.nudged.emit(step, 0.0)


def _select_movable(shell: Any) -> None:
    """Select a part that can be moved to the left."""
    from riktig.plan.changes.plate import nudge

    plate = shell.session.bundle.plan.plate
    shell.hub.select(next(item for item in list(plate.items)[3:] if nudge(plate, item, -1.0, 0.0).is_legal))


def _count_none(shell: Any) -> None:
    from PySide6.QtGui import QImage, QPainter

    shell.show_stage("plate")
    image = QImage(1280, 800, QImage.Format.Format_ARGB32)
    before, start = sys.getrefcount(None), time.perf_counter()
    for _ in range(DRAWS):
        painter = QPainter(image)
        shell.bench("plate").view.render(painter)
        painter.end()
    report("a frame of the plate", 1000 * (time.perf_counter() - start) / DRAWS, None, "ms")
    print(f"    references to None over {DRAWS} draws: {sys.getrefcount(None) - before:+d}")


def _measure_table(shell: Any) -> None:
    """Report a key in the filter of the table of wires, and a step of scrolling."""
    shell.show_stage("wires")
    application().processEvents()
    bench = shell.bench("wires")
    typed = []
    for text in ("K", "K1", "K12", "K12:", ""):
        start = time.perf_counter()
        bench.filter.setText(text)
        bench.table.grab()
        typed.append(time.perf_counter() - start)
    report(f"table of {bench.model.rowCount()} wires, a key in the filter", 1000 * max(typed), None, "ms")
    bar, start = bench.table.verticalScrollBar(), time.perf_counter()
    for step in range(100):
        bar.setValue(step * bar.maximum() // 100)
        bench.table.grab()
    report("a step of scrolling in it", 10 * (time.perf_counter() - start), None, "ms")


def _measure_memory(shell: Any) -> None:
    """Report the memory of window and worker together."""
    pids = [os.getpid(), shell.session.worker._helper.process.pid]
    kib = 0
    for pid in pids:
        status = Path(f"/proc/{pid}/status").read_text()
        kib += int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1])
    report("memory of window and worker together, 100 mixed starters", kib / 1024, None, "MiB")


def bench_sheets(runs: int) -> None:
    """Report the time to draw every sheet of 100 mixed starters, and a frame of the largest while it is moved and zoomed."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from riktig.app.benches.circuit.bench import READING_SCALE
    from riktig.app.canvas.view import DrawingView
    from riktig.app.theme.theme import Variant, load_theme
    from riktig.drawings.sheet_set import draw_sheets

    _, plan = from_nothing(100)
    draw_sheets(plan)
    start = time.perf_counter()
    sheets = draw_sheets(plan)
    report(f"{len(sheets)} sheets of {sum(len(s.items) for s in sheets)} items drawn", time.perf_counter() - start)
    application()
    largest = max(sheets, key=lambda sheet: len(list(sheet.primitives())))
    view = DrawingView(load_theme(Variant.LIGHT), "sheet", least_scale=READING_SCALE)
    view.resize(820, 620)
    view.show()
    start = time.perf_counter()
    view.show_drawing(largest)
    QTest.qWait(1)
    report(f"largest sheet, {len(largest.items)} items, turned to", 1000 * (time.perf_counter() - start), None, "ms")
    for words in ("moved", "zoomed"):
        start = time.perf_counter()
        for n in range(FRAMES):
            if words == "moved":
                view.horizontalScrollBar().setValue(8 * n)
            else:
                QTest.keyClick(view, Qt.Key.Key_Plus if n % 12 < 6 else Qt.Key.Key_Minus)
            view.viewport().repaint()
        report(f"a frame of it, {words}", 1000 * (time.perf_counter() - start) / FRAMES, None, "ms")
    view.close()


def bench_routes(runs: int) -> None:
    """Report our duct network against networkx on the same ducts."""
    import networkx as nx

    from riktig.plan.place.routes import DuctNetwork

    layout = from_nothing(100)[1].plate
    start = time.perf_counter()
    network = DuctNetwork(layout.ducts)
    codes = [d.code for d in layout.ducts if not d.is_vertical]
    pairs = [(a, b) for a in codes for b in codes]
    ours = [network.route((a, 100.0), (b, 700.0)).length for a, b in pairs]
    report(f"{len(pairs)} routes", time.perf_counter() - start)
    graph: nx.Graph = nx.Graph()
    start = time.perf_counter()
    uprights = [d for d in layout.ducts if d.is_vertical]
    levels = sorted((d.box.centre[1], d.code) for d in layout.ducts if not d.is_vertical)
    for upright in uprights:
        for (y, code), (z, other) in zip(levels, levels[1:], strict=False):
            graph.add_edge((upright.code, code), (upright.code, other), weight=z - y)
    for _, code in levels:
        graph.add_edge((uprights[0].code, code), (uprights[1].code, code), weight=layout.width - uprights[0].width)
        for place, name in ((100.0, "a"), (700.0, "b")):
            for upright in uprights:
                graph.add_edge((name, code), (upright.code, code), weight=abs(place - upright.box.centre[0]))
        graph.add_edge(("a", code), ("b", code), weight=600.0)
    theirs = [nx.dijkstra_path_length(graph, ("a", a), ("b", b)) for a, b in pairs]
    report("the same by networkx", time.perf_counter() - start)
    report("largest difference", max(abs(x - y) for x, y in zip(ours, theirs, strict=True)), 1e-6, "mm")


def bench_grid(runs: int) -> None:
    """Print counts of every row of the motor tables in both worlds."""
    import grid

    grid.main()


def bench_plate(runs: int) -> None:
    """Print what arranging saves and what a move by hand costs."""
    import plate

    application()
    plate.bench_hand()
    plate.bench_arrange()


def bench_live(runs: int) -> None:
    """Print what the live circuit costs, beside ngspice."""
    import live_circuit

    live_circuit.bench_spice()
    live_circuit.bench_actions()
    live_circuit.bench_pictures()
    live_circuit.bench_window()
    live_circuit.bench_hour()


def bench_search(runs: int) -> None:
    """Print what a search of ten times the time finds; not run unless it is asked for."""
    import plate

    plate.bench_search()


PARTS: dict[str, Callable[[int], None]] = {
    "start": bench_start,
    "plan": bench_plan,
    "edits": bench_edits,
    "rules": bench_rules,
    "making": bench_making,
    "proof": bench_proof,
    "window": bench_window,
    "sheets": bench_sheets,
    "routes": bench_routes,
    "grid": bench_grid,
    "live": bench_live,
    "plate": bench_plate,
    "search": bench_search,
}
LONG = frozenset({"search"})
"""Parts that take minutes and are run by their names alone."""


def main() -> int:
    """Run the parts that are asked for; return 1 where a bar is missed and --strict was given."""
    parser = argparse.ArgumentParser(prog="./run bench", description=__doc__)
    parser.add_argument("--strict", action="store_true")
    parser.add_argument("--only", default=",".join(name for name in PARTS if name not in LONG))
    parser.add_argument("--runs", type=int, default=5)
    given = parser.parse_args()
    from riktig.desk.heap import collect_seldom

    collect_seldom()
    print(f"load of the machine before: {os.getloadavg()[0]:.2f} on {os.cpu_count()} processors")
    for name in given.only.split(","):
        print(f"-- {name}", flush=True)
        PARTS[name](given.runs)
    print(
        f"load of the machine after: {os.getloadavg()[0]:.2f}; {len(missed)} bars missed"
        + "".join(f"\n    {m}" for m in missed)
    )
    return 1 if given.strict and missed else 0


if __name__ == "__main__":
    sys.exit(main())
