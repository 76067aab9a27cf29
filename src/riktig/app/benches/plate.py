"""Owns the Plate bench: plate and door to scale with the ways of selected wires."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from riktig.app.benches.bench import Bench
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.app.worker_process import Bundle
from riktig.drawings.display import Item
from riktig.drawings.plate import draw_wire, geometry_of
from riktig.plan.arranging import arrange_plate
from riktig.plan.conductors import Conductor
from riktig.plan.lookup import Lookup
from riktig.plan.plan import Plan

WIRE_WIDTH_MM = 3.2
SEVERAL_WIDTH_MM = 2.2


def wire_overlay(plan: Plan, conductors: tuple[Conductor, ...]) -> list[Item]:
    """Return the ways of conductors over the plate drawing."""
    geometry = geometry_of(plan)
    width = WIRE_WIDTH_MM if len(conductors) == 1 else SEVERAL_WIDTH_MM
    return [item for c in conductors for item in draw_wire(plan, c, geometry, width=width)[0].items]


class PlateBench(Bench):
    """The plate with everything on it; a selected wire is drawn on its way through the ducts."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._plan: Plan | None = None
        self.view = DrawingView(theme, tr("Plate and door"))
        self.view.picked.connect(hub.select)
        self._words = label("", role="quiet")
        arrange = button(tr("Arrange again"), tip=tr("Lay plate and door out afresh; what is held stays"))
        arrange.clicked.connect(lambda: session.apply(arrange_plate, tr("arrange the plate")))
        foot = QHBoxLayout()
        foot.addWidget(self._words, 1)
        foot.addWidget(arrange)
        layout = QVBoxLayout(self)
        layout.addWidget(self.view, 1)
        layout.addLayout(foot)

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show plate and door."""
        self._plan = bundle.plan
        self.view.show_drawing(bundle.plate)
        self.show_selection(self.hub.selection, lookup)

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the selection and draw the ways of its wires."""
        if self._plan is None:
            return
        wires = lookup.conductors(ref) if ref else ()
        self.view.show_overlay(wire_overlay(self._plan, wires))
        self.view.mark(lookup.marks(ref) if ref else ())
        if not ref:
            self._words.setText(tr("Click a part, a duct or a terminal. Wheel zooms, drag moves, Home fits."))
        else:
            self._words.setText(_say_wires(self._plan, wires))

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)


def _say_wires(plan: Plan, wires: tuple[Conductor, ...]) -> str:
    inside = [c for c in wires if c.kind == "wire"]
    if not inside:
        return tr("No wire inside the panel.")
    if len(inside) == 1:
        wire = inside[0]
        way = " ".join(wire.route) or wire.location
        ends = f"{plan.terminal_label(wire.a)} to {plan.terminal_label(wire.b)}"
        return f"Wire {wire.number}: {ends}, {wire.length_mm:g} mm through {way}"
    total = sum(c.length_mm for c in inside) / 1000
    return f"{len(inside)} wires, {total:.1f} m together"
