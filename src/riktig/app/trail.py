"""Owns the way back: where one was before each hop. Must not know what a place shows."""

from dataclasses import dataclass

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
