"""Owns finding the few moves that bring about what a test has not reached. Must not make steps."""

from collections import deque
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

from riktig.live.actions import MOST_LATER, perform, wait_for
from riktig.live.coverage import Coverage, Item, Reach
from riktig.live.derived import is_excused
from riktig.live.moves import Move, Sort
from riktig.live.names import Names
from riktig.live.simulation import Simulation
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan

_MOST_TRIED, _MOST_MOVES = 600, 4
"""So many ways to something that is left are tried, and so many moves lead to it at most."""
_RAIL = 10
"""A potential with more terminals than that joins what has nothing to do with each other."""
Reaching = Callable[[Simulation], frozenset[Item]]
"""What a panel reaches as it stands."""


def way_to_left(
    panel: Simulation, coverage: Coverage, moves: Sequence[Move], reaching: Reaching, on_try: Callable[[], None]
) -> tuple[Move, ...]:
    """Return the fewest moves from how a panel stands that reach something that is left, none where no few of those nearby do; `on_try` is
    called before each, and may raise to end it.

    Source:
        Breadth-first search.
    """
    wanted = _left(coverage)
    near = _near(coverage, wanted, moves)
    waiting: deque[tuple[Simulation, tuple[Move, ...]]] = deque([(panel, ())])
    known = {panel.network.instant}
    tried = 0
    while wanted and waiting and tried < _MOST_TRIED:
        start, path = waiting.popleft()
        for move in near:
            tried += 1
            on_try()
            fork = start.fork()
            if wanted & _play(fork, move, reaching):
                return (*path, move)
            if fork.network.instant not in known and len(path) < _MOST_MOVES - 1:
                known.add(fork.network.instant)
                waiting.append((fork, (*path, move)))
    return ()


def _play(panel: Simulation, move: Move, reaching: Reaching) -> set[Item]:
    """Make a move in a panel, a hand taken away again, wait for what it sets going, and return what that reaches."""
    seen: set[Item] = set()
    names = Names(panel)
    panel.watch = lambda: seen.update(reaching(panel))
    for actions in (move.do, move.back if move.is_by_hand else ()):
        for action in actions:
            perform(panel, names, action)
        for _ in range(MOST_LATER):
            if wait := wait_for(panel):
                perform(panel, names, wait)
    panel.watch = None
    return seen | reaching(panel)


def _left(coverage: Coverage) -> set[Item]:
    """Return what is not reached yet, but for what nobody asks a function test for."""
    left: set[Item] = {(sort, name) for name in coverage.unmoved for sort in (Reach.CLOSED, Reach.OPEN)}
    left |= {(Reach.CARRIES, wire.id) for wire in coverage.idle}
    return {
        item
        for item in left - coverage.seen
        if not any(is_excused(coverage, device_of(end)) for end in coverage.ends_of(item))
    }


def _near(coverage: Coverage, left: Collection[Item], moves: Sequence[Move]) -> list[Move]:
    """Return the moves of what is near something that is left: levels by their floats, each also after it was empty; supplies only right
    beside it.
    """
    plan = coverage.plan
    beside = _beside(plan, {device_of(end) for item in left for end in coverage.ends_of(item)})
    near = _beside(plan, beside)
    found = []
    near_owners = {plan.circuit.index[name].owner for name in near if name in plan.circuit.index}
    for level in (one for one in plan.job.levels if one.name in near_owners):
        of_level = [move for move in moves if move.device == level.name]
        found += [replace(move, do=(*of_level[-1].do, *move.do)) for move in of_level[: len(of_level) // 2]]
        found += of_level
    found += [move for move in moves if move.device in (beside if move.sort is Sort.SUPPLY else near)]
    return found


def _beside(plan: Plan, devices: set[str]) -> set[str]:
    """Return devices with those that a potential which is no rail joins to them."""
    joined = [set(map(device_of, p.net.terminals)) for p in plan.potentials if len(p.net.terminals) <= _RAIL]
    return devices.union(*(some for some in joined if not devices.isdisjoint(some)))
