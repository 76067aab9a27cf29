"""Owns the Labels bench: media as they come out, what each label is stuck on, its words, and what is printed and put on."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.benches.labels.tape import TapeBar
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.desk.bundle import Bundle
from riktig.desk.label_errands import LabelWish, ShownLabel, ShownLabels, labels_on, show_labels
from riktig.drawings.labels.fitting import choose_medium
from riktig.files.label_printer import PrinterError
from riktig.plan.making.bundles import WorkStage
from riktig.plan.making.labels import LabelKind, When, write_label
from riktig.record.labels import LabelStep

if TYPE_CHECKING:
    from collections.abc import Sequence

    from riktig.drawings.labels.fitting import Fitted
    from riktig.plan.answers.lookup import Lookup
    from riktig.record.progress import Progress

LEAST_SCALE = 2.6
"""Pixels per mm below which the smallest letters cannot be read; the page is panned then."""
_ROLE = Qt.ItemDataRole.UserRole


class LabelsBench(Bench):
    """Media on the left with what is left to print, a page of one at true proportions, the words of the chosen label below."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._shown: ShownLabels | None = None
        self._chosen: ShownLabel | None = None
        self._number = self._page = 0
        self._medium = self._ref = ""
        self._done: object = None
        self._unit = ""
        self.media = QListWidget()
        self.media.setAccessibleName(tr("Media"))
        self.media.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.media.currentItemChanged.connect(self._on_media_current_changed)
        self.when = QComboBox()
        self.when.setAccessibleName(tr("When labels are put on"))
        self.when.addItem(tr("Whenever they are put on"), ("", ""))
        for one in When:
            self.when.addItem(tr("Put on {when}").format(when=one.value), (one.value, ""))
        for stage in WorkStage:
            self.when.addItem(tr("Markers: {stage}").format(stage=stage.value), ("", stage.value))
        self.when.currentIndexChanged.connect(lambda _: self._ask(page=0))
        self.only_open = QCheckBox(tr("Not printed yet"))
        self.only_open.toggled.connect(lambda _: self._ask(page=0))
        self.view = DrawingView(theme, tr("Labels as they come out"), least_scale=LEAST_SCALE)
        self.view.picked.connect(self._on_view_picked)
        self.before = button("←", tip=tr("Page before"))
        self.before.clicked.connect(lambda: self._ask(page=self._page - 1))
        self.after = button("→", tip=tr("Next page"))
        self.after.clicked.connect(lambda: self._ask(page=self._page + 1))
        self.count = label("", role="quiet")
        self.count.setWordWrap(False)
        self.printed = button(
            tr("All printed"), role="primary", tip=tr("Note in the Record that all labels of this choice are printed")
        )
        self.printed.clicked.connect(lambda: self._mark_all(LabelStep.PRINTED))
        self.stuck = button(tr("All put on"), tip=tr("Note in the Record that all labels of this choice are put on"))
        self.stuck.clicked.connect(lambda: self._mark_all(LabelStep.STUCK))
        self.tape = TapeBar(self._print)
        self.tape.printing.came_out.connect(self._on_tape_came_out)
        self.tape.printing.ended.connect(lambda *_: session.record.tell())
        session.record.file_changed.connect(self.tape.printing.stop)
        self.pieces = label("", role="quiet")
        self.refused = label("", role="danger")
        layout = QVBoxLayout(self)
        layout.addLayout(self._build_head())
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.addWidget(self.media)
        splitter.addWidget(self.view)
        splitter.setSizes([230, 600])
        layout.addWidget(splitter, 1)
        layout.addWidget(self.refused)
        layout.addWidget(self._build_words())
        layout.addWidget(self.tape)
        layout.addWidget(self.pieces)
        self._show_label(None)

    def _build_head(self) -> QHBoxLayout:
        head = QHBoxLayout()
        head.addWidget(self.when)
        head.addWidget(self.only_open)
        head.addStretch()
        for widget in (self.count, self.before, self.after, self.printed, self.stuck):
            head.addWidget(widget)
        return head

    def _build_words(self) -> QWidget:
        self.words = label("", bold=True)
        self.place = label("", role="quiet")
        self.text = QLineEdit()
        self.text.setAccessibleName(tr("Words of the label"))
        self.text.editingFinished.connect(self._on_text_entered)
        self.own = button(tr("As it was"), tip=tr("The words that follow from the design again"))
        self.own.clicked.connect(self._on_own_clicked)
        self.medium = QComboBox()
        self.medium.setAccessibleName(tr("What labels of this kind are printed on"))
        self.medium.activated.connect(self._on_medium_activated)
        self.one = button(tr("Printed"))
        self.one.clicked.connect(self._on_one_clicked)
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        said = QVBoxLayout()
        said.addWidget(self.words)
        said.addWidget(self.place)
        row.addLayout(said, 3)
        row.addWidget(self.text, 3)
        for widget in (self.own, self.medium, self.one):
            row.addWidget(widget)
        return box

    # -- what is shown

    def show_bundle(self, bundle: Bundle, lookup: "Lookup") -> None:
        """Ask for the labels of the Plan as it is now."""
        self._ask()

    def show_progress(self, progress: "Progress") -> None:
        """Ask again where labels were printed or put on, here or by somebody else."""
        if not self.tape.printing.is_running and self.session.record.labels() != self._done:
            self._ask()

    def _ask(self, *, page: int | None = None) -> None:
        self._page = self._page if page is None else page
        self._number += 1
        self._done = self.session.record.labels()
        when, stage = self.when.currentData()
        wish = LabelWish(
            medium=self._medium,
            when=when,
            stage=stage,
            only_open=self.only_open.isChecked(),
            page=self._page,
            done=self._done,
        )
        if self.session.bundle is not None:
            self.session.worker.ask(partial(show_labels, wish=wish), partial(self._take, self._number))

    def _take(self, number: int, shown: ShownLabels | None) -> None:
        if number != self._number or shown is None:
            return
        self._shown, self._page, self._medium = shown, shown.page, shown.medium
        self._list_media(shown)
        self.view.show_drawing(shown.drawing)
        pages = tr("page {n}/{all}").format(n=shown.page + 1, all=shown.pages) if shown.pages > 1 else ""
        self.count.setText(", ".join(filter(None, (_count_words(len(shown.texts)), pages))))
        self.before.setEnabled(shown.page > 0)
        self.after.setEnabled(shown.page + 1 < shown.pages)
        for widget in (self.printed, self.stuck):
            widget.setEnabled(bool(shown.texts))
        more = len(shown.refused) - 1
        also = tr(" ({n} more)").format(n=more) if more > 0 else ""
        self.refused.setText(f"{shown.refused[0]}{also}" if shown.refused else "")
        self.refused.setVisible(bool(shown.refused))
        self.pieces.setText(tr("Pieces: {list}").format(list=",  ".join(f"{sign} × {n}" for sign, n in shown.signs)))
        self.pieces.setVisible(bool(shown.signs))
        self.tape.setVisible(not shown.signs)
        key = self._chosen.key if self._chosen is not None else ""
        self._show_label(shown.labels.get(key))
        self._mark()

    def _list_media(self, shown: ShownLabels) -> None:
        self.media.blockSignals(True)
        self.media.clear()
        for line in shown.media:
            left = line.count - line.printed
            state = (
                tr("✓ all {n} printed").format(n=line.count)
                if not left
                else tr("{left} of {n} to print").format(left=left, n=line.count)
            )
            item = QListWidgetItem(f"{line.title}\n{state}")
            item.setData(_ROLE, line.code)
            self.media.addItem(item)
            if line.code == shown.medium:
                self.media.setCurrentItem(item)
        self.media.blockSignals(False)

    def _on_media_current_changed(self, item: QListWidgetItem | None, _: object) -> None:
        if item is not None:
            self._medium = item.data(_ROLE)
            self._show_label(None)
            self._ask(page=0)

    # -- one label

    def _on_view_picked(self, key: str) -> None:
        chosen = self._shown.labels.get(key) if self._shown is not None else None
        self._show_label(chosen)
        if chosen is not None and chosen.on != "job":
            self._ref = chosen.on
            self.hub.select(chosen.on)
        self._mark()

    def show_selection(self, ref: str, lookup: "Lookup") -> None:
        """Mark the labels of what is selected."""
        self._ref = ref
        if self._chosen is not None and self._chosen.on != ref:
            self._show_label(None)
        self._mark()

    def _mark(self) -> None:
        if self._shown is None:
            return
        keys = [key for key, one in self._shown.labels.items() if self._ref and one.on == self._ref]
        if self._chosen is not None:
            keys = [self._chosen.key]
        self.view.mark(tuple(keys))
        if keys:
            self.view.centre_on(keys[0])

    def _show_label(self, chosen: ShownLabel | None) -> None:
        self._chosen = chosen
        hint = tr("Click a label: what it is stuck on is selected on every bench.")
        self.words.setText(
            f"{chosen.kind}: {' / '.join(chosen.text.split(chr(10)))[:90]}" if chosen is not None else hint
        )
        state = ""
        if chosen is not None:
            state = tr("put on") if chosen.is_stuck else tr("printed") if chosen.is_printed else tr("not printed")
        where = ", ".join(filter(None, (chosen.about, chosen.place))) if chosen is not None else ""
        self.place.setText(f"{where}; {chosen.when}; {state}" if chosen is not None else "")
        self.place.setVisible(chosen is not None)
        self.text.setVisible(chosen is not None and chosen.is_editable)
        self.text.setText(chosen.text if chosen is not None else "")
        self.own.setVisible(chosen is not None and chosen.is_own)
        self._list_choices(chosen)
        self.one.setVisible(chosen is not None)
        self.one.setText(tr("Not printed") if chosen is not None and chosen.is_printed else tr("Printed"))

    def _list_choices(self, chosen: ShownLabel | None) -> None:
        """List what else labels of this kind, round a wire or cable or on a terminal like this, may be printed on."""
        self.medium.clear()
        for code, title in chosen.media if chosen is not None else ():
            self.medium.addItem(title, code)
        self.medium.setCurrentIndex(self.medium.findData(self._medium))
        self.medium.setVisible(self.medium.count() > 1)

    def _on_medium_activated(self, _: int) -> None:
        one, code = self._chosen, self.medium.currentData()
        if one is not None and code != self._medium:
            self._medium = code
            edit = partial(choose_medium, kind=LabelKind(one.kind), code=code)
            self.session.apply(edit, tr("print {kind} labels on {code}").format(kind=one.kind, code=code))

    def _on_text_entered(self) -> None:
        one, text = self._chosen, self.text.text().strip()
        if one is not None and one.is_editable and text and text != one.text:
            self.session.apply(
                partial(write_label, key=one.key, text=text), tr("write '{text}' on a label").format(text=text)
            )

    def _on_own_clicked(self) -> None:
        if self._chosen is not None:
            self.session.apply(
                partial(write_label, key=self._chosen.key, text=""), tr("take the words of a label back")
            )

    # -- the Record

    def _on_one_clicked(self) -> None:
        one = self._chosen
        if one is not None:
            step = LabelStep.NOT_PRINTED if one.is_printed else LabelStep.PRINTED
            self.session.record.mark_labels(step, {one.key: one.text})

    def _print(self, address: str) -> None:
        """Ask for the labels of the medium that is shown, and print those that are left."""
        record = self.session.record
        if not record.person or not record.may_record:
            self.tape.tell(
                tr("Type your name into Person first, in a job that may be written: what is printed is noted.")
            )
            return
        code = self._medium
        if self.session.bundle is not None:
            self.tape.tell(tr("Looking for the printer…"))
            self.session.worker.ask(partial(labels_on, code=code), partial(self._print_on, address, code))

    def _print_on(self, address: str, code: str, labels: "Sequence[Fitted] | None") -> None:
        bundle, record = self.session.bundle, self.session.record
        if labels is None or bundle is None or self.tape.printing.is_running:
            return
        self._unit = record.unit
        try:
            self.tape.printing.start(address, code, labels, record.labels(), bundle.plan.job.info.number, record.unit)
        except PrinterError as error:
            self.tape.tell(str(error))
        self.tape.show_running()

    def _on_tape_came_out(self, one: "Fitted") -> None:
        if not self.tape.printing.is_running:
            return  # another job was opened since
        record, texts = self.session.record, {one.sticker.key: one.sticker.text}
        if record.unit == self._unit and record.mark_labels(LabelStep.PRINTED, texts, tells=False):
            self.tape.tell_printed(one)
            self.tape.printing.acknowledge()
        else:
            self.tape.printing.stop()

    def _mark_all(self, step: LabelStep) -> None:
        if self._shown is not None:
            self.session.record.mark_labels(step, self._shown.texts)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)


def _count_words(count: int) -> str:
    return tr("1 label") if count == 1 else tr("{n} labels").format(n=count)
