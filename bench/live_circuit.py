"""Measures the live circuit: a solve beside ngspice, an action with 100 mixed starters, pictures while motors run, an hour of pumping."""

import shutil
import statistics
import sys
import time
from importlib.resources import files
from pathlib import Path
from typing import Any

from bars import report

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))


def _plan(text: str):  # type: ignore[no-untyped-def]
    from riktig.files.brief_reader import parse_brief
    from riktig.plan.plan import compute_plan

    return compute_plan(parse_brief(text))


def _demo():  # type: ignore[no-untyped-def]
    return _plan(files("riktig").joinpath("demos", "iec.toml").read_text("utf-8"))


def bench_spice() -> None:
    """Print how long the demo's volts take after one contact moved, and an operating point of ngspice of as many branches."""
    if shutil.which("ngspice") is None:
        print("ngspice is not installed")
        return
    from live.spice import ask_spice
    from live.test_demos import prepared
    from riktig.live.simulation import Simulation

    live = Simulation(_demo())
    network = live.network
    index = next(n for n, (a, _) in enumerate(live.rig.switch_ends) if a == "M3.K:1/L1")
    times = []
    for turn in range(200):
        network.switch(index, is_closed=turn % 2 == 0)
        start = time.perf_counter()
        network.solve()
        times.append(time.perf_counter() - start)
    ours = statistics.median(times)
    branches, *_ = prepared(network, is_dc=False)
    start = time.perf_counter()
    ask_spice(network.count, branches, is_dc=False)
    theirs = time.perf_counter() - start
    report(f"demo, {network.count} nodes: volts after a contact moved", 1000 * ours, unit="ms")
    report("the same by ngspice, as a process", 1000 * theirs, unit="ms")
    report("ours as a share of that", ours / theirs, 1 / 50, "")


def bench_actions() -> None:
    """Print what an action costs until all is at rest, one motor after the other."""
    from jobs import mixed_brief_of

    from riktig.live.currents import snapshot, state_of
    from riktig.live.simulation import Simulation

    plan = _plan(mixed_brief_of(100))
    start = time.perf_counter()
    live = Simulation(plan)
    report(f"100 mixed starters, {live.network.count} nodes: switched on", time.perf_counter() - start)
    of_kind = {device.id: device for device in plan.circuit.devices if device.kind == "pushbutton"}
    for role in ("SB", "SX"):
        for name, device in of_kind.items():
            if device.role == role:
                for verb in ("press", "release"):
                    live.act(name, verb)
                    live.rest()
    times, starts = [], [name for name, device in of_kind.items() if device.role == "S1"]
    for name in starts:
        start = time.perf_counter()
        live.act(name, "press")
        live.rest()
        times.append(time.perf_counter() - start)
        live.act(name, "release")
        live.run(8)
    running = sum(gear.device.kind == "motor" and "stopped" not in gear.states for gear in live.gears.values())
    report(
        f"an action to the new rest, median of {len(times)} ({running} motors run)",
        1000 * statistics.median(times),
        20,
        "ms",
    )
    report("the longest of them", 1000 * max(times), unit="ms")
    times = []
    for _ in range(9):
        start = time.perf_counter()
        state_of(snapshot(live))
        times.append(time.perf_counter() - start)
    report("the state of every terminal for a picture", 1000 * statistics.median(times), 50, "ms")


def bench_pictures() -> None:
    """Print what one picture of the demo costs while it runs: volts, currents, what is laid over the sheet."""
    from riktig.drawings.circuit.live import live_overlay
    from riktig.drawings.sheet_set import draw_sheets
    from riktig.live.player import Player

    plan = _demo()
    player = Player(plan)
    for device in ("E1.SB", "M2.S1", "M1.S1", "M3.S1", "M6.S1"):
        player.touch(device)
        player.let_go(device)
    sheet = max((s for s in draw_sheets(plan) if s.chapter == "Power circuit"), key=lambda s: len(s.items))
    terminal_of = {f"net:{p.number}": p.net.terminals[0] for p in plan.potentials}
    times = []
    for _ in range(40):
        start = time.perf_counter()
        player.run(0.05)
        live_overlay(sheet, player.state_at(), terminal_of)
        times.append(time.perf_counter() - start)
    report("demo, a picture while motors run", 1000 * statistics.median(times), 50, "ms")


def bench_window() -> None:
    """Print how large panels are switched on in the window, and how many pictures a second it paints while ten motors run."""
    from jobs import mixed_brief_of
    from window import Turns, application, close_window, open_window

    application()
    for count in (100, 200):
        shell = open_window(f"live-{count}", mixed_brief_of(count))
        shell.show_stage("circuit")
        bench, turns = shell.bench("circuit"), Turns()
        for _ in range(200):
            application().processEvents()
        start = time.perf_counter()
        turns.take(bench.live.click)
        while not bench.live_bar.runs.isChecked():
            turns.take()
        report(f"{count} mixed starters: switched on in the window", time.perf_counter() - start)
        report("the window's longest turn meanwhile", 1000 * turns.clock, 200, "ms")
        _start_ten(bench, shell.session.bundle.plan)
        _count_pictures(bench, count)
        close_window(shell)


def _start_ten(bench: Any, plan: Any) -> None:
    """Press what enables, then ten starts, each motor with its sheet."""
    buttons = [device for device in plan.circuit.devices if device.kind == "pushbutton"]
    wanted = [d.id for role in ("SB", "SX") for d in buttons if d.role == role]
    for device in (*wanted, *[d.id for d in buttons if d.role == "S1"][:10]):
        bench.touch(device)
        bench.let_go()
    name = next(
        sheet.name for sheet in bench.session.sheets if sheet.chapter == "Power circuit" and len(sheet.items) > 300
    )
    bench.show_sheet([sheet.name for sheet in bench.session.sheets].index(name))


def _count_pictures(bench: Any, count: int) -> None:
    from window import Turns, application

    turns, painted = Turns(), 0
    paint = bench.field.motors.paintEvent

    def note(event: Any) -> None:
        nonlocal painted
        painted += 1
        paint(event)

    bench.field.motors.paintEvent = note
    for _ in range(50):
        application().processEvents()
    painted, start = 0, time.perf_counter()
    while time.perf_counter() - start < 5.0:
        turns.take()
    seconds = time.perf_counter() - start
    running = sum("stopped" not in motor.states for motor in bench.field.motors.shown)
    report(
        f"{count} mixed starters, {running} motors run: ms from picture to picture",
        1000 * seconds / max(painted, 1),
        50,
        "ms",
    )
    report("the window's longest turn meanwhile", 1000 * turns.clock, 200, "ms")


def bench_hour() -> None:
    """Print how long an hour of pump cycles takes."""
    from riktig.live.scripts import play

    plan = _demo()
    script = next(script for script in plan.job.scripts if "pumped" in script.title)
    start = time.perf_counter()
    play(plan, script)
    report("demo, an hour of pump cycles and an alarm", time.perf_counter() - start, 1.0)
