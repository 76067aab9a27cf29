"""Owns the signals that benches share. A signal is a fact (`..._changed`) or a wish (`..._requested`)."""

from PySide6.QtCore import QObject, Signal


class Hub(QObject):
    """One for each window; wired in `Shell._wire`.

    A selection is the id of what is selected: a device (`M1.K`), a terminal (`M1.K:A1`, `X1:3`), `net:NUMBER`,
    `wire:ID`, or the code of a rail or duct; an empty text selects nothing.
    """

    selection_changed = Signal(str)
    bench_requested = Signal(str)
    place_requested = Signal(str)
    """To where something is decided: a place in the brief (`starter.M1.kw`, `supply.fault_ka`), or what can be selected."""
    hop_requested = Signal(object)
    """To another place of the same thing, a `Hop`; one can go back from there."""
    theme_changed = Signal(object)
    message_posted = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.selection = ""

    def select(self, ref: str) -> None:
        """Select one thing on every bench."""
        if ref != self.selection:
            self.selection = ref
            self.selection_changed.emit(ref)
