"""Owns the button by which sheets are drawn: school of control circuits, symbols, tags. Must not draw."""

from functools import partial
from typing import Any

from PySide6.QtGui import QAction, QActionGroup
from PySide6.QtWidgets import QMenu, QPushButton

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.desk.messages import Edit
from riktig.drawings.shapes import symbol_set
from riktig.job.edits import change_part
from riktig.job.model import Job
from riktig.plan.changes.numbers import retag_as
from riktig.plan.sheets.allocation import school_of

_SCHOOLS = (("columns", "Control in columns"), ("rungs", "Control on rungs"))
_SYMBOLS = (("iec", "Symbols of IEC 60617"), ("nema", "Symbols of IEEE 315"))
_TAGS = (
    ("letter-number", "Tags numbered through: K1"),
    ("sheet-column", "Tags by place: K203"),
    ("number-letter", "Tags by place: 203K1"),
)


class SchoolButton(QPushButton):
    """Opens a menu of three choices; each is an edit of the shop's practice."""

    def __init__(self, session: Session) -> None:
        super().__init__(tr("Drawn as"))
        self.setObjectName("chip")
        self.setToolTip(tr("How sheets are drawn and devices tagged; what a person or a release holds stays"))
        self._session = session
        menu = QMenu(self)
        self.choices: dict[str, QAction] = {}
        for kind, offered in (("drawing", _SCHOOLS), ("symbols", _SYMBOLS), ("tags", _TAGS)):
            group = QActionGroup(self)
            for value, words in offered:
                action = QAction(tr(words), self)
                action.setCheckable(True)
                action.triggered.connect(lambda _=False, kind=kind, value=value: self._choose(kind, value))
                group.addAction(action)
                menu.addAction(action)
                self.choices[f"{kind} {value}"] = action
            menu.addSeparator()
        self.setMenu(menu)

    def show_job(self, job: Job) -> None:
        """Tick what the job follows now."""
        now = {
            f"drawing {school_of(job).value}",
            f"symbols {symbol_set(job).value}",
            f"tags {job.practice.tags}",
        }
        for key, action in self.choices.items():
            action.setChecked(key in now)

    def _choose(self, kind: str, value: str) -> None:
        if kind == "tags":
            self._session.apply(partial(retag_as, school=value), tr("tags given out afresh"))
        else:
            self._session.apply(_edit_of(kind, value), f"{kind}: {value}")


def _edit_of(kind: str, value: str) -> Edit:
    changes: dict[str, Any] = {kind: value}
    return partial(change_part, field="practice", **changes)
