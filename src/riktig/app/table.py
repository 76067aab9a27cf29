"""Owns the one table model: a sequence of rows and frozen column specs. Must not know what the rows are."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor

_Index = QModelIndex | QPersistentModelIndex


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A column: heading, how to get its value, how to write it, how to sort by it, and a colour patch if any."""

    header: str
    getter: Callable[[Any], Any]
    text: Callable[[Any], str] = str
    sort_key: Callable[[Any], Any] | None = None
    is_number: bool = False
    patch: Callable[[Any], QColor] | None = None
    width: int = 90


class TableModel(QAbstractTableModel):
    """Rows as a tuple; filter and sort make a new tuple."""

    def __init__(self, columns: Sequence[Column]) -> None:
        super().__init__()
        self._columns = tuple(columns)
        self._all: tuple[Any, ...] = ()
        self._rows: tuple[Any, ...] = ()
        self._texts: tuple[str, ...] | None = None
        self._words = ""
        self._test: Callable[[Any], bool] | None = None
        self._sort: tuple[int, Qt.SortOrder] | None = None

    @property
    def rows(self) -> tuple[Any, ...]:
        """The rows as shown."""
        return self._rows

    def set_rows(self, rows: Sequence[Any]) -> None:
        """Show other rows."""
        self._all, self._texts = tuple(rows), None
        self._refresh()

    def tell_changed(self) -> None:
        """Show the rows anew: what columns say of them may have changed."""
        self._texts = None
        if self._rows:
            last = self.index(len(self._rows) - 1, len(self._columns) - 1)
            self.dataChanged.emit(self.index(0, 0), last)

    def set_filter(self, words: str, test: Callable[[Any], bool] | None = None) -> None:
        """Show the rows that contain every word in one of their columns and pass a test, if there is one."""
        self._words, self._test = words, test
        self._refresh()

    def _refresh(self) -> None:
        self.beginResetModel()
        words = self._words.lower().split()
        rows = self._matching(words) if words else self._all
        if self._test is not None:
            rows = tuple(row for row in rows if self._test(row))
        if self._sort is not None:
            column, order = self._sort
            spec = self._columns[column]
            key = spec.sort_key or spec.getter
            rows = tuple(sorted(rows, key=key, reverse=order is Qt.SortOrder.DescendingOrder))
        self._rows = rows
        self.endResetModel()

    def _matching(self, words: list[str]) -> tuple[Any, ...]:
        """Return the rows that contain every word; what they say is put together once and kept."""
        if self._texts is None:
            self._texts = tuple(
                " ".join(column.text(column.getter(row)) for column in self._columns).lower() for row in self._all
            )
        return tuple(
            row for row, text in zip(self._all, self._texts, strict=True) if all(word in text for word in words)
        )

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._rows)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._columns)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        column = self._columns[index.column()]
        row = self._rows[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.text(column.getter(row))
        if role == Qt.ItemDataRole.DecorationRole and column.patch is not None:
            return column.patch(row)
        if role == Qt.ItemDataRole.TextAlignmentRole and column.is_number:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self._columns[section].header
        return None

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._sort = (column, order)
        self._refresh()
