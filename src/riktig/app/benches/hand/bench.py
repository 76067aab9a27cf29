"""Owns what benches have in common on which things are moved by hand: the view, the column beside it, the line below. Knows no thing."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from riktig.app.benches.bench import Bench
from riktig.app.benches.hand.view import HandView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import label, scrolled, set_state

SIDE_WIDTH = 230


class HandBench(Bench):
    """A view whose parts can be taken into the hand. What a drag, a drop or a nudge does is for the bench that derives from it."""

    def __init__(self, session: Session, hub: Hub, theme: Theme, name: str) -> None:
        super().__init__(session, hub, theme)
        self.view = HandView(theme, name)
        self.view.grabbed.connect(self._on_view_grabbed)
        self.view.carried.connect(self._on_view_carried)
        self.view.dropped.connect(self._on_view_dropped)
        self.view.let_go.connect(self._on_view_let_go)
        self.view.nudged.connect(self._on_view_nudged)
        self.words = label("", role="quiet")

    def lay_out(self, column: QVBoxLayout) -> None:
        """Put the view, a column beside it and the line of words below them."""
        column.setContentsMargins(0, 0, 6, 0)
        column.addStretch(1)
        holder = QWidget()
        holder.setLayout(column)
        side = scrolled(holder)
        side.setFixedWidth(SIDE_WIDTH)
        across = QHBoxLayout()
        across.addWidget(self.view, 1)
        across.addWidget(side)
        layout = QVBoxLayout(self)
        layout.addLayout(across, 1)
        layout.addWidget(self.words)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
        self.show_overlay()

    def show_overlay(self) -> None:
        """Draw what lies over the view, what is in the hand among it."""

    def say(self, text: str, role: str = "quiet") -> None:
        """Say something below the view: quiet, done or danger."""
        self.words.setText(text)
        set_state(self.words, role)

    def drop_hand(self) -> None:
        """Have nothing in the hand any more."""

    def _on_view_grabbed(self, ref: str, x: float, y: float) -> None:
        raise NotImplementedError

    def _on_view_carried(self, x: float, y: float) -> None:
        raise NotImplementedError

    def _on_view_dropped(self, x: float, y: float) -> None:
        raise NotImplementedError

    def _on_view_let_go(self) -> None:
        self.drop_hand()
        self.show_overlay()
        self.say(tr("Put back."))

    def _on_view_nudged(self, dx: float, dy: float) -> None:
        raise NotImplementedError
