"""Owns what a panel moves and is moved by: levels, carriages, temperatures, as one number that goes up or down. Must not know devices.

Between two events the number changes evenly, so that the instant at which a float or limit switch moves is computed and not waited for.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import inf

ALWAYS = "always"
FLOAT_BACK_M = 0.03
"""A float falls back so much below where it rose, in m (common practice, no source)."""
_BEYOND = 1e-6
"""So far below a threshold a number that falls has left it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """A switch that is moved while the number is above a value, or below it; falling, the number leaves it `back` lower."""

    device: str
    value: float
    is_above: bool
    back: float = 0.0


@dataclass(slots=True, kw_only=True)
class StandIn:
    """Something of the field: a number between two ends, what moves it by how much a second, and which switches it moves.

    Args:
        name: what it is called.
        value: where it stands, in its own unit: m of a level, degC, share of a way.
        low: its lower end.
        high: its upper end.
        moves: claims (`M5 forward`, or `always`) and by how much a second the number changes while they hold.
        thresholds: the switches.
    """

    name: str
    value: float
    low: float = -inf
    high: float = inf
    moves: Sequence[tuple[str, float]] = ()
    thresholds: Sequence[Threshold] = ()
    rate: float = 0.0
    since: float = 0.0
    _passed: dict[str, bool] = field(default_factory=dict)

    def value_at(self, now: float) -> float:
        """Return the number at a time in s."""
        return min(max(self.value + self.rate * (now - self.since), self.low), self.high)

    def turn(self, now: float, rate: float) -> None:
        """Let it change by so much a second from now on."""
        self.value, self.since, self.rate = self.value_at(now), now, rate

    def moved(self, now: float) -> list[tuple[str, bool]]:
        """Return the switches that are moved otherwise than when this was asked last, and how."""
        value = self.value_at(now)
        found = []
        for one in self.thresholds:
            was = self._passed.get(one.device)
            has_passed = value >= one.value - (one.back if was else 0.0) - 1e-9
            if was is not has_passed:
                self._passed[one.device] = has_passed
                found.append((one.device, has_passed == one.is_above))
        return found

    def seconds_left(self, now: float) -> float:
        """Return after how many seconds the next switch moves, infinite where none does."""
        value = self.value_at(now)
        found = inf
        for one in self.thresholds:
            has_passed = self._passed.get(one.device, False)
            if self.rate > 0.0 and not has_passed:
                found = min(found, max(0.0, (one.value - value) / self.rate))
            elif self.rate < 0.0 and has_passed:
                found = min(found, max(0.0, (value - one.value + one.back + _BEYOND) / -self.rate))
        return found
