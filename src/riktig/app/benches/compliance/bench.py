"""Owns the Compliance bench: what each rule comes to, by subject, what was found with its mend, and who waived what. Must not judge."""

from datetime import date
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QSplitter,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.canvas.view import DrawingView
from riktig.app.finding_list import GRADES
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label, scrolled
from riktig.checks.finding import SEVERITIES, Finding, Severity, miss_words
from riktig.checks.rule import Outcome, count_words
from riktig.desk.bundle import Bundle
from riktig.desk.errands import compare_yardstick, inspect, show_evidence
from riktig.drawings.display import Symbol
from riktig.job.mends import mended
from riktig.job.waiver_edits import waive, withdraw
from riktig.job.waivers import Waiver
from riktig.record.inspected import recorded_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from riktig.checks.recorded import Recorded
    from riktig.checks.rule import Judged
    from riktig.drawings.display import Drawing
    from riktig.drawings.evidence import Evidence
    from riktig.plan.answers.lookup import Lookup
    from riktig.record.progress import Progress

_MARKS = {
    Outcome.FINDING: "■", Outcome.UNKNOWN: "?", Outcome.WAIVED: "◇", Outcome.TO_KNOW: "●", Outcome.PASS: "✓", Outcome.NOT_APPLICABLE: "–",
}  # fmt: skip
_ORDER = list(Outcome)
_ROOM_MM = 22.0
"""How much of a sheet is shown around what is meant."""
LEAST_SCALE = 1.0
"""Pixels per mm below which a picture is not made to fit any more, but panned."""
_ROLE = Qt.ItemDataRole.UserRole


class ComplianceBench(Bench):
    """Rules by subject on the left, the worst first; what is chosen in words on the right, with its mend and its waiver."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._judged: tuple[Judged, ...] = ()
        self._recorded: Recorded | None = None
        self._lookup: Lookup | None = None
        self._shown: tuple[Judged, Finding | None] | None = None
        self._number = self._drawn = 0
        self.summary = label("", bold=True)
        self.which = QComboBox()
        self.which.setAccessibleName(tr("What is listed"))
        for words in (tr("What was found"), tr("All rules")):
            self.which.addItem(words)
        self.which.currentIndexChanged.connect(lambda _: self._list())
        self.yardstick = QComboBox()
        self.yardstick.setAccessibleName(tr("Judge the same job otherwise"))
        self.yardstick.setToolTip(tr("Judge the same job by another yardstick: what would have to change"))
        self.yardstick.activated.connect(self._on_yardstick_activated)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName(tr("Rules by subject"))
        self.tree.setHeaderHidden(True)
        self.tree.currentItemChanged.connect(self._on_tree_current_changed)
        self._make_side()
        head = QHBoxLayout()
        head.addWidget(self.summary, 1)
        head.addWidget(self.which)
        head.addWidget(self.yardstick)
        row = QHBoxLayout()
        row.addWidget(self.tree, 5)
        row.addWidget(self.side, 4)
        layout = QVBoxLayout(self)
        layout.addLayout(head)
        layout.addLayout(row, 1)
        layout.addWidget(
            label(
                tr("An aid, from memory of the standards: the local code and a competent person decide."),
                role="attention",
                bold=True,
            )
        )

    def _make_side(self) -> None:
        self.title = label("", points=2, bold=True)
        self.grade, self.message = label("", bold=True), label("")
        self.facts, self.how = label(""), label("", role="quiet")
        self.show_it = button(tr("Show where it is"), role="link")
        self.show_it.clicked.connect(self._on_show_it_clicked)
        self.answer = button("", role="link")
        self.answer.clicked.connect(self._on_answer_clicked)
        self.mend = button("", role="primary")
        self.mend.clicked.connect(self._on_mend_clicked)
        self.reason, self.until = QLineEdit(), QLineEdit()
        self.reason.setPlaceholderText(tr("Why it may stand, in a sentence"))
        self.reason.setAccessibleName(tr("Reason of the waiver"))
        self.until.setPlaceholderText(tr("until 2027-12-31, or empty"))
        self.until.setAccessibleName(tr("Last day of the waiver"))
        self.waive = button(tr("Waive"))
        self.waive.clicked.connect(self._on_waive_clicked)
        self.withdraw = button(tr("Withdraw the waiver"))
        self.withdraw.clicked.connect(self._on_withdraw_clicked)
        self.said = label("", role="danger")
        self._waiving = QWidget()
        ask = QVBoxLayout(self._waiving)
        ask.setContentsMargins(0, 8, 0, 0)
        row = QHBoxLayout()
        row.addWidget(self.until, 1)
        row.addWidget(self.waive)
        for part in (label(tr("Let it stand, and answer for it:"), role="quiet"), self.reason):
            ask.addWidget(part)
        ask.addLayout(row)
        self.picture = DrawingView(self.theme, tr("What was found, drawn"), least_scale=LEAST_SCALE)
        self.picture.picked.connect(self.hub.select)
        column = QVBoxLayout()
        column.setContentsMargins(14, 12, 14, 12)
        words = (self.title, self.grade, self.message, self.facts)
        for widget in (*words, self.mend, self.show_it, self.answer, self._waiving, self.withdraw, self.said, self.how):
            column.addWidget(widget)
        column.addStretch(1)
        self._words = scrolled(card(column))
        self.side = QSplitter(Qt.Orientation.Vertical)
        self.side.addWidget(self.picture)
        self.side.addWidget(self._words)
        self.side.setSizes([300, 320])
        self._show(None)

    # -- what is judged

    def set_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.theme = theme
        self.picture.set_theme(theme)

    def show_bundle(self, bundle: Bundle, lookup: "Lookup") -> None:
        """Take over the Plan for tags and for what is there."""
        self._lookup = lookup
        self._fill_yardsticks(bundle)

    def show_findings(self) -> None:
        """Ask what each rule comes to now."""
        self._number += 1
        units = (self._recorded,) if self._recorded is not None else ()
        question = partial(inspect, findings=self.session.findings, units=units)
        self.session.worker.ask(question, partial(self._take, self._number))

    def show_progress(self, progress: "Progress") -> None:
        """Judge what was built and measured too."""
        job = self.session.job
        is_issued = job is not None and job.revision is not None
        recorded = recorded_of(progress, self.session.record.unit, is_issued=is_issued)
        if recorded != self._recorded:
            self._recorded = recorded
            self.show_findings()

    def _take(self, number: int, judged: "tuple[Judged, ...] | None") -> None:
        if number == self._number and judged is not None:
            self._judged = judged
            self._list()

    def _list(self) -> None:
        said = count_words(one.outcome for one in self._judged)
        self.summary.setText(tr("{n} rules: {said}").format(n=len(self._judged), said=said))
        before = self._shown
        all_of_them = self.which.currentIndex() == 1
        shown = [one for one in self._judged if all_of_them or one.findings]
        self.tree.blockSignals(True)
        self.tree.clear()
        again = None
        for subject in sorted({one.subject for one in shown}, key=lambda name: _gravest(shown, name)):
            top = QTreeWidgetItem([subject])
            top.setFlags(Qt.ItemFlag.ItemIsEnabled)
            bold = self.tree.font()
            bold.setBold(True)
            top.setFont(0, bold)
            self.tree.addTopLevelItem(top)
            for one in sorted((one for one in shown if one.subject == subject), key=_weight):
                again = self._add_rule(top, one, before) or again
            top.setExpanded(True)
        self.tree.blockSignals(False)
        if again is not None:
            self.tree.setCurrentItem(again)
        else:
            self._show(None)

    def _add_rule(
        self, top: QTreeWidgetItem, one: "Judged", before: "tuple[Judged, Finding | None] | None"
    ) -> QTreeWidgetItem | None:
        """Add a line for a rule, with one below it for each of several findings; return that which was chosen before, if it is one."""
        words = _brief(one.findings[0]) if len(one.findings) == 1 else one.title
        many = f"  ({len(one.findings)})" if len(one.findings) > 1 else ""
        line = QTreeWidgetItem([f"{_mark(one)}  {words}{many}"])
        only = one.findings[0] if len(one.findings) == 1 else None
        line.setToolTip(0, words)
        line.setData(0, _ROLE, (one, only))
        top.addChild(line)
        items = [line]
        for finding in one.findings if len(one.findings) > 1 else ():
            below = QTreeWidgetItem([f"{GRADES[finding.severity][0]}  {_brief(finding)}"])
            below.setData(0, _ROLE, (one, finding))
            line.addChild(below)
            items.append(below)
        return next((item for item in items if before is not None and _key(item.data(0, _ROLE)) == _key(before)), None)

    # -- what is chosen

    def _on_tree_current_changed(self, item: QTreeWidgetItem | None, _: object) -> None:
        self._show(item.data(0, _ROLE) if item is not None else None)

    def _show(self, chosen: "tuple[Judged, Finding | None] | None") -> None:
        self._shown = chosen
        one, finding = chosen if chosen is not None else (None, None)
        self._draw(one, finding or (one.findings[0] if one is not None and one.findings else None))
        self.title.setText(f"{one.title}." if one is not None else tr("Choose a line on the left."))
        waived = finding.waived if finding is not None else ""
        self.grade.setText("" if finding is None else tr("◇ waived") if waived else GRADES[finding.severity])
        self.message.setText(finding.message if finding is not None else "")
        self.facts.setText(_facts(finding) if finding is not None else "")
        self.how.setText(_how(one) if one is not None else "")
        self.show_it.setVisible(finding is not None and self._is_there(finding.subject))
        self.answer.setVisible(finding is not None and "." in finding.asks)
        self.answer.setText(tr("Answer it: {key}").format(key=finding.asks) if finding is not None else "")
        mend = finding.mend if finding is not None else None
        self.mend.setVisible(mend is not None)
        self.mend.setText(tr("Mend it: {words}").format(words=mend.words) if mend is not None else "")
        self._waiving.setVisible(finding is not None and finding.severity is not Severity.NOTE)
        self.withdraw.setVisible(bool(waived) or (finding is not None and finding.rule == "waiver-idle"))
        self.said.setText("")
        for part in (self.grade, self.message, self.facts, self.said):
            part.setVisible(bool(part.text()))

    def _draw(self, one: "Judged | None", finding: Finding | None) -> None:
        """Ask for the picture of a finding, or of what a rule that is asked looked at; what was drawn before goes at once."""
        self.picture.setVisible(False)
        self._drawn += 1
        if one is not None and one.outcome is not Outcome.NOT_APPLICABLE:
            question = partial(show_evidence, rule=one.rule, subject=finding.subject if finding is not None else "")
            self.session.worker.ask(question, partial(self._take_evidence, self._drawn))

    def _take_evidence(self, number: int, found: "Evidence | None") -> None:
        if number != self._drawn or found is None:
            return
        drawing, part = found.drawing, found.part
        if drawing is None:
            drawing, part = _on_sheets(self.session.sheets, found.marks)
        self.picture.setVisible(drawing is not None)
        self.picture.show_drawing(drawing)
        self.picture.mark(found.marks)
        if part is not None:
            self.picture.show_part(*part)
        else:
            self.picture.fit()

    def _is_there(self, subject: str) -> bool:
        return self._lookup is not None and self._lookup.describe(subject) is not None

    def _on_show_it_clicked(self) -> None:
        if self._shown is not None and self._shown[1] is not None:
            self.hub.select(self._shown[1].subject)

    def _on_mend_clicked(self) -> None:
        finding = self._shown[1] if self._shown is not None else None
        if finding is not None and finding.mend is not None:
            self.session.apply(
                partial(mended, mend=finding.mend), tr("mended: {words}").format(words=finding.mend.words)
            )

    def _on_answer_clicked(self) -> None:
        if self._shown is not None and self._shown[1] is not None:
            self.hub.place_requested.emit(self._shown[1].asks)

    def _subject(self, finding: Finding) -> str:
        bundle = self.session.bundle
        return bundle.plan.tags.get(finding.subject, finding.subject) if bundle is not None else finding.subject

    def _on_waive_clicked(self) -> None:
        finding = self._shown[1] if self._shown is not None else None
        if finding is None:
            return
        try:
            until = date.fromisoformat(self.until.text().strip()) if self.until.text().strip() else None
            waiver = Waiver(
                rule=finding.rule, subject=self._subject(finding), reason=self.reason.text().strip(), until=until, date=date.today(),
                person=self.session.record.person, evidence=finding.evidence,
            )  # fmt: skip
        except ValueError as error:
            self._say(self._why_not(error))
            return
        self.session.apply(partial(waive, waiver=waiver), tr("waived"))
        self.reason.clear()
        self.until.clear()

    def _why_not(self, error: ValueError) -> str:
        if not self.session.record.person:
            return tr("Say who you are first: a name beside Person, above.")
        if not self.reason.text().strip():
            return tr("A waiver has a reason: write why it may stand.")
        if "isoformat" in str(error):
            return tr("'{text}' is no day: write it like 2027-12-31.").format(text=self.until.text())
        return str(error)

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.setVisible(bool(words))

    def _on_withdraw_clicked(self) -> None:
        finding = self._shown[1] if self._shown is not None else None
        if finding is not None:
            rule = finding.evidence if finding.rule == "waiver-idle" else finding.rule
            self.session.apply(partial(withdraw, rule=rule, subject=self._subject(finding)), tr("waiver withdrawn"))

    # -- by another yardstick

    def _fill_yardsticks(self, bundle: Bundle) -> None:
        from riktig.checks.yardsticks import yardsticks  # the window starts without the model of a Job

        practice = bundle.plan.job.practice
        names = [one.name for one in yardsticks(practice)]
        if names != [self.yardstick.itemData(n) for n in range(1, self.yardstick.count())]:
            self.yardstick.clear()
            self.yardstick.addItem(tr("By {edition}").format(edition=practice.edition.cited))
            for name in names:
                self.yardstick.addItem(tr("As in {name}").format(name=name), name)

    def _on_yardstick_activated(self, place: int) -> None:
        name = self.yardstick.itemData(place)
        if name is None:
            self._on_tree_current_changed(self.tree.currentItem(), None)
            return
        self._show(None)
        self.title.setText(tr("Judging the job as in {name}…").format(name=name))
        self.session.worker.ask(partial(compare_yardstick, name=name), partial(self._take_comparison, name))

    def _take_comparison(self, name: str, lines: tuple[str, ...] | None) -> None:
        self.title.setText(tr("By {name}, this would be otherwise").format(name=name))
        self.message.setText("\n".join(lines or (tr("Nothing."),)))
        self.message.setVisible(True)


def _on_sheets(
    sheets: "Sequence[Drawing]", marks: tuple[str, ...]
) -> "tuple[Drawing | None, tuple[float, float, float, float] | None]":
    """Return the sheet that depicts most of some things, and the part of it where these are in mm; None where none does."""
    wanted = frozenset(marks)
    seen = [
        (sheet, [item for item in sheet.items if isinstance(item, Symbol) and item.ref in wanted]) for sheet in sheets
    ]
    sheet, symbols = max(seen, key=lambda pair: len({symbol.ref for symbol in pair[1]}), default=(None, []))
    if sheet is None or not symbols:
        return None, None
    xs, ys = [symbol.x for symbol in symbols], [symbol.y for symbol in symbols]
    return sheet, (
        min(xs) - _ROOM_MM,
        min(ys) - _ROOM_MM,
        max(xs) - min(xs) + 2 * _ROOM_MM,
        max(ys) - min(ys) + 2 * _ROOM_MM,
    )


def _mark(one: "Judged") -> str:
    """Return the mark of a rule: where something is found that of the gravest."""
    if one.outcome is not Outcome.FINDING:
        return _MARKS[one.outcome]
    return GRADES[min((finding.severity for finding in one.findings), key=SEVERITIES.index)][0]


def _brief(finding: Finding) -> str:
    """Return what was found without its mend, which follows a colon."""
    return finding.message.partition(": ")[0]


def _weight(one: "Judged") -> tuple[int, int]:
    return _ORDER.index(one.outcome), min((SEVERITIES.index(f.severity) for f in one.findings), default=9)


def _gravest(shown: "list[Judged]", subject: str) -> tuple[tuple[int, int], int]:
    """Return how grave the worst of a subject is, and behind that its place in the book."""
    places = [n for n, one in enumerate(shown) if one.subject == subject]
    return min(_weight(shown[n]) for n in places), places[0]


def _key(data: "tuple[Judged, Finding | None] | None") -> tuple[str, str]:
    return ("", "") if data is None else (data[0].rule, data[1].subject if data[1] is not None else "")


def _facts(finding: Finding) -> str:
    asked = f"{finding.limit}{miss_words(finding)}"
    rows = [(tr("Found:"), finding.evidence), (tr("Asked:"), asked), (tr("Source:"), finding.source)]
    if finding.waived:
        rows.append((tr("Waived by"), finding.waived))
    return "\n".join(f"{heading} {words}" for heading, words in rows)


def _how(one: "Judged") -> str:
    asked = tr("Asked where there is {needs}.").format(needs=one.needs) + " " if one.needs else ""
    looked = f"{tr('Looked at:')} {one.looked}\n" if one.looked else ""
    return f"{one.rule}: {one.outcome.value}\n{looked}{asked}{tr('Judged:')} {one.judged}\n{one.source}"
