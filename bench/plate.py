"""Measures plate and door: how much wire arranging saves, what ten times the time finds, how fast a move by hand is."""

import os
import tempfile
import time
from functools import partial
from importlib.resources import files
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("XDG_DATA_HOME", tempfile.mkdtemp(prefix="riktig-bench-"))


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


def bench_arrange() -> None:
    """Print wire weighted by section: in the order of tags, as first laid out, arranged, and searched ten times as long."""
    from riktig.plan.arrange.cost import total_length, weighted_length
    from riktig.plan.arrange.edit import arrange_plate
    from riktig.plan.place.faults import find_faults
    from riktig.plan.plan import compute_plan

    for world in ("iec", "ul"):
        job = _demo(world)
        plan = compute_plan(job)
        tagged = _by_tag(plan)
        reference = weighted_length(tagged)
        found = {}
        for effort in (1.0, 10.0):
            best: list[float] = []
            start = time.perf_counter()
            after = compute_plan(arrange_plate(job, effort=effort, progress=partial(_note, best)))
            took = time.perf_counter() - start
            found[effort] = best[-1]
            wire = weighted_length(after)
            print(
                f"{world} demo arranged, effort {effort:4g}: {took:6.1f} s, {wire / reference:6.1%} of the order of tags (bar 85 %), "
                f"{total_length(after) / 1000:.0f} m of wire for {total_length(tagged) / 1000:.0f} m; "
                f"{len(find_faults(after.plate))} faults"
            )
        print(
            f"{world} demo: ten times the time finds {1 - found[10.0] / found[1.0]:+.2%} less by the measure of the search; first laid "
            f"out {weighted_length(plan) / reference:.1%} of the order of tags"
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
        application.processEvents()  # paints the window
        times.append(time.perf_counter() - start)
        assert shell.session.bundle.plan.plate.boxes["M6.K"] != box
        while shell.session.is_stale:
            application.processEvents()
        settled.append(time.perf_counter() - start)
    middle = sorted(times)[len(times) // 2]
    print(
        f"a move by hand on the demo, from drop to the window painted with new lengths and findings: {middle:.3f} s "
        f"({min(times):.3f} to {max(times):.3f}), bar 0.1 s; settled and kept after {min(settled):.2f} to {max(settled):.2f} s"
    )
    shell.close()


def main() -> None:
    """Print all of it."""
    bench_hand()
    bench_arrange()


if __name__ == "__main__":
    main()
