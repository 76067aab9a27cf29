"""Owns the page of contacts: for each device what is used, free and overbooked, and the mend."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, card, clear_layout, label, scrolled
from riktig.job.edits import ask_for_next_free, give_part
from riktig.plan.answers.contact_use import ContactUse, list_contact_uses
from riktig.plan.plan import Plan

_MOST = 60
"""Devices shown at once; the filter finds the rest."""


class ContactsPage(QWidget):
    """One line for each device: a filled square for a contact in use, an empty one for a free one."""

    selected = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._uses: tuple[ContactUse, ...] = ()
        self.filter = QLineEdit()
        self.filter.setPlaceholderText(tr("Tag or words; empty shows all"))
        self.filter.setAccessibleName(tr("Filter of contacts"))
        self.filter.textChanged.connect(lambda _: self._refresh())
        self.summary = label("", role="quiet")
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(6)
        holder = QWidget()
        outer = QVBoxLayout(holder)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addLayout(self._column)
        outer.addStretch()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 8, 0)
        layout.addWidget(self.filter)
        layout.addWidget(self.summary)
        layout.addWidget(scrolled(holder), 1)

    def show_plan(self, plan: Plan) -> None:
        """Show how far the contacts of every device are used."""
        uses = list_contact_uses(plan)
        if uses != self._uses:
            self._uses = uses
            self._refresh()

    def _refresh(self) -> None:
        words = self.filter.text().lower().split()
        found = [u for u in self._uses if all(w in f"{u.tag} {u.title}".lower() for w in words)]
        over = sum(bool(u.missing or u.doubled) for u in self._uses)
        free = sum(len(u.free) for u in self._uses)
        self.summary.setText(
            f"{len(self._uses)} {tr('devices')}  ·  {free} {tr('contacts free')}  ·  {over} {tr('overbooked')}"
        )
        clear_layout(self._column)
        for use in found[:_MOST]:
            self._column.addWidget(self._row(use))
        if len(found) > _MOST:
            self._column.addWidget(
                label(f"{tr('and')} {len(found) - _MOST} {tr('more: type a tag above')}", role="quiet")
            )

    def _row(self, use: ContactUse) -> QFrame:
        head = QHBoxLayout()
        tag = button(use.tag, role="link")
        tag.clicked.connect(lambda _=False, device=use.device: self.selected.emit(device))
        head.addWidget(tag)
        head.addWidget(label(use.title, role="quiet"), 1)
        count = label(f"{use.used} {tr('of')} {len(use.slots)}", bold=True)
        count.setWordWrap(False)
        head.addWidget(count)
        column = QVBoxLayout()
        column.setContentsMargins(12, 6, 12, 6)
        column.setSpacing(3)
        column.addLayout(head)
        marks = "   ".join(f"{'■' if slot.used_by else '□'}\u00a0{slot.marks}" for slot in use.slots)
        squares = label(marks, mono=True)
        squares.setToolTip("\n".join(f"{slot.marks}  {slot.used_by or tr('free')}" for slot in use.slots))
        column.addWidget(squares)
        self._add_mends(use, column)
        return card(column, "bad" if use.missing or use.doubled else "card")

    def _add_mends(self, use: ContactUse, column: QVBoxLayout) -> None:
        if use.missing:
            column.addWidget(label(f"✕ {tr('too few')}: {', '.join(use.missing)}", role="danger"))
            if use.mend is not None:
                mend = button(f"{tr(use.mend.words[:1].upper() + use.mend.words[1:])}")
                mend.clicked.connect(partial(self._give_part, use.device, use.mend.code))
                column.addWidget(mend)
        for double in use.doubled:
            column.addWidget(label(f"✕ {double.marks} {tr('is used twice, again in')} {double.path}", role="danger"))
            free = next((slot.marks for slot in use.free if slot.sort == double.sort), None)
            words = (
                f"{tr('Take the next free contact')} {free}"
                if free
                else tr("Take the next free contact of a larger part")
            )
            mend = button(words)
            mend.clicked.connect(partial(self._take_free, use.device, double.marks, double.path, double.sort))
            column.addWidget(mend)

    def _give_part(self, device: str, code: str, _: bool = False) -> None:
        self._session.apply(partial(give_part, device=device, code=code), f"{device}: {code}")

    def _take_free(self, device: str, marks: str, path: str, sort: str, _: bool = False) -> None:
        edit = partial(ask_for_next_free, row=path, element=f"{device}:{marks}", sort=sort)
        self._session.apply(edit, f"{path}: next free contact")
