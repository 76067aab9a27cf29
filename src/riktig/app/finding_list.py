"""Owns findings as cards, which are written anew where they say something else, a few in a turn. Must not know the rules."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.turns import Turns
from riktig.app.widgets import button, label, set_state
from riktig.checks.finding import Finding, Severity

PANEL = "panel"
MOST = 20
AT_ONCE = 5
"""So many cards are written in one turn: as many as are seen without scrolling. To lay out the words of all takes longer than a blink."""
_FRAMES = {Severity.MUST: "bad", Severity.SHOULD: "caution", Severity.NOTE: "card"}
GRADES = {Severity.MUST: "■ must be mended", Severity.SHOULD: "▲ should be mended", Severity.NOTE: "● to know"}


class FindingList(QWidget):
    """A card for each finding, the first ones where there are many."""

    chosen = Signal(str)
    """The subject of a finding that is to be shown."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._cards: list[_FindingCard] = []
        self._waiting: list[tuple[int, Finding, str]] = []
        """What is still to be written and in which place, the last first."""
        self._turns = Turns(self._write_some, self)

    def show_findings(self, findings: Sequence[Finding], tags: Mapping[str, str]) -> None:
        """Show these, the worst first as they come; `tags` are by the id of a device."""
        shown = findings[:MOST]
        for made in self._cards[len(shown) :]:
            made.hide()
        self._waiting = [(place, finding, _link_words(finding, tags)) for place, finding in enumerate(shown)][::-1]
        self.setVisible(bool(shown))
        self._write_some()
        self._turns.start()

    def _write_some(self) -> None:
        for _ in range(min(AT_ONCE, len(self._waiting))):
            place, finding, link = self._waiting.pop()
            if place == len(self._cards):
                self._add_card()
            self._cards[place].write(finding, link)
            self._cards[place].show()
        if not self._waiting:
            self._turns.stop()

    def _add_card(self) -> None:
        made = _FindingCard()
        made.chosen.connect(self.chosen)
        self._cards.append(made)
        self._column.addWidget(made)


class _FindingCard(QFrame):
    """One finding: how grave it is, what it says, its source, and the link to its subject."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._subject = ""
        inner = QVBoxLayout(self)
        inner.setContentsMargins(10, 8, 10, 8)
        inner.setSpacing(3)
        self._grade, self._message, self._source = label(bold=True), label(), label(role="quiet")
        self._link = button("", role="link")
        self._link.clicked.connect(lambda: self.chosen.emit(self._subject))
        for widget in (self._grade, self._message, self._source, self._link):
            inner.addWidget(widget)

    def write(self, finding: Finding, link: str) -> None:
        """Say this finding; `link` are the words that lead to its subject, "" where none do."""
        self._subject = finding.subject
        self._grade.setText(tr(GRADES[finding.severity]))
        self._message.setText(finding.message)
        self._source.setText(finding.source)
        self._link.setText(link)
        self._link.setVisible(bool(link))
        set_state(self, _FRAMES[finding.severity])


def _link_words(finding: Finding, tags: Mapping[str, str]) -> str:
    subject = finding.subject
    if subject.startswith("net:"):
        return f"{tr('Show')} {tr('number')} {subject[4:]}"
    if subject in tags or subject == PANEL:
        return f"{tr('Show')} {tags.get(subject, tr('the panel'))}"
    return ""
