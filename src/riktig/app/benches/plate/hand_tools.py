"""Owns the buttons of work by hand on the plate. Must not know what they do."""

from PySide6.QtWidgets import QGridLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button


class HandTools(QWidget):
    """Buttons in pairs: hold and exchange, what is put in or taken away, longer and shorter, what goes together."""

    def __init__(self) -> None:
        super().__init__()
        self.pin = button(tr("Pin"), tip=tr("Hold what is selected where it is, or let it go again"))
        self.swap = button(tr("Swap…"), tip=tr("Exchange what is selected with what is clicked next"))
        self.rail = button(tr("+ Rail"), tip=tr("A new rail where the plate is clicked next"))
        self.level = button(tr("+ Duct ↔"), tip=tr("A new horizontal duct where the plate is clicked next"))
        self.upright = button(tr("+ Duct ↕"), tip=tr("A new upright duct where the plate is clicked next"))
        self.remove = button(tr("Take away"), tip=tr("Take away the rail or duct that is selected"))
        self.longer = button(tr("Longer"), tip=tr("Make the rail or duct that is selected 10 mm longer at its far end"))
        self.shorter = button(
            tr("Shorter"), tip=tr("Make the rail or duct that is selected 10 mm shorter at its far end")
        )
        self.row = button(tr("+ Row"), tip=tr("A new rail and duct below the duct that is clicked next; rows give way"))
        self.together = button(
            tr("Together"),
            tip=tr("A part takes along the rest of its starter, a rail or level duct its row, while this is pressed"),
        )
        self.together.setCheckable(True)
        for made in (self.longer, self.shorter):
            made.setAutoRepeat(True)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        pairs = (
            (self.pin, self.swap), (self.rail, self.level), (self.upright, self.remove), (self.longer, self.shorter),
            (self.row, self.together),
        )  # fmt: skip
        for row, pair in enumerate(pairs):
            for column, made in enumerate(pair):
                grid.addWidget(made, row, column)
