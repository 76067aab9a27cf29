"""Sends random real events to the real window and looks whether anything but a sentence comes of it.

`monkey.py [MINUTES] [--seed N] [--job FILE]`: clicks, drags, wheel, keys and typing on whatever is shown and enabled, on both demos or on
a job of one's own. An uncaught error, a message of Qt, half a second in which the window does nothing else or a file that does not
open again leaves with 1; the longest turn is printed. A virtual machine that is not run for a while is no fault of the window: what its
kernel says of that is told and taken off.
"""

import argparse
import faulthandler
import gc
import os
import random
import sys
import tempfile
import threading
import time
import traceback
from collections import Counter
from collections.abc import Callable
from functools import partial
from importlib.resources import files
from pathlib import Path
from types import TracebackType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="riktig-monkey-")

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, qInstallMessageHandler  # noqa: E402
from PySide6.QtGui import QKeyEvent, QWheelEvent  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QWidget  # noqa: E402
from shiboken6 import isValid  # noqa: E402

from riktig.app.idle import IdleCollector  # noqa: E402
from riktig.app.main import make_application  # noqa: E402
from riktig.app.shell import Shell  # noqa: E402
from riktig.app.theme.theme import Variant, apply_theme, load_theme  # noqa: E402
from riktig.files.brief_reader import parse_brief  # noqa: E402
from riktig.files.job_file import JobFile  # noqa: E402

KEYS = (
    Qt.Key.Key_Tab, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Up, Qt.Key.Key_Down,
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Space, Qt.Key.Key_Plus, Qt.Key.Key_Minus,
)  # fmt: skip
SHORTCUTS = ((Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier), (Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier),
             (Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier), (Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier),
             (Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier))  # fmt: skip
STAGES = "1234567890-"
WORDS = (
    "4",
    "0",
    "-1",
    "1e9",
    "2,5",
    "Q9",
    "K1:13-14",
    "C1+ > K1:coil > C1-",
    "ü",
    "x" * 200,
    "L1 L2 L3 > M9",
    "  ",
    "nan",
    "=1+1",
)
QUIET = ("This plugin does not support", "not accepted by receiving widget")
"""What the offscreen platform says of itself, and Qt's test library of a mouse move that nobody wanted."""
AT_LEAST_S = 0.001
FREEZE_S = 0.5
"""So long the window may do nothing else."""
LOOK_S = 0.25
"""From so long a turn on it is looked where the window is."""


class Watch(threading.Thread):
    """Looks where the window's thread is while one of its turns takes long."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self._thread, self._since = threading.get_ident(), 0.0
        self._seen: Counter[str] = Counter()
        self._collecting, self._began = 0.0, 0.0
        self._stolen = _stolen_s()
        gc.callbacks.append(self._note_collection)

    def _note_collection(self, phase: str, _info: object) -> None:
        if phase == "start":
            self._began = time.perf_counter()
        else:
            self._collecting += time.perf_counter() - self._began

    def begin(self) -> None:
        """Take note that a turn begins."""
        self._stolen = _stolen_s()
        self._seen, self._collecting, self._since = Counter(), 0.0, time.perf_counter()

    def taken(self) -> float:
        """Return for how many seconds since the turn began one of the processors was not run by its host, the one of which that is most."""
        return max(now - before for now, before in zip(_stolen_s(), self._stolen, strict=True))

    def where(self) -> str:
        """Return where the last turn was most of its time."""
        words = " < ".join(words for words, _ in self._seen.most_common(6)) or "in Qt"
        return f"{words}; {self._collecting:.2f} s of it tidying the heap"

    def run(self) -> None:
        """Look, every twentieth of a second."""
        while True:
            time.sleep(0.05)
            if time.perf_counter() - self._since > LOOK_S:
                stack = traceback.extract_stack(sys._current_frames().get(self._thread))
                self._seen.update({f"{Path(f.filename).stem}.{f.name}" for f in stack if "riktig" in f.filename})


def _stolen_s() -> list[float]:
    """Return for how many seconds the host of a virtual machine has not run each processor though it had work (proc(5), `stat`)."""
    lines = (line.split() for line in Path("/proc/stat").read_text().splitlines())
    return [int(words[8]) / os.sysconf("SC_CLK_TCK") for words in lines if words[0][:3] == "cpu" and words[0] != "cpu"]


class Monkey:
    """What went wrong so far, and what it does next."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)
        self.wrong: Counter[str] = Counter()
        self.longest, self.cause, self.done = (0.0, 0.0, 0.0), "", 0
        self._last = ""
        self._watch = Watch()
        self._watch.start()

    def note_error(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Take an uncaught error."""
        frame = traceback.extract_tb(trace)[-1]
        words = f"{kind.__name__}: {error} at {Path(frame.filename).name}:{frame.lineno}"
        if words not in self.wrong:
            traceback.print_exception(kind, error, trace)
        self.wrong[words] += 1

    def note_message(self, _kind: object, _context: object, words: str) -> None:
        """Take a message of Qt."""
        if not any(known in words for known in QUIET):
            print(f"Qt: {words}", flush=True)
            self.wrong[f"Qt: {words}"] += 1

    def act(self, shell: Shell) -> None:
        """Do one thing that a hand could do, and let the window answer."""
        chance = self.chance
        if chance.random() < 0.05:
            stage = chance.choice(STAGES)
            self._last = f"Alt+{stage}"
            self._turn(lambda: QTest.keyClick(shell, stage, Qt.KeyboardModifier.AltModifier))
        elif chance.random() < 0.1:
            key, modifier = chance.choice(SHORTCUTS)
            self._last = f"Ctrl+{key.name}"
            self._turn(lambda: QTest.keyClick(shell, key, modifier))
        else:
            self._touch(chance.choice(_reachable(shell)))
        self.done += 1

    def _turn(self, event: Callable[[], object]) -> None:
        """Send one event, let the window answer it, and look how long that takes."""
        self._watch.begin()
        start, busy = time.perf_counter(), time.thread_time()
        event()
        QApplication.processEvents()
        clock, busy = time.perf_counter() - start, time.thread_time() - busy
        if clock > min(FREEZE_S, self.longest[0]):
            taken = min(clock, self._watch.taken())
            self.longest, self.cause = max((self.longest, self.cause), ((clock - taken, busy, taken), self._last))
            if clock - taken > FREEZE_S:
                words = f"{clock:.2f} s, {busy:.2f} of it of the processor and {taken:.2f} taken by the host, for {self._last}"
                self.wrong[f"{words}: {self._watch.where()}"] += 1

    def _touch(self, widget: QWidget) -> None:
        chance = self.chance
        if not isValid(widget):  # a list that was made anew while it was looked through
            return
        at = QPoint(chance.randrange(max(1, widget.width())), chance.randrange(max(1, widget.height())))
        button = Qt.MouseButton.LeftButton
        choice = chance.randrange(8)
        self._last = f"{choice} on {type(widget).__name__} {widget.accessibleName() or widget.objectName()}"
        if choice < 3:
            self._turn(lambda: QTest.mouseClick(widget, button, pos=at))
        elif choice == 3:
            self._turn(lambda: QTest.mouseDClick(widget, button, pos=at))
        elif choice == 4:
            for act, to in (
                (QTest.mousePress, at),
                (QTest.mouseMove, at + QPoint(chance.randint(-80, 80), chance.randint(-80, 80))),
                (QTest.mouseRelease, at + QPoint(chance.randint(-80, 80), chance.randint(-80, 80))),
            ):
                if isValid(widget):
                    self._turn(partial(act, widget, *(() if act is QTest.mouseMove else (button,)), pos=to))
        elif choice == 5:
            self._turn(lambda: QTest.keyClick(widget, chance.choice(KEYS)))
        elif choice == 6:
            for letter in chance.choice(WORDS):  # QTest types ASCII only
                for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    target = QApplication.focusWidget() or widget
                    if isValid(target):
                        event = QKeyEvent(kind, Qt.Key.Key_unknown, Qt.KeyboardModifier.NoModifier, letter)
                        self._turn(partial(QApplication.sendEvent, target, event))
        else:
            turned = QPoint(0, chance.choice((-120, 120)))
            wheel = QWheelEvent(
                QPointF(at), QPointF(widget.mapToGlobal(at)), QPoint(), turned, Qt.MouseButton.NoButton,
                Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            self._turn(lambda: QApplication.sendEvent(widget, wheel))


def _reachable(shell: Shell) -> list[QWidget]:
    """Return what is shown and enabled; a dialog or menu that is open comes before the window."""
    front = QApplication.activePopupWidget() or QApplication.activeModalWidget() or shell
    inside = [
        w for w in front.findChildren(QWidget) if w.isVisible() and w.isEnabled() and not w.visibleRegion().isEmpty()
    ]
    return inside or [front]


def play(path: Path, seconds: float, seed: int) -> Monkey:
    """Play on a job file for some seconds; what went wrong is in what comes back."""
    monkey = Monkey(seed)
    sys.excepthook = monkey.note_error
    qInstallMessageHandler(monkey.note_message)
    shell = Shell()
    IdleCollector(shell.session, shell)
    shell.resize(1280, 800)
    shell.show()
    shell.files.open_path(path)
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        monkey.act(shell)
        if not shell.isVisible():
            shell.show()
        if monkey.chance.random() < 0.02:
            QTest.qWait(200)
    for top in QApplication.topLevelWidgets():
        if top is not shell:
            top.close()
    shell.close()
    patience = time.monotonic() + 60
    while shell.isVisible() and time.monotonic() < patience:
        QApplication.processEvents()
        time.sleep(AT_LEAST_S)
    try:
        with JobFile.open(path, read_only=True) as file:
            file.load_job(), file.events()
    except ValueError as error:
        monkey.wrong[f"the file does not open again: {error}"] += 1
    return monkey


def main() -> int:
    """Play; return 1 if something went wrong."""
    parser = argparse.ArgumentParser(prog="./run monkey", description=__doc__)
    parser.add_argument("minutes", type=float, nargs="?", default=3.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--job", type=Path)
    given = parser.parse_args()
    faulthandler.enable()
    QFileDialog.getOpenFileName = QFileDialog.getSaveFileName = lambda *_, **__: ("", "")  # type: ignore[method-assign,assignment]
    QFileDialog.getExistingDirectory = lambda *_, **__: ""  # type: ignore[method-assign,assignment]
    QInputDialog.getText = lambda *_, **__: ("", False)  # type: ignore[method-assign,assignment]
    application = make_application([])
    apply_theme(application, load_theme(Variant.LIGHT))
    room, paths = Path(os.environ["XDG_DATA_HOME"]), []
    for world in ("iec", "ul") if given.job is None else ():
        paths.append(room / f"{world}.riktig")
        text = files("riktig").joinpath("demos", f"{world}.toml").read_text(encoding="utf-8")
        JobFile.create(paths[-1], parse_brief(text)).close()
    if given.job is not None:
        paths = [room / given.job.name]
        paths[0].write_bytes(given.job.read_bytes())
    failed = False
    for path in paths:
        monkey = play(path, 60 * given.minutes / len(paths), given.seed)
        own, busy, taken = (round(1000 * seconds) for seconds in monkey.longest)
        longest = (
            f"longest turn {own} ms, {busy} ms of the processor, {taken} ms more taken by the host ({monkey.cause})"
        )
        print(f"{path.name}: {monkey.done} events, {longest}, {len(monkey.wrong)} sorts of wrong")
        for words, count in monkey.wrong.most_common():
            print(f"    {count} times {words[:500]}")
        failed = failed or bool(monkey.wrong)
    return int(failed)


if __name__ == "__main__":
    sys.exit(main())
