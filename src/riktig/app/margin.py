"""Owns the margin: what the selected thing is, why it has its values, and the findings about it."""

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from riktig.app.finding_list import MOST, PANEL, FindingList
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.value_card import ValueCard
from riktig.app.widgets import button, clear_layout, label, scrolled
from riktig.checks.finding import Finding

if TYPE_CHECKING:
    from riktig.plan.answers.explain import Explanation
    from riktig.plan.answers.lookup import Description, Lookup
    from riktig.plan.basis.sized import SizedValue
    from riktig.plan.plan import Plan

MARGIN_WIDTH = 268
_MOST_FACTS = 14
_OPEN_AT_MOST = 1
"""With more values than this their cards stand closed."""


def explain_values(plan: "Plan", values: "Sequence[SizedValue]") -> "tuple[Explanation, ...]":
    """Return what is to be said of values; asked of the worker, which has the catalogue loaded."""
    from riktig.plan.answers.explain import explain_all

    return explain_all(plan, values)


class Margin(QFrame):
    """The right side of the window."""

    def __init__(self, session: Session, hub: Hub) -> None:
        super().__init__()
        self.setObjectName("margin")
        self.setFixedWidth(MARGIN_WIDTH)
        self._session = session
        self._hub = hub
        self._opened: set[str] = set()
        self._shown: tuple[ValueCard, ...] = ()
        self._described: Description | None = None
        self._explained: Sequence[Explanation] | None = None
        """What the cards that are shown say of their values, None until the worker has told."""
        self._ref = ""
        self._lookup: Lookup | None = None
        self._about: tuple[Finding, ...] | None = None
        self._turn = QTimer(self)
        """What is beside the bench is shown in a turn of its own, behind it."""
        self._turn.setSingleShot(True)
        self._turn.setInterval(0)
        self._turn.timeout.connect(self._show_again)
        self._top, self._above, self._below = QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self._findings = FindingList()
        self._findings.chosen.connect(hub.select)
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(14, 12, 10, 12)
        column.setAlignment(Qt.AlignmentFlag.AlignTop)
        for part in (self._top, self._above):
            column.addLayout(part)
        column.addWidget(self._findings)
        column.addLayout(self._below)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self._area = scrolled(holder)
        layout.addWidget(self._area)

    def show_job(self, lookup: "Lookup") -> None:
        """Take over what follows from the Job now; a list of all findings stays until the new ones are there."""
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
        """Say what the selection is, or list all findings when nothing is selected."""
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
        if described is None or about:
            self._show_findings(tr("Findings") if described is None else tr("Findings about it"), about)
        else:
            self._findings.show_findings((), {})
        words, leads_to = (tr("The panel as a whole"), PANEL) if described is None else (tr("All findings"), "")
        link = button(words, role="link")
        link.clicked.connect(lambda: self._hub.select(leads_to))
        self._below.addWidget(link)

    @property
    def _is_judging(self) -> bool:
        return "findings" in self._session.stale_parts

    def _describe(self, described: "Description | None") -> None:
        """Say what the selection is; what already says that stays, only its explanations are asked for again."""
        if described is None or described != self._described:
            clear_layout(self._top)
            self._described, self._shown, self._explained = described, (), None
            if described is not None:
                self._show_description(described)
        if described is not None and described.values:
            question = partial(explain_values, values=tuple(described.values))
            self._session.worker.ask(question, partial(self._take_explanations, self._shown))

    def _show_description(self, described: "Description") -> None:
        self._top.addWidget(label(described.title, points=4, bold=True))
        if described.subtitle:
            self._top.addWidget(label(described.subtitle, role="quiet"))
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
        cards = self._value_cards(described.values)
        for widget in [holder, *cards] if described.facts_first else [*cards, holder]:
            self._top.addWidget(widget)

    def _value_cards(self, values: "tuple[SizedValue, ...]") -> tuple[ValueCard, ...]:
        """Return the cards of values; what the worker has to say of them comes in a moment."""
        cards = []
        for value in values:
            made = ValueCard(value, is_open=value.quantity in self._opened or len(values) <= _OPEN_AT_MOST)
            made.place_requested.connect(self._hub.place_requested)
            made.opened.connect(self._on_card_opened)
            made.hand_set.connect(self._on_card_hand_set)
            made.computed_again.connect(self._on_card_computed_again)
            cards.append(made)
        self._shown = tuple(cards)
        return self._shown

    def _take_explanations(self, cards: tuple[ValueCard, ...], answer: "Sequence[Explanation] | None") -> None:
        if cards is not self._shown or answer is None or answer == self._explained:
            return
        if self._explained is not None and self._described is not None:
            clear_layout(self._top)
            self._show_description(self._described)
        self._explained = answer
        for made, explained in zip(self._shown, answer, strict=True):
            made.explain(explained)

    def _on_card_opened(self, quantity: str, is_open: bool) -> None:
        (self._opened.add if is_open else self._opened.discard)(quantity)

    def _on_card_hand_set(self, key: str, number: float, reason: str) -> None:
        from riktig.job.overrides import override_value

        edit = partial(override_value, key=key, number=number, reason=reason)
        self._session.apply(edit, f"{key.replace('|', ' ').replace('_', ' ')} by hand")

    def _on_card_computed_again(self, key: str) -> None:
        from riktig.job.overrides import compute_value

        self._session.apply(partial(compute_value, key=key), f"{key.replace('|', ' ').replace('_', ' ')} computed")

    def _show_findings(self, heading: str, findings: tuple[Finding, ...]) -> None:
        self._above.addWidget(label(heading, points=4, bold=True))
        if not findings:
            words = tr("computing…") if self._is_judging else tr("Nothing to decide.")
            self._above.addWidget(label(words, role="quiet" if self._is_judging else "done"))
        bundle = self._session.bundle
        self._findings.show_findings(findings, bundle.plan.tags if bundle is not None else {})
        if len(findings) > MOST:
            rest = f"and {len(findings) - MOST} more: {tr('mend these first, or list all with riktig check')}"
            self._below.addWidget(label(rest, role="quiet"))
        words = tr("Values are an aid: the local code and a competent person decide.")
        self._below.addWidget(label(words, role="quiet"))
