"""Measures start, planning and drawing, and prints each beside its bar. Figures are of this machine in this run."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="riktig-bench-")

EMPTY = """
import time; t = time.perf_counter()
from PySide6.QtWidgets import QApplication, QMainWindow
a = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show(); a.processEvents()
print(time.perf_counter() - t)
"""
WINDOW = """
import time; t = time.perf_counter()
from riktig.desk.process import start_helper
h = start_helper()
from riktig.app.main import make_application
from riktig.app.shell import Shell
from riktig.app.theme.theme import Variant, apply_theme, load_theme
a = make_application([]); apply_theme(a, load_theme(Variant.LIGHT)); s = Shell(Variant.LIGHT, h); s.show()
a.processEvents(); shown = time.perf_counter() - t
s.files.open_demo("iec")
while s.session.bundle is None: a.processEvents()
a.processEvents(); print(shown, time.perf_counter() - t); s.close()
"""
HEAD = """brief = 1
[job]
number = "B-1"
[supply]
system = "3ph+n"
volts = 400
[enclosure]
width = 2400
height = 6000
[control.C1]
kind = "transformer"
from = "L1 L2"
volts = 230
"""
STARTER = 'title = "Apple elevator"\nkw = 1.5\nsupply = "C1"\nlamps = ["run", "trip"]'
MODULES = '[control.C2]\nkind = "psu"\n[estop.E1]\n[controller.P1]\ninputs = 128\noutputs = 64\n[level.TANK]\n'
MODULES += "floats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n"
MIXED = (
    STARTER,
    'kind = "reversing"\nkw = 3\nsupply = "C1"\nlamps = ["run", "trip"]',
    'kind = "star-delta"\nkw = 11\nsupply = "C1"\nlamps = ["run", "trip", "ready"]\nhours = true',
    'kind = "drive"\nkw = 2.2\nsupply = "C2"\ncontrol = "controller"\ncontroller = "P1"\nlamps = ["run", "trip"]',
    'kind = "soft"\nkw = 15\nsupply = "C1"\nlamps = ["run", "trip"]',
    'kind = "pump"\nkw = 1.1\nsupply = "C1"\nlamps = ["run", "trip"]',
)
"""Starters of every kind, for planning many at once."""
COPIES = (1, 10, 50, 100)
DRAWS = 1000
RUNS = 5


def best_of(code: str) -> list[float]:
    """Return the smallest of several runs of a snippet in a process of its own, number by number."""
    runs = []
    for _ in range(RUNS):
        out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
        runs.append([float(word) for word in out.split()])
    return [min(column) for column in zip(*runs, strict=True)]


def brief_of(copies: int) -> str:
    """Return a brief with copies of the demo's starter, on a plate that is large enough for a hundred."""
    return HEAD + "".join(f"[starter.M{n + 1}]\n{STARTER}\n" for n in range(copies))


def mixed_brief_of(copies: int) -> str:
    """Return a brief of starters of every kind in turn, with an emergency stop group and a controller."""
    text = HEAD + MODULES
    for n in range(copies):
        text += f"[starter.M{n + 1}]\n{MIXED[n % len(MIXED)]}\n"
    return text


def bench_start() -> None:
    """Print the start of the window against an empty one."""
    (empty,) = best_of(EMPTY)
    shown, complete = best_of(WINDOW)
    print(f"empty QMainWindow shown       {empty:6.3f} s   (PySide6, the reference of this run)")
    print(f"Riktig's window shown         {shown:6.3f} s   {shown / empty:.1f} times the empty one, bar 4")
    print(f"demo's first bench complete   {complete:6.3f} s   bar 1 s behind the start")


def bench_plan() -> None:
    """Print the time to plan copies of the starter, its growth, and an edit among them."""
    from riktig.desk.bundle import make_bundle
    from riktig.drawings.sheet_set import draw_sheets
    from riktig.files.brief_reader import parse_brief
    from riktig.job.edits import change_starter
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import settle
    from riktig.record.progress import list_work

    compute_plan(parse_brief(brief_of(1)))
    before: tuple[int, float] | None = None
    for copies in COPIES:
        start = time.perf_counter()
        job = parse_brief(brief_of(copies))
        read = time.perf_counter()
        plan = compute_plan(job)
        planned = time.perf_counter()
        changed = settle(change_starter(job, "M1", kw=4.0))
        settled = time.perf_counter()
        bundle = make_bundle(changed)
        draw_sheets(bundle.plan)
        list_work(bundle.plan)
        shown = time.perf_counter()
        everything = settled - planned + shown - settled
        growth = "" if before is None else f"  {everything / before[1] / (copies / before[0]):.2f} of linear"
        bar = {10: "bar 0.3 s", 100: "bar 3 s"}.get(copies, "")
        print(
            f"{copies:3} starters, {len(plan.conductors):4} conductors: read {read - start:.3f}  plan {planned - read:.3f}  "
            f"edit settled {settled - planned:.3f}  all recomputed and drawn {everything:.3f} s {bar}{growth}"
        )
        before = (copies, everything)


def bench_mixed() -> None:
    """Print the time from brief to Plan for starters of every kind, with emergency stop, controller and floats."""
    from riktig.files.brief_reader import parse_brief
    from riktig.plan.plan import compute_plan

    compute_plan(parse_brief(mixed_brief_of(len(MIXED))))
    before: tuple[int, float] | None = None
    for copies in COPIES[1:]:
        start = time.perf_counter()
        plan = compute_plan(parse_brief(mixed_brief_of(copies)))
        took = time.perf_counter() - start
        growth = "" if before is None else f"  {took / before[1] / (copies / before[0]):.2f} of linear"
        bar = {10: "bar 0.3 s", 100: "bar 3 s"}.get(copies, "")
        print(
            f"{copies:3} mixed starters, {len(plan.conductors):4} conductors: brief to Plan {took:.3f} s {bar}{growth}"
        )
        before = (copies, took)


def bench_sizes() -> None:
    """Print the time to size 100 mixed starters with nothing known before, and again with one motor changed."""
    from riktig.files.brief_reader import parse_brief
    from riktig.job.edits import change_starter
    from riktig.plan.circuit.expand import expand
    from riktig.plan.net.numbers import read_potentials
    from riktig.plan.panel import total_panel
    from riktig.plan.sizes import parts
    from riktig.plan.sizes.electrical import wire_up
    from riktig.plan.sizes.starter import size_starter, size_starters

    job = parse_brief(mixed_brief_of(100))
    changed = change_starter(job, "M1", kw=4.0)
    size_starter.cache_clear()
    parts._FITTING.clear()
    start = time.perf_counter()
    size_starters(job)
    starters = time.perf_counter()
    electrical = wire_up(job)
    wired = time.perf_counter()
    electrical.size(job, read_potentials(electrical.netlist, job.ledger.numbers))
    total_panel(job, electrical, 0.0)
    done = time.perf_counter()
    expand(job)
    expanded = time.perf_counter()
    before = size_starter.cache_info().misses
    size_starters(changed)
    again = time.perf_counter()
    print(
        f"100 mixed starters sized from nothing: starters {starters - start:.3f}, circuit and parts {wired - starters:.3f} (of which "
        f"the circuit {expanded - done:.3f}), sections and totals {done - wired:.3f}, together {done - start:.3f} s   bar 0.5 s"
    )
    print(
        f"one motor changed: {size_starter.cache_info().misses - before} starter sized again in {again - expanded:.4f} s"
    )


def bench_grid() -> None:
    """Print counts of every row of the motor tables in both worlds."""
    import grid

    grid.main()


def bench_plate() -> None:
    """Print what arranging saves and what a move by hand costs."""
    import plate

    plate.main()


def bench_routes() -> None:
    """Print our duct network against networkx on the same ducts."""
    import networkx as nx

    from riktig.files.brief_reader import parse_brief
    from riktig.plan.place.routes import DuctNetwork
    from riktig.plan.plan import compute_plan

    layout = compute_plan(parse_brief(brief_of(100))).plate
    start = time.perf_counter()
    network = DuctNetwork(layout.ducts)
    codes = [d.code for d in layout.ducts if not d.is_vertical]
    pairs = [(a, b) for a in codes for b in codes]
    ours = [network.route((a, 100.0), (b, 700.0)).length for a, b in pairs]
    took = time.perf_counter() - start
    graph: nx.Graph = nx.Graph()
    start = time.perf_counter()
    uprights = [d for d in layout.ducts if d.is_vertical]
    levels = sorted((d.box.centre[1], d.code) for d in layout.ducts if not d.is_vertical)
    for upright in uprights:
        for (y, code), (z, other) in zip(levels, levels[1:], strict=False):
            graph.add_edge((upright.code, code), (upright.code, other), weight=z - y)
    for _, code in levels:
        graph.add_edge((uprights[0].code, code), (uprights[1].code, code), weight=layout.width - 40)
        for place, name in ((100.0, "a"), (700.0, "b")):
            for upright in uprights:
                graph.add_edge((name, code), (upright.code, code), weight=abs(place - upright.box.centre[0]))
        graph.add_edge(("a", code), ("b", code), weight=600.0)
    theirs = [nx.dijkstra_path_length(graph, ("a", a), ("b", b)) for a, b in pairs]
    reference = time.perf_counter() - start
    worst = max(abs(x - y) for x, y in zip(ours, theirs, strict=True))
    print(f"{len(pairs)} routes in {took:.3f} s, networkx {reference:.3f} s, largest difference {worst:.6f} mm")


def bench_window() -> None:
    """Print edit to picture in the real window, and references to None over many draws."""
    from PySide6.QtGui import QImage, QPainter

    from riktig.app.main import make_application
    from riktig.app.shell import Shell
    from riktig.app.theme.theme import Variant, apply_theme, load_theme
    from riktig.files.brief_reader import parse_brief
    from riktig.files.job_file import JobFile

    application = make_application([])
    apply_theme(application, load_theme(Variant.LIGHT))
    for copies, bar in ((1, 0.1), (100, 0.2)):
        path = Path(os.environ["XDG_DATA_HOME"]) / f"bench-{copies}.riktig"
        JobFile.create(path, parse_brief(brief_of(copies))).close()
        shell = Shell()
        shell.resize(1280, 800)
        shell.show()
        shell.files.open_path(path)
        while shell.session.is_stale:
            application.processEvents()
        for key in ("brief", "plate"):
            shell.show_stage(key)
            application.processEvents()
            times = []
            for kw in (4.0, 1.5, 4.0):
                start = time.perf_counter()
                old = shell.session.bundle
                shell.session.apply(_Power(kw), "bench")
                while shell.session.bundle is old:
                    application.processEvents()
                shell.grab()
                times.append(time.perf_counter() - start)
                while shell.session.is_stale:
                    application.processEvents()
            print(
                f"edit to picture, {copies:3} starters, {key:5} bench: {min(times):.3f} s   bar {bar} s on the open bench"
            )
        if copies == 1:
            _count_none(shell, QImage, QPainter)
        shell.close()
        application.processEvents()


def bench_wire_table() -> None:
    """Print what a key in the filter and a step of scrolling take in the table of wires of 100 mixed starters."""
    from PySide6.QtWidgets import QApplication

    from riktig.app.main import make_application
    from riktig.app.shell import Shell
    from riktig.files.brief_reader import parse_brief
    from riktig.files.job_file import JobFile

    application = QApplication.instance() or make_application([])
    path = Path(os.environ["XDG_DATA_HOME"]) / "bench-wires.riktig"
    JobFile.create(path, parse_brief(mixed_brief_of(100))).close()
    shell = Shell()
    shell.resize(1280, 800)
    shell.show()
    shell.files.open_path(path)
    while shell.session.is_stale:
        application.processEvents()
    shell.show_stage("wires")
    application.processEvents()
    bench = shell.bench("wires")
    typed = []
    for text in ("K", "K1", "K12", "K12:", ""):
        start = time.perf_counter()
        bench.filter.setText(text)
        bench.table.grab()
        typed.append(time.perf_counter() - start)
    bar = bench.table.verticalScrollBar()
    start = time.perf_counter()
    for step in range(100):
        bar.setValue(step * bar.maximum() // 100)
        bench.table.grab()
    scrolled = (time.perf_counter() - start) / 100
    rows = bench.model.rowCount()
    print(
        f"table of {rows} wires: a key in the filter {1000 * max(typed):.0f} ms at most, a step of scrolling {1000 * scrolled:.1f} ms"
    )
    shell.close()
    application.processEvents()


class _Power:
    """An edit that the worker process can load."""

    def __init__(self, kw: float) -> None:
        self.kw = kw

    def __call__(self, job: object) -> object:
        from riktig.job.edits import change_starter

        return change_starter(job, "M1", kw=self.kw)  # type: ignore[arg-type]


def _count_none(shell: object, image_type: type, painter_type: type) -> None:
    image = image_type(1280, 800, image_type.Format.Format_ARGB32)
    before = sys.getrefcount(None)
    start = time.perf_counter()
    for _ in range(DRAWS):
        painter = painter_type(image)
        shell.bench("plate").view.render(painter)  # type: ignore[attr-defined]
        painter.end()
    took = (time.perf_counter() - start) / DRAWS
    print(
        f"references to None over {DRAWS} draws: {sys.getrefcount(None) - before:+d}; {1000 * took:.1f} ms a frame of the plate"
    )


FRAMES = 60


def bench_sheets() -> None:
    """Print the time to draw every sheet of 100 mixed starters, and a frame of the largest while it is moved and zoomed."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from riktig.app.benches.circuit.bench import READING_SCALE
    from riktig.app.canvas.view import DrawingView
    from riktig.app.main import make_application
    from riktig.app.theme.theme import Variant, load_theme
    from riktig.drawings.sheet_set import draw_sheets
    from riktig.files.brief_reader import parse_brief
    from riktig.plan.plan import compute_plan

    plan = compute_plan(parse_brief(mixed_brief_of(100)))
    draw_sheets(plan)
    start = time.perf_counter()
    sheets = draw_sheets(plan)
    took = time.perf_counter() - start
    print(
        f"100 mixed starters: {len(sheets)} sheets of {sum(len(s.items) for s in sheets)} items drawn in {took:.3f} s"
    )
    application = QApplication.instance() or make_application([])
    assert application is not None
    largest = max(sheets, key=lambda sheet: len(list(sheet.primitives())))
    view = DrawingView(load_theme(Variant.LIGHT), "sheet", least_scale=READING_SCALE)
    view.resize(820, 620)
    view.show()
    start = time.perf_counter()
    view.show_drawing(largest)
    QTest.qWait(1)
    turned = time.perf_counter() - start
    for words, move in (("moved", lambda n: view.horizontalScrollBar().setValue(8 * n)), ("zoomed", None)):
        start = time.perf_counter()
        for n in range(FRAMES):
            if move is not None:
                move(n)
            else:
                QTest.keyClick(view, Qt.Key.Key_Plus if n % 12 < 6 else Qt.Key.Key_Minus)
            view.viewport().repaint()
        frame = 1000 * (time.perf_counter() - start) / FRAMES
        print(
            f"largest sheet, {len(largest.items)} items, turned to in {1000 * turned:.0f} ms, {words}: {frame:.1f} ms a frame"
        )
    view.close()


if __name__ == "__main__":
    bench_start()
    bench_plan()
    bench_mixed()
    bench_sizes()
    bench_grid()
    bench_routes()
    bench_window()
    bench_wire_table()
    bench_sheets()
    bench_plate()
