"""Owns what is due when in a live circuit, and whom a change of volts wakes. Must not know what happens then."""

import heapq
from collections import defaultdict, deque
from collections.abc import Sequence

import numpy as np

from riktig.live.network import Voltages
from riktig.live.rig import Sensor

_CHATTERS, _WITHIN = 10, 3.0
"""What begins to come in so often within so many seconds, without anybody doing anything, chatters."""


class Agenda:
    """What is due: for each name and what of it one time in s; put off again it is due then alone."""

    def __init__(self) -> None:
        self._queue: list[tuple[float, int, str, str]] = []
        self._due: dict[tuple[str, str], int] = {}
        self._count = 0

    def __deepcopy__(self, memo: object) -> "Agenda":
        """Return another one with all that is due still."""
        other = Agenda()
        other._queue = sorted(entry for entry in self._queue if self._due.get(entry[2:]) == entry[1])
        other._due, other._count = dict(self._due), self._count
        return other

    def put(self, name: str, what: str, time: float) -> None:
        """Let something be due at a time, and no more when it was."""
        self._count += 1
        self._due[name, what] = self._count
        heapq.heappush(self._queue, (time, self._count, name, what))

    def call_off(self, name: str, what: str) -> None:
        """Let something be due no more."""
        self._due.pop((name, what), None)

    @property
    def next_time(self) -> float | None:
        """When something is due next, None where nothing is."""
        while self._queue and self._due.get((self._queue[0][2], self._queue[0][3])) != self._queue[0][1]:
            heapq.heappop(self._queue)
        return self._queue[0][0] if self._queue else None

    def take(self) -> tuple[float, str, str]:
        """Return what is due next, time, name and what, and let it be due no more; there must be something."""
        assert self.next_time is not None
        time, _, name, what = heapq.heappop(self._queue)
        del self._due[name, what]
        return time, name, what


class Pulls:
    """When things pulled in, to find what chatters."""

    def __init__(self) -> None:
        self._times: defaultdict[str, deque[float]] = defaultdict(lambda: deque(maxlen=_CHATTERS))

    def clear(self) -> None:
        """Begin anew: somebody did something."""
        self._times.clear()

    def flutters(self, name: str, now: float) -> bool:
        """Note that something begins to pull in now; return whether it did so too often, and begin anew with it then."""
        times = self._times[name]
        times.append(now)
        is_too_often = len(times) == _CHATTERS and times[-1] - times[0] < _WITHIN
        if is_too_often:
            times.clear()
        return is_too_often


class Sensors:
    """All pairs of nodes that wake something, looked at together."""

    def __init__(self, sensors: Sequence[Sensor]) -> None:
        self._owners = [s.owner for s in sensors]
        self._a, self._b = (np.array([getattr(s, end) for s in sensors], dtype=np.intp) for end in "ab")
        self._is_dc = np.array([s.is_dc for s in sensors], dtype=bool)
        self._levels = np.array([s.levels for s in sensors]).reshape(-1, 2).T
        self._dead = np.array([s.dead for s in sensors])
        self._last = np.full(len(sensors), np.nan, dtype=complex)
        self._zone = np.full(len(sensors), -1)

    def woken(self, volts: Voltages) -> set[str]:
        """Return whom volts wake: those whose sensors passed a level or moved by more than their dead band."""
        apart = np.where(self._is_dc, volts.dc[self._a] - volts.dc[self._b], volts.ac[self._a] - volts.ac[self._b])
        size = np.abs(apart)
        zone = (size >= self._levels[0] - 1e-9).astype(int) + (size >= self._levels[1] - 1e-9)
        moved = (zone != self._zone) | ~(np.abs(apart - self._last) <= self._dead)
        self._last[moved], self._zone = apart[moved], zone
        return {self._owners[n] for n in np.flatnonzero(moved)}
