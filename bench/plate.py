"""Measures plate and door: how much wire arranging saves, what ten times the time finds, how fast a move by hand is; `bench.py` runs it."""

import os
import tempfile
import time
from functools import partial
from importlib.resources import files
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("XDG_DATA_HOME", tempfile.mkdtemp(prefix="riktig-bench-"))

from bars import report  # noqa: E402


def _demo(world: str):  # type: ignore[no-untyped-def]
    from riktig.files.brief_reader import parse_brief

    return parse_brief(files("riktig").joinpath("demos", f"{world}.toml").read_text("utf-8"))


def _by_tag(plan):  # type: ignore[no-untyped-def]
    """Return the Plan with its parts in rows in the order of their tags."""
    from riktig.plan.arrange.edit import with_places
    from riktig.plan.net.numbers import natural_key
    from riktig.plan.place.stack import ROW_FILL, Row, stack_rows, usual_ducts
    from riktig.plan.plan import compute_plan

    most = ROW_FILL * (plan.plate.levels[0].box.w - 20)
    rows = [Row()]
    for item in sorted(plan.plate.items.values(), key=lambda i: natural_key(plan.tags.get(i.id, i.id))):
        if rows[-1].items and rows[-1].plus(item).width > most:
            rows.append(Row())
        rows[-1] = rows[-1].plus(item)
    return compute_plan(with_places(plan.job, stack_rows(plan.job, rows, usual_ducts(plan.job)).values()))


def _note(best: list[float], share: float, cost: float) -> bool:
    best.append(cost)
    return True


def _arranged(world: str, effort: float):  # type: ignore[no-untyped-def]
    """Return the Plan of a demo after a search of some effort, the least cost that it found, and how long it took in seconds."""
    from riktig.plan.arrange.edit import arrange_plate
    from riktig.plan.plan import compute_plan

    best: list[float] = []
    start = time.perf_counter()
    plan = compute_plan(arrange_plate(_demo(world), effort=effort, progress=partial(_note, best)))
    return plan, best[-1], time.perf_counter() - start


def bench_arrange() -> None:
    """Print wire by its weight, copper and work: in the order of tags, as first laid out, and arranged."""
    from riktig.plan.arrange.cost import total_length, weighted_length
    from riktig.plan.place.faults import find_faults
    from riktig.plan.plan import compute_plan

    for world in ("iec", "ul"):
        plan = compute_plan(_demo(world))
        tagged = _by_tag(plan)
        reference = weighted_length(tagged)
        after, _, took = _arranged(world, 1.0)
        report(f"{world} demo arranged: wire of the order of tags", weighted_length(after) / reference, 0.85, "x")
        print(
            f"    {took:.1f} s; {total_length(after) / 1000:.0f} m of wire for {total_length(tagged) / 1000:.0f} m; "
            f"{len(find_faults(after.plate))} faults; first laid out {weighted_length(plan) / reference:.1%} of the order of tags"
        )


def bench_search() -> None:
    """Print what ten times the time of the search finds: some minutes."""
    for world in ("iec", "ul"):
        (_, usual, _), (_, long, took) = _arranged(world, 1.0), _arranged(world, 10.0)
        print(
            f"{world} demo: ten times the time, {took:.0f} s, finds {1 - long / usual:+.2%} less by the measure of the search"
        )


def bench_hand() -> None:
    """Print what a move by hand on the demo costs: judged while dragged, and from the drop until the window shows it."""
    from PySide6.QtWidgets import QApplication

    from riktig.app.main import make_application
    from riktig.app.shell import Shell
    from riktig.app.theme.theme import Variant, apply_theme, load_theme
    from riktig.drawings.plate import plate_origin
    from riktig.files.job_file import JobFile
    from riktig.plan.changes import plate as plate_edits
    from riktig.plan.place.faults import find_faults

    application = QApplication.instance() or make_application([])
    apply_theme(application, load_theme(Variant.LIGHT))
    path = Path(os.environ["XDG_DATA_HOME"]) / "bench-plate.riktig"
    job = _demo("iec")
    JobFile.create(path, job).close()
    shell = Shell()
    shell.resize(1280, 800)
    shell.show()
    shell.files.open_path(path)
    while shell.session.is_stale:
        application.processEvents()
    shell.show_stage("plate")
    plate = shell.session.bundle.plan.plate
    rail = plate.rail(plate.rail_of["M6.K"])
    known = find_faults(plate)
    start = time.perf_counter()
    for k in range(50):
        plate_edits.try_move(plate, "M6.K", rail.x + 200 + 4 * k, rail.y - 40, known)
    print(f"a part in the hand is judged in {1000 * (time.perf_counter() - start) / 50:.1f} ms a step")
    times, settled = [], []
    bench = shell.bench("plate")
    for k in range(9):
        old = shell.session.bundle
        box = old.plan.plate.boxes["M6.K"]
        x = rail.x + rail.length - 60 - 15 * (k % 3)
        ox, oy = plate_origin(old.plan)
        bench.view.grabbed.emit("M6.K", ox + box.x + 5, oy + box.y + 5)
        at = (ox + x + 5, oy + rail.y - box.h / 2 + 5)
        bench.view.carried.emit(*at)
        start = time.perf_counter()
        bench.view.dropped.emit(*at)
        while shell.session.bundle.plan.plate.boxes["M6.K"] == box:
            application.processEvents()
        application.processEvents()  # paints the window
        times.append(time.perf_counter() - start)
        while shell.session.is_stale:
            application.processEvents()
        settled.append(time.perf_counter() - start)
    report("a move by hand on the demo, drop to painted", sorted(times)[len(times) // 2], 0.1)
    print(
        f"    {min(times):.3f} to {max(times):.3f} s; settled and kept after {min(settled):.2f} to {max(settled):.2f} s"
    )
    shell.close()
