"""Owns the margin: what the selected thing is, why it has its values, and the findings about it."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from riktig.app.finding_list import GRADES, MOST, PANEL, FindingList
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.dressing import scrolled_apart, wear_apart
from riktig.app.turns import Turns
from riktig.app.value_card import ValueCard
from riktig.app.widgets import button, clear_layout, label, scrolled
from riktig.checks.finding import SEVERITIES, Finding

if TYPE_CHECKING:
    from riktig.plan.answers.explain import Explanation
    from riktig.plan.answers.lookup import Description, Lookup
    from riktig.plan.basis.sized import SizedValue
    from riktig.plan.plan import Plan

MARGIN_WIDTH = 268
COMPLIANCE = "compliance"
_MOST_FACTS = 14
_OPEN_AT_MOST = 1
"""With more values than this their cards stand closed."""
_CARDS_OF_A_TURN = 3
"""How many cards are made anew before the window paints and listens: to lay out the words of many takes longer than a blink."""


def explain_values(plan: "Plan", values: "Sequence[SizedValue]") -> "tuple[Explanation, ...]":
    """Return what is to be said of values; asked of the worker, which has the catalogue loaded."""
    from riktig.plan.answers.explain import explain_all

    return explain_all(plan, values)


def _is_alike(one: "Description", other: "Description") -> bool:
    """Return whether two descriptions have the same rows: what differs are texts of facts and values."""

    def rows(described: "Description") -> tuple[object, ...]:
        names = tuple(name for name, _ in described.facts)
        return described.title, described.subtitle, names, described.facts_first, tuple(v.key for v in described.values)

    return rows(one) == rows(other)


class Margin(QFrame):
    """The right side of the window."""

    def __init__(self, session: Session, hub: Hub) -> None:
        super().__init__()
        self.setFixedWidth(MARGIN_WIDTH)
        self._session = session
        self._hub = hub
        self._opened: set[str] = set()
        self._facts: list[QLabel] = []
        self._cards: list[ValueCard] = []
        self._described: Description | None = None
        self._explained: Sequence[Explanation] | None = None
        """What there is to say of the values of what is described, None until the worker has told."""
        self._ref = ""
        self._lookup: Lookup | None = None
        self._about: tuple[Finding, ...] | None = None
        self._turn = QTimer(self)
        """What is beside the bench is shown in a turn of its own, behind it."""
        self._turn.setSingleShot(True)
        self._turn.setInterval(0)
        self._turn.timeout.connect(self._show_again)
        self._renewal = Turns(self._renew_cards, self)
        self._besides: dict[QWidget, QWidget] = {}
        """What benches put at the top, each with what holds it there."""
        self._top, self._above, self._below = QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self._findings = FindingList()
        self._findings.chosen.connect(hub.select)
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(14, 12, 10, 12)
        column.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._column = column
        for part in (self._top, self._above):
            column.addLayout(part)
        column.addWidget(self._findings)
        column.addLayout(self._below)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        edge = QFrame()
        edge.setObjectName("margin")
        edge.setFixedWidth(1)
        self._area = scrolled_apart(scrolled(holder))
        wear_apart(self, self._findings)
        layout.addWidget(edge)
        layout.addWidget(self._area)

    def show_beside(self, widget: QWidget | None) -> None:
        """Let something of the open bench stand at the top in place of that of another; it hides itself where it is not wanted."""
        for holder in self._besides.values():
            holder.hide()
        if widget is None:
            return
        if widget not in self._besides:
            self._besides[widget] = holder = QWidget()
            column = QVBoxLayout(holder)
            column.setContentsMargins(0, 0, 0, 0)
            is_hidden = widget.isHidden()
            column.addWidget(widget)
            widget.setHidden(is_hidden)
            self._column.insertWidget(0, holder)
        self._besides[widget].show()

    def show_job(self, lookup: "Lookup") -> None:
        """Take over what follows from the Job now."""
        is_first, self._lookup = self._lookup is None, lookup
        if is_first or self._hub.selection:
            self._turn.start()

    def _show_again(self) -> None:
        if self._lookup is not None:
            self.show_selection(self._hub.selection, self._lookup)

    def show_findings(self) -> None:
        """Take over what the rules find now, where it is shown and differs."""
        ref, lookup = self._hub.selection, self._lookup
        if lookup is not None and self._findings_about(lookup.describe(ref) if ref else None) != self._about:
            self.show_selection(ref, lookup)

    def forget(self) -> None:
        """Show nothing: another job is opened."""
        self._turn.stop()
        self._lookup, self._about = None, None
        self._describe(None)
        for part in (self._above, self._below):
            clear_layout(part)
        self._findings.show_findings((), {})

    def _findings_about(self, described: "Description | None") -> tuple[Finding, ...]:
        found = self._session.findings
        return found if described is None else tuple(f for f in found if f.subject in described.subjects)

    def show_selection(self, ref: str, lookup: "Lookup") -> None:
        """Say what the selection is and what is found about it, or how much is found in all where nothing is selected."""
        self._turn.stop()
        if ref != self._ref:
            self._ref = ref
            self._area.verticalScrollBar().setValue(0)
        described = lookup.describe(ref) if ref else None
        about = self._findings_about(described)
        self._about = about if about or not self._is_judging else None
        self._describe(described)
        for part in (self._above, self._below):
            clear_layout(part)
        if described is not None and about:
            self._show_findings(about)
        else:
            self._findings.show_findings((), {})
        if described is None:
            self._count_findings(about)
            self._add_link(tr("The panel as a whole"), partial(self._hub.select, PANEL))
        self._add_link(tr("All findings, by subject"), partial(self._hub.bench_requested.emit, COMPLIANCE))

    def _add_link(self, words: str, leads: Callable[[], None]) -> None:
        link = button(words, role="link")
        link.clicked.connect(lambda: leads())
        self._below.addWidget(link)

    def _count_findings(self, findings: tuple[Finding, ...]) -> None:
        """Say how many findings of each weight there are."""
        self._above.addWidget(label(tr("Findings"), points=4, bold=True))
        if not findings:
            words = tr("computing…") if self._is_judging else tr("Nothing to decide.")
            self._above.addWidget(label(words, role="quiet" if self._is_judging else "done"))
        for severity in SEVERITIES:
            count = sum(finding.severity is severity for finding in findings)
            if count:
                mark, _, words = GRADES[severity].partition(" ")
                self._above.addWidget(label(f"{mark} {count} {words}"))
        self._above.addWidget(label(tr("Select a thing: what is found about it stands here."), role="quiet"))

    @property
    def _is_judging(self) -> bool:
        return "findings" in self._session.stale_parts

    def _describe(self, described: "Description | None") -> None:
        """Say what the selection is; what already says that stays, so that nothing half typed is lost."""
        before, self._described = self._described, described
        if described is None or before is None or not _is_alike(before, described):
            clear_layout(self._top)
            self._renewal.stop()
            self._facts, self._cards = [], []
            if described is not None:
                self._show_description(described)
        elif described != before:
            for shown, (_, text) in zip(self._facts, described.facts, strict=False):
                if shown.text() != text:
                    shown.setText(text)
            self._renewal.start()
        if described != before:
            self._explained = None
        if described is not None and described.values:
            question = partial(explain_values, values=tuple(described.values))
            self._session.worker.ask(question, partial(self._take_explanations, described))

    def _show_description(self, described: "Description") -> None:
        self._top.addWidget(label(described.title, points=4, bold=True))
        if described.subtitle:
            self._top.addWidget(label(described.subtitle, role="quiet"))
        grid = QGridLayout()
        grid.setContentsMargins(0, 6, 0, 6)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        shown = described.facts[:_MOST_FACTS]
        self._facts = [label(text) for _, text in shown]
        for row, (name, _) in enumerate(shown):
            grid.addWidget(label(name, role="quiet"), row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(self._facts[row], row, 1)
        if len(described.facts) > len(shown):
            grid.addWidget(label(f"and {len(described.facts) - len(shown)} more", role="quiet"), len(shown), 1)
        holder = QWidget()
        holder.setLayout(grid)
        self._cards = [self._card(value) for value in described.values]
        for widget in [holder, *self._cards] if described.facts_first else [*self._cards, holder]:
            self._top.addWidget(widget)

    def _card(self, value: "SizedValue") -> ValueCard:
        """Return the card of a value; what the worker has to say of it comes in a moment."""
        is_only = self._described is not None and len(self._described.values) <= _OPEN_AT_MOST
        made = ValueCard(value, is_open=value.quantity in self._opened or is_only)
        made.place_requested.connect(self._hub.place_requested)
        made.opened.connect(self._on_card_opened)
        made.hand_set.connect(self._on_card_hand_set)
        made.computed_again.connect(self._on_card_computed_again)
        return made

    def _take_explanations(self, described: "Description", answer: "Sequence[Explanation] | None") -> None:
        if described is self._described and answer is not None and answer != self._explained:
            self._explained = answer
            self._renewal.start()

    def _renew_cards(self) -> None:
        """Put a few new cards in the place of those that say something old; stop where none is left."""
        values = self._described.values if self._described is not None else ()
        left = _CARDS_OF_A_TURN
        for place, (card, value) in enumerate(zip(self._cards, values, strict=True)):
            explained = self._explained[place] if self._explained is not None else None
            if card.value == value and explained in (None, card.explained):
                continue
            if not left:
                return
            left -= 1
            if card.value != value or card.explained is not None:
                self._cards[place] = self._card(value)
                self._top.replaceWidget(card, self._cards[place])
                card.hide()
                card.deleteLater()
            if explained is not None:
                self._cards[place].explain(explained)
        self._renewal.stop()

    def _on_card_opened(self, quantity: str, is_open: bool) -> None:
        (self._opened.add if is_open else self._opened.discard)(quantity)

    def _on_card_hand_set(self, key: str, number: float, reason: str) -> None:
        from riktig.job.overrides import override_value

        edit = partial(override_value, key=key, number=number, reason=reason)
        self._session.apply(edit, f"{key.replace('|', ' ').replace('_', ' ')} by hand")

    def _on_card_computed_again(self, key: str) -> None:
        from riktig.job.overrides import compute_value

        self._session.apply(partial(compute_value, key=key), f"{key.replace('|', ' ').replace('_', ' ')} computed")

    def _show_findings(self, findings: tuple[Finding, ...]) -> None:
        self._above.addWidget(label(tr("Findings about it"), points=4, bold=True))
        bundle = self._session.bundle
        self._findings.show_findings(findings, bundle.plan.tags if bundle is not None else {})
        if len(findings) > MOST:
            rest = f"and {len(findings) - MOST} more: {tr('mend these first')}"
            self._below.addWidget(label(rest, role="quiet"))
        words = tr("Values are an aid: the local code and a competent person decide.")
        self._below.addWidget(label(words, role="quiet"))
