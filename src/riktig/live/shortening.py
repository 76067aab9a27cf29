"""Owns leaving out what a test reaches twice: passages whose every item others reach too, where the rest still holds without them. Must not
make steps.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from riktig.job.scripts import Script, Step
from riktig.live.coverage import Coverage, Item, Reach
from riktig.live.names import Names
from riktig.live.scripts import play_on
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan

MOST_REPLAYS = 24
"""So often the test is played again to see whether it holds without something."""
_BY_THE_WAY = frozenset({Reach.CLOSED, Reach.OPEN, Reach.CARRIES})
"""What is reached whenever something happens, and is looked for anew; what a stop stops and holds back belongs to its own passage."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Passage:
    """Steps of a test that belong together, from `first` up to and without `last`, and what they reach."""

    first: int
    last: int
    reached: frozenset[Item]


def shorten(
    plan: Plan,
    steps: Sequence[Step],
    passages: Sequence[Passage],
    on_share: Callable[[float], None] = lambda share: None,
) -> list[int]:
    """Return the places of the steps that are needed: without the others the test reaches all that it did, and every step still holds.

    Source:
        Halving what may be left out: delta debugging, Zeller and Hildebrandt 2002.
    """
    return _Shortening(plan, steps, passages, on_share).run()


class _Shortening:
    def __init__(
        self, plan: Plan, steps: Sequence[Step], passages: Sequence[Passage], on_share: Callable[[float], None]
    ) -> None:
        self._plan, self._steps, self._passages, self._on_share = plan, steps, passages, on_share
        self._gone: set[int] = set()
        self._replays = 0
        self._wanted = {item for item in self._items() if item[0] in _BY_THE_WAY}

    def run(self) -> list[int]:
        self._drop(self._superfluous())
        return [n for n in range(len(self._steps)) if n not in self._left_out()]

    def _items(self) -> set[Item]:
        return set().union(*(one.reached for n, one in enumerate(self._passages) if n not in self._gone))

    def _superfluous(self) -> list[int]:
        """Return the passages whose items others that stay reach too, the longest first."""
        counts: dict[Item, int] = {}
        for passage in self._passages:
            for item in passage.reached:
                counts[item] = counts.get(item, 0) + 1
        found = []
        for n in sorted(range(len(self._passages)), key=lambda n: self._passages[n].first - self._passages[n].last):
            reached = self._passages[n].reached
            if all(counts[item] > 1 for item in reached):
                found.append(n)
                for item in reached:
                    counts[item] -= 1
        return found

    def _drop(self, some: list[int]) -> None:
        """Leave out some passages if the test holds without them, else each half of them if it does."""
        if not some or self._replays >= MOST_REPLAYS:
            return
        self._gone |= set(some)
        if self._holds():
            return
        self._gone -= set(some)
        if len(some) > 1:
            half = len(some) // 2
            self._drop(some[:half])
            self._drop(some[half:])

    def _left_out(self) -> set[int]:
        return {step for n in self._gone for step in range(self._passages[n].first, self._passages[n].last)}

    def _holds(self) -> bool:
        """Return whether every step that is left holds, and all is reached that was."""
        self._replays += 1
        self._on_share(self._replays / MOST_REPLAYS)
        out = self._left_out()
        panel = Simulation(self._plan)
        coverage = Coverage(self._plan, panel)
        known: set[int] = set()

        def look() -> None:
            closed = hash(tuple(panel.network.closed))
            if closed not in known:
                known.add(closed)
                coverage.seen |= coverage.now(panel)

        look()
        panel.watch = look
        script = Script(steps=tuple(step for n, step in enumerate(self._steps) if n not in out))
        for played in play_on(panel, Names(panel), script):
            if played.misses:
                return False
        return coverage.seen >= self._wanted
