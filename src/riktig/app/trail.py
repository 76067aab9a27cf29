"""Owns hops and the way back: where one was before each of them. Must not know what a place shows."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from riktig.app.benches.bench import Bench
from riktig.app.hub import Hub

if TYPE_CHECKING:
    from riktig.plan.answers.hops import Hop

MOST = 100


@dataclass(frozen=True, slots=True, kw_only=True)
class Stop:
    """Where one was: the stage, what was selected, and the target on a sheet, empty where none was gone to."""

    stage: str
    ref: str
    target: str = ""


class Trail:
    """Stops in the order in which they were left; the oldest are forgotten."""

    def __init__(self) -> None:
        self._stops: list[Stop] = []

    def __len__(self) -> int:
        return len(self._stops)

    def leave(self, stop: Stop) -> None:
        """Note where one was before a hop."""
        self._stops = [*self._stops[-(MOST - 1) :], stop]

    def back(self) -> Stop | None:
        """Return the last stop and forget it, None if there is none."""
        return self._stops.pop() if self._stops else None


class Guide(QObject):
    """Takes the window to where a hop leads, and back."""

    changed = Signal(bool)
    """Whether there is a way back."""

    def __init__(
        self, hub: Hub, show_stage: Callable[[str], None], bench: Callable[[str], Bench], stage: Callable[[], str]
    ) -> None:
        super().__init__(hub)
        self._hub = hub
        self._show_stage = show_stage
        self._bench = bench
        self._stage = stage
        self._trail = Trail()

    def hop(self, hop: "Hop") -> None:
        """Go where a hop leads, and remember where one was."""
        stage = self._stage()
        self._trail.leave(Stop(stage=stage, ref=self._hub.selection, target=self._bench(stage).target))
        self._go_to(Stop(stage=hop.bench, ref=hop.ref, target=hop.target))

    def back(self) -> None:
        """Go back to where one was before the last hop."""
        stop = self._trail.back()
        if stop is not None:
            self._go_to(stop)

    def _go_to(self, stop: Stop) -> None:
        self.changed.emit(len(self._trail) > 0)
        self._show_stage(stop.stage)
        self._hub.select(stop.ref)
        if stop.target:
            self._bench(stop.stage).show_target(stop.target)
