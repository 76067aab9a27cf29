"""Owns a form over the fields of a part of the Job: one editor for each field, by its type. Must not apply edits."""

from collections.abc import Callable, Mapping, Sequence
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLineEdit, QWidget

from riktig.app.text import tr
from riktig.app.widgets import label

AS_USUAL = "–"
Choices = Mapping[str, Sequence[str]]


def field_sort(annotation: Any) -> str:
    """Return how a field of that type is edited: flag, choice, words, table, number or text."""
    origin = get_origin(annotation)
    if origin is Annotated:
        return field_sort(get_args(annotation)[0])
    if origin in (Union, UnionType):
        sorts = {field_sort(a) for a in get_args(annotation) if a is not type(None)}
        return "words" if "words" in sorts else sorts.pop()
    if origin is Literal:
        return "choice"
    if origin is tuple:
        return "words"
    if origin is dict:
        return "table"
    return {bool: "flag", int: "number", float: "number"}.get(annotation, "text")


def literal_words(annotation: Any) -> list[Any]:
    """Return the values that a field of a closed type may have."""
    origin = get_origin(annotation)
    if origin is Literal:
        return list(get_args(annotation))
    if origin in (Union, UnionType, Annotated):
        return [word for a in get_args(annotation) for word in literal_words(a)]
    return []


def can_be_empty(annotation: Any) -> bool:
    """Return whether a field may be left as usual."""
    return get_origin(annotation) in (Union, UnionType) and type(None) in get_args(annotation)


class FieldForm(QWidget):
    """Editors in two columns. `changed` tells field and value; what does not fit is said by whoever applies it.

    `always` tells also a value that is shown already, for a form that speaks of many at once.
    """

    changed = Signal(str, object)

    def __init__(
        self, model: type[BaseModel], fields: Sequence[str], *, columns: int = 2, spoken: str = "", always: bool = False
    ) -> None:
        super().__init__()
        self._model = model
        self._always = always
        self._is_filling = False
        self._setters: dict[str, Callable[[Any, Sequence[str]], None]] = {}
        self.editors: dict[str, QWidget] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        for place, field in enumerate(fields):
            row, column = divmod(place, columns)
            editor = self._make_editor(field)
            words = tr(field.removesuffix("_lines").removesuffix("_refs").replace("_", " "))
            editor.setAccessibleName(f"{spoken} {words}".strip())
            editor.setToolTip(words)
            self.editors[field] = editor
            grid.addWidget(label(words, role="quiet"), row, 2 * column)
            grid.addWidget(editor, row, 2 * column + 1)
        for column in range(columns):
            grid.setColumnStretch(2 * column + 1, 1)

    def _make_editor(self, field: str) -> QWidget:
        annotation = self._model.model_fields[field].annotation
        sort = field_sort(annotation)
        if sort == "flag" and not can_be_empty(annotation):
            return self._make_flag(field)
        if sort in {"choice", "flag"}:
            return self._make_choice(field, literal_words(annotation) or [True, False], can_be_empty(annotation))
        return self._make_line(field, sort)

    def _make_flag(self, field: str) -> QWidget:
        box = QCheckBox()
        box.toggled.connect(lambda value: self._emit(field, value))
        self._setters[field] = lambda value, _: box.setChecked(bool(value))
        return box

    def _make_choice(self, field: str, values: list[Any], may_be_empty: bool) -> QWidget:
        box = QComboBox()
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(3)
        for value in [None, *values] if may_be_empty else values:
            box.addItem(_words_of(value), value)
        box.activated.connect(lambda _: self._emit(field, box.currentData()))
        self._setters[field] = lambda value, _: box.setCurrentText(_words_of(value))
        return box

    def _make_line(self, field: str, sort: str) -> QWidget:
        annotation = self._model.model_fields[field].annotation
        box = QComboBox()
        box.setEditable(True)
        box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(3)
        line = QLineEdit()
        box.setLineEdit(line)
        line.setPlaceholderText(tr("as usual") if can_be_empty(annotation) else "")

        def send() -> None:
            self._emit(field, read_words(line.text(), sort, may_be_empty=can_be_empty(annotation)))

        line.editingFinished.connect(send)
        box.activated.connect(lambda _: send())

        def fill(value: Any, offered: Sequence[str]) -> None:
            if [box.itemText(i) for i in range(box.count())] != list(offered):
                typed = line.text()
                box.clear()
                box.addItems(list(offered))
                line.setText(typed)
            if not line.hasFocus():
                line.setText(write_words(value))

        self._setters[field] = fill
        return box

    def show_values(self, value: BaseModel, offered: Choices) -> None:
        """Fill the editors; one that is being typed in is left alone. `offered` are words to choose from by field."""
        self._is_filling = True
        for field, setter in self._setters.items():
            setter(getattr(value, field), offered.get(field, ()))
        self._is_filling = False
        self._shown = value

    def _emit(self, field: str, value: Any) -> None:
        is_same = not self._always and getattr(getattr(self, "_shown", None), field, object()) == value
        if not self._is_filling and not is_same:
            self.changed.emit(field, value)


def _words_of(value: Any) -> str:
    if value is None:
        return AS_USUAL
    return {True: tr("yes"), False: tr("no")}.get(value, str(value)) if isinstance(value, bool) else str(value)


def write_words(value: Any) -> str:
    """Return a field's value as a person types it."""
    if value is None:
        return ""
    if isinstance(value, dict):
        return "  ".join(f"{key} {number:g}" for key, number in value.items())
    if isinstance(value, tuple):
        return " ".join(value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def read_words(text: str, sort: str, *, may_be_empty: bool) -> Any:
    """Return what a person typed as the value of a field; the Job judges whether it fits."""
    text = text.strip()
    if not text:
        return None if may_be_empty else () if sort == "words" else {} if sort == "table" else ""
    if sort == "words":
        return text if text == "all" else tuple(text.replace(",", " ").split())
    if sort == "table":
        words = text.replace("=", " ").replace(",", " ").split()
        return {key: _number(value) for key, value in zip(words[::2], words[1::2], strict=False)}
    return _number(text) if sort == "number" else text


def _number(text: str) -> Any:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return text
