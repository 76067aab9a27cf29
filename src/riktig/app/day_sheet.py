"""Owns the day sheet: the stages in working order, each with one line of live status."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QPushButton, QVBoxLayout

from riktig.app.text import tr
from riktig.app.widgets import button, label

if TYPE_CHECKING:
    from riktig.checks.finding import Finding
    from riktig.desk.bundle import Bundle
    from riktig.record.progress import Progress

DAY_SHEET_WIDTH = 172


@dataclass(frozen=True, slots=True)
class Stage:
    """A stage: its key, its name, the key that goes to it with Alt, and the part of the Plan that it shows."""

    key: str
    name: str
    shortcut: str
    part: str


STAGES = (
    Stage("brief", "Brief", "1", "findings"),
    Stage("circuit", "Circuit", "2", "sheets"),
    Stage("plate", "Plate", "3", "bundle"),
    Stage("door", "Door", "4", "bundle"),
    Stage("wires", "Wires", "5", "bundle"),
    Stage("terminals", "Terminals", "6", "bundle"),
    Stage("labels", "Labels", "7", "bundle"),
    Stage("compliance", "Compliance", "8", "findings"),
    Stage("build", "Build", "9", "work"),
    Stage("test", "Test", "0", "work"),
)


class DaySheet(QFrame):
    """The left side of the window."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("day-sheet")
        self.setFixedWidth(DAY_SHEET_WIDTH)
        self._group = QButtonGroup(self)
        self._buttons: dict[str, QPushButton] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 10, 0, 10)
        layout.setSpacing(2)
        for stage in STAGES:
            made = button("", role="stage", tip=f"Alt+{stage.shortcut}")
            made.setCheckable(True)
            made.setMinimumHeight(58)
            made.clicked.connect(lambda _=False, key=stage.key: self.chosen.emit(key))
            self._group.addButton(made)
            self._buttons[stage.key] = made
            layout.addWidget(made)
        layout.addStretch()
        caution = label(tr("Work dead. Lock off.\nProve dead."), role="attention", bold=True)
        caution.setContentsMargins(16, 0, 8, 4)
        layout.addWidget(caution)
        self._status: dict[str, str] = {}
        self._stale: frozenset[str] = frozenset()
        self._write()

    def show_status(self, status: dict[str, str]) -> None:
        """Show one line for each stage, by stage key."""
        self._status = status
        self._write()

    def mark_stale(self, parts: frozenset[str]) -> None:
        """Show which stages are older than the newest edit, by the parts that are still computed."""
        if parts != self._stale:
            self._stale = parts
            self._write()

    def _write(self) -> None:
        for stage in STAGES:
            line = tr("computing…") if stage.part in self._stale else self._status.get(stage.key, "")
            text = f"{tr(stage.name)}\n{line}"
            self._buttons[stage.key].setText(text)
            self._buttons[stage.key].setAccessibleName(f"{tr(stage.name)}, {line}")

    def choose(self, key: str) -> None:
        """Show which stage is open."""
        self._buttons[key].setChecked(True)


def _found_words(findings: "tuple[Finding, ...]") -> str:
    """Return how many findings must and should be mended, and only where none must or should how many are waived: the line is short."""
    must = sum(f.severity.value == "must" for f in findings)
    should = sum(f.severity.value == "should" for f in findings)
    waived = sum(bool(f.waived) for f in findings)
    words = ", ".join(filter(None, (f"{must} must" if must else "", f"{should} should" if should else "")))
    return words or (f"{waived} waived" if waived else tr("nothing to mend"))


def status_words(
    bundle: "Bundle",
    findings: "tuple[Finding, ...]",
    progress: "Progress",
    passing: tuple[int, int] | None = None,
    printed: int = 0,
) -> dict[str, str]:
    """Return the line of live status of each stage, by its key; `passing` are how many kept scripts pass, and how many there are, `printed`
    how many labels are printed.
    """
    plan = bundle.plan
    decide = sum(f.severity.value != "note" for f in findings)
    done, total = progress.wires_done()
    failed = sum(not verdict for verdict in progress.verdicts.values())
    passed = sum(progress.verdicts.values())
    return {
        "brief": f"{decide} to decide" if decide else tr("nothing to decide"),
        "circuit": f"{passing[0]} of {passing[1]} scripts pass" if passing else f"{len(plan.potentials)} numbers",
        "plate": f"{round(100 * plan.plate.height_used / plan.plate.height)} % of the height",
        "door": f"{len(plan.door.cutouts)} cut-outs",
        "wires": f"{done} of {total} wires",
        "terminals": f"{len(plan.clamps)} terminals",
        "labels": f"{printed} printed" if printed else tr("none printed"),
        "compliance": _found_words(findings),
        "build": f"{len(progress.done)} of {len(progress.operations)} steps",
        "test": f"✓ {passed}  ✗ {failed}  of {len(progress.testing.steps)}",
    }
