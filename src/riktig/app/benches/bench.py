"""Owns what every bench has in common. Must not know any one of them."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.theme.theme import Theme
from riktig.desk.bundle import Bundle

if TYPE_CHECKING:
    from riktig.drawings.display import Drawing
    from riktig.plan.answers.lookup import Lookup
    from riktig.record.progress import Progress


class Bench(QWidget):
    """A stage of the work. It is told what changed, and sends edits to the session and selections to the hub."""

    shows_early = False
    """Whether it shows what an edit does to motors before the rest is there."""

    beside: QWidget | None = None
    """What stands at the top of the margin while the bench is open."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.hub = hub
        self.theme = theme

    def show_bundle(self, bundle: Bundle, lookup: "Lookup") -> None:
        """Show what follows from the Job now."""

    def show_early(self, bundle: Bundle) -> None:
        """Show what an edit does to motors; all else in the bundle is as it was."""

    def show_findings(self) -> None:
        """Show what the rules find now."""

    def show_sheets(self, sheets: "tuple[Drawing, ...]") -> None:
        """Show the sheets of the circuit now."""

    def show_progress(self, progress: "Progress") -> None:
        """Show how far build and test are now."""

    def show_selection(self, ref: str, lookup: "Lookup") -> None:
        """Mark what is selected."""

    def show_place(self, place: str) -> None:
        """Lead to where something is decided."""

    @property
    def target(self) -> str:
        """Where on it one is, to come back to; empty where a bench has no such places."""
        return ""

    def show_target(self, target: str) -> None:
        """Go to a place on it that a link leads to."""

    def show_theme(self, theme: Theme) -> None:
        """Take on another look."""
        self.theme = theme
