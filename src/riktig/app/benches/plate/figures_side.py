"""Owns the figures beside the plate: reserve, longest wire, fill, heat. Must not compute them."""

from PySide6.QtWidgets import QFrame, QGridLayout

from riktig.app.text import tr
from riktig.app.widgets import label
from riktig.plan.answers.plate_figures import PlateFigures
from riktig.plan.plan import Plan
from riktig.units.numbers import format_number

_ROWS = ("Reserve on rails", "Free height", "Longest wire", "Fullest duct", "Heat inside", "Wire in all")


class FiguresSide(QFrame):
    """Six figures, each with a word on where it is worst."""

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        self.values = {name: label("", bold=True) for name in _ROWS}
        self._words = {name: label("", role="quiet") for name in _ROWS}
        for row, name in enumerate(_ROWS):
            grid.addWidget(label(tr(name), role="quiet"), 3 * row, 0)
            grid.addWidget(self.values[name], 3 * row + 1, 0)
            grid.addWidget(self._words[name], 3 * row + 2, 0)

    def show_figures(self, plan: Plan, figures: PlateFigures) -> None:
        """Show the figures of a plate."""
        least = min(figures.reserves, key=lambda r: r.percent, default=None)
        longest = figures.longest
        texts = {
            "Reserve on rails": (f"{figures.reserve_percent:.0f} %", f"least, on {least.code}" if least is not None else ""),
            "Free height": (f"{figures.free_height:.0f} mm", "more than the plate has" if figures.free_height < 0 else ""),
            "Longest wire": (
                (f"{longest.length_mm / 1000:.2f} m", f"{longest.number}: {plan.terminal_label(longest.a)} to "
                 f"{plan.terminal_label(longest.b)}") if longest is not None else ("-", "")
            ),
            "Fullest duct": (f"{figures.fullest[1]:.0f} %", f"{figures.fullest[0]}, 60 % at most") if figures.fullest else ("-", ""),
            "Heat inside": (f"{figures.losses_w:.0f} W", f"{format_number(figures.inside_c)} °C inside"),
            "Wire in all": (f"{figures.wire_m:.0f} m", f"{figures.copper_kg:.1f} kg of copper"),
        }  # fmt: skip
        for name, (value, words) in texts.items():
            self.values[name].setText(value)
            self._words[name].setText(words)
            self._words[name].setVisible(bool(words))
