"""Owns a small grid of computed values under their names, as it stands on a card."""

from collections.abc import Sequence

from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from riktig.app.text import tr
from riktig.app.widgets import label
from riktig.plan.basis.sized import SizedValue

_IN_ROW = 4


class ValueGrid(QWidget):
    """Name over value, four in a row; why it is so is in the tool tip."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(2)
        self._cells: list[tuple[QLabel, QLabel]] = []

    def show_values(self, shown: Sequence[tuple[str, SizedValue]]) -> None:
        """Show values with the names they have here."""
        while len(self._cells) < len(shown):
            self._cells.append(self._make_cell(len(self._cells)))
        for place, (head, body) in enumerate(self._cells):
            is_used = place < len(shown)
            name, value = shown[place] if is_used else ("", None)
            head.setText(tr(name))
            body.setText(value.text if value is not None else "")
            for cell in (head, body):
                cell.setToolTip(f"{value.formula}\n{value.source}" if value is not None else "")

    def _make_cell(self, place: int) -> tuple[QLabel, QLabel]:
        line, column = divmod(place, _IN_ROW)
        made = label("", role="quiet", is_selectable=False), label("", points=1, bold=True, is_selectable=False)
        for row, cell in enumerate(made):
            cell.setWordWrap(False)
            self._grid.addWidget(cell, 2 * line + row, column)
        return made
