"""Owns the margin: what the selected thing is, why it has its values, and the findings about it."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from riktig.app.hub import Hub
from riktig.app.text import tr
from riktig.app.widgets import button, card, clear_layout, label, scrolled
from riktig.app.worker_process import Bundle
from riktig.checks.finding import Finding, Severity

if TYPE_CHECKING:
    from riktig.plan.lookup import Description, Lookup
    from riktig.plan.sizing import SizedValue

MARGIN_WIDTH = 268
_FRAMES = {Severity.MUST: "bad", Severity.SHOULD: "caution", Severity.NOTE: "card"}
_WORDS = {Severity.MUST: "■ must be mended", Severity.SHOULD: "▲ should be mended", Severity.NOTE: "● to know"}
_MOST_FACTS = 14
_MOST_FINDINGS = 20


class Margin(QFrame):
    """The right side of the window."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.setObjectName("margin")
        self.setFixedWidth(MARGIN_WIDTH)
        self._hub = hub
        self._bundle: Bundle | None = None
        self._column = QVBoxLayout()
        self._column.setContentsMargins(14, 12, 10, 12)
        self._column.setAlignment(Qt.AlignmentFlag.AlignTop)
        holder = QWidget()
        holder.setLayout(self._column)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(holder))

    def show_job(self, bundle: Bundle, lookup: "Lookup") -> None:
        """Take over what follows from the Job now."""
        self._bundle = bundle
        self.show_selection(self._hub.selection, lookup)

    def show_selection(self, ref: str, lookup: "Lookup") -> None:
        """Say what the selection is, or list all findings when nothing is selected."""
        if self._bundle is None:
            return
        clear_layout(self._column)
        described = lookup.describe(ref) if ref else None
        if described is None:
            self._show_findings(tr("Findings"), self._bundle.findings)
            return
        self._show_description(described)
        about = [f for f in self._bundle.findings if f.subject in described.subjects]
        if about:
            self._show_findings(tr("Findings about it"), tuple(about))
        everything = button(tr("All findings"), role="link")
        everything.clicked.connect(lambda: self._hub.select(""))
        self._column.addWidget(everything)

    def _show_description(self, described: "Description") -> None:
        self._column.addWidget(label(described.title, points=4, bold=True))
        if described.subtitle:
            self._column.addWidget(label(described.subtitle, role="quiet"))
        grid = QGridLayout()
        grid.setContentsMargins(0, 6, 0, 6)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        shown = described.facts[:_MOST_FACTS]
        for row, (name, text) in enumerate(shown):
            grid.addWidget(label(name, role="quiet"), row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(label(text), row, 1)
        if len(described.facts) > len(shown):
            grid.addWidget(label(f"and {len(described.facts) - len(shown)} more", role="quiet"), len(shown), 1)
        holder = QWidget()
        holder.setLayout(grid)
        cards = [_value_card(value) for value in described.values]
        for widget in [holder, *cards] if described.facts_first else [*cards, holder]:
            self._column.addWidget(widget)

    def _show_findings(self, heading: str, findings: tuple[Finding, ...]) -> None:
        self._column.addWidget(label(heading, points=4, bold=True))
        if not findings:
            self._column.addWidget(label(tr("Nothing to decide."), role="done"))
        for finding in findings[:_MOST_FINDINGS]:
            self._column.addWidget(self._finding_card(finding))
        if len(findings) > _MOST_FINDINGS:
            rest = f"and {len(findings) - _MOST_FINDINGS} more: {tr('mend these first, or list all with riktig check')}"
            self._column.addWidget(label(rest, role="quiet"))
        words = tr("Values are an aid: the local code and a competent person decide.")
        self._column.addWidget(label(words, role="quiet"))

    def _finding_card(self, finding: Finding) -> QFrame:
        inner = QVBoxLayout()
        inner.setContentsMargins(10, 8, 10, 8)
        inner.setSpacing(3)
        inner.addWidget(label(tr(_WORDS[finding.severity]), bold=True))
        inner.addWidget(label(finding.message))
        inner.addWidget(label(finding.source, role="quiet"))
        if self._bundle is not None and finding.subject in self._bundle.plan.tags:
            go = button(f"{tr('Show')} {self._bundle.plan.tags[finding.subject]}", role="link")
            go.clicked.connect(lambda: self._hub.select(finding.subject))
            inner.addWidget(go)
        return card(inner, _FRAMES[finding.severity])


def _value_card(value: "SizedValue") -> QFrame:
    """Return a card with a value, its formula with the numbers put in, and its source."""
    inner = QVBoxLayout()
    inner.setContentsMargins(10, 8, 10, 8)
    inner.setSpacing(3)
    text = str(value.inputs["size"]) if "size" in value.inputs else f"{value.value:.4g} {value.unit}"
    inner.addWidget(label(value.quantity.replace("_", " "), role="quiet"))
    inner.addWidget(label(text, points=4, bold=True))
    inner.addWidget(label(value.formula))
    inner.addWidget(label(value.source, role="quiet"))
    return card(inner)
