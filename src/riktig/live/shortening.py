"""Owns leaving out what a test reaches twice or does for nothing: passages whose every item others reach too, steps in which nothing is
seen, where the rest still holds without them. Must not make steps.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from riktig.job.scripts import Script, Step
from riktig.live.coverage import Coverage, Item, Reach
from riktig.live.names import Names
from riktig.live.scripts import ScriptError, play_on, play_step
from riktig.live.seen import look_at, tell_changes
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan

MOST_REPLAYS = 60
"""So often the test is played again to see whether it holds without something."""
_BY_THE_WAY = frozenset({Reach.CLOSED, Reach.OPEN, Reach.CARRIES})
"""What is reached whenever something happens, and is looked for anew; what a stop stops and holds back belongs to its own passage."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Passage:
    """Steps of a test that belong together, from `first` up to and without `last`, what they reach, and what goes off in which of them:
    that must have been on before it.
    """

    first: int
    last: int
    reached: frozenset[Item]
    stops: Mapping[int, frozenset[str]] = field(default_factory=dict)


Reasoned = tuple[Step, str]
"""A step, and for what it is there."""


def shorten(
    plan: Plan,
    steps: Sequence[Reasoned],
    passages: Sequence[Passage],
    on_share: Callable[[float], None] = lambda share: None,
) -> list[Reasoned]:
    """Return the steps that are needed: without the others the test reaches all that it did, and every step still holds. What must be done
    and shows nothing is done at the beginning of the next step.

    Source:
        Halving what may be left out: delta debugging, Zeller and Hildebrandt 2002.
    """
    made = _Shortening(plan, [step for step, _ in steps], passages, on_share)
    kept = [(made.steps[n], steps[n][1]) for n in made.run()]
    folded = _folded(kept)
    return folded if _is_met(plan, [step for step, _ in folded]) else kept


def _is_silent(step: Step) -> bool:
    """Return whether nothing is seen in a step and nothing must not be."""
    return not step.expect and not step.never


def _folded(steps: Sequence[Reasoned]) -> list[Reasoned]:
    """Return steps of which each shows something, but for the last: what shows nothing is done first in the one after it."""
    found: list[Reasoned] = []
    before: tuple[str, ...] = ()
    for step, why in steps:
        whole = _with_do(step, (*before, *step.do))
        before = whole.do if _is_silent(step) else ()
        if not _is_silent(step):
            found.append((whole, why))
    return [*found, (Step(do=before), "hands off")] if before else found


def _with_do(step: Step, do: tuple[str, ...]) -> Step:
    """Return a step in which something else is done."""
    return step.model_copy(update={"do": do}) if do != step.do else step


def _is_met(plan: Plan, steps: Sequence[Step]) -> bool:
    """Return whether a panel that has just been switched on does all that some steps expect."""
    panel = Simulation(plan)
    try:
        return not any(played.misses for played in play_on(panel, Names(panel), Script(steps=tuple(steps))))
    except ScriptError:
        return False


class _Shortening:
    """Tries the test without something. What lies ahead of that is settled already and is played only once: `_panel` stands before step
    `_place`.
    """

    def __init__(
        self, plan: Plan, steps: Sequence[Step], passages: Sequence[Passage], on_share: Callable[[float], None]
    ) -> None:
        self._plan, self._passages, self._on_share = plan, passages, on_share
        self.steps = list(steps)
        self._stops = {place: texts for passage in passages for place, texts in passage.stops.items()}
        self._gone: set[int] = set()
        self._replays = 0
        self._wanted: frozenset[Item] = frozenset()
        self._begin()

    def _begin(self) -> None:
        self._place, self._panel = 0, Simulation(self._plan)
        self._seen = Coverage(self._plan, self._panel)
        self._known: dict[int, frozenset[Item]] = {}
        self._reached = set(self._look(self._panel))

    def run(self) -> list[int]:
        """Return the places of the steps that are needed."""
        superfluous = sorted(self._superfluous(), key=lambda passage: passage.first)
        left = [passage for passage in self._passages if passage not in superfluous]
        self._wanted = _of_all(left)
        self._drop([range(passage.first, passage.last) for passage in superfluous])
        self._begin()
        self._quieten()
        silent = [n for n, step in enumerate(self.steps) if n and n not in self._gone and _is_silent(step)]
        self._drop([range(n, n + 1) for n in silent])
        return [n for n in range(len(self.steps)) if n not in self._gone]

    def _quieten(self) -> None:
        """Expect nothing of steps of which all that was expected has changed there once, and changes no more: what brought it about is left
        out.
        """
        left = [n for n in range(len(self.steps)) if n not in self._gone]
        before, after = self._changes(range(len(self.steps))), self._changes(left)
        for n in left[1:]:
            step = self.steps[n]
            if step.expect and not step.never and not after[n] and before[n] >= set(step.expect):
                self.steps[n] = step.model_copy(update={"expect": ()})

    def _changes(self, places: Sequence[int]) -> dict[int, set[str]]:
        """Return place -> what changes in the step there, where these steps alone are made one after the other."""
        panel = Simulation(self._plan)
        names, found = Names(panel), {}
        for place in places:
            before = look_at(panel)
            play_step(panel, names, self.steps[place], place)
            found[place] = set(tell_changes(names, before, look_at(panel)))
        return found

    def _superfluous(self) -> list[Passage]:
        """Return the passages whose items others that stay reach too, the longest first."""
        counts: dict[Item, int] = {}
        for passage in self._passages:
            for item in passage.reached:
                counts[item] = counts.get(item, 0) + 1
        found = []
        for passage in sorted(self._passages, key=lambda one: one.first - one.last):
            if all(counts[item] > 1 for item in passage.reached):
                found.append(passage)
                for item in passage.reached:
                    counts[item] -= 1
        return found

    def _drop(self, some: Sequence[range]) -> None:
        """Leave out some stretches of steps, given in order, if the test holds without them, else each half of them if it does."""
        if not some or self._replays >= MOST_REPLAYS:
            return
        self._go_to(some[0].start)
        out = {n for stretch in some for n in stretch}
        self._gone |= out
        if self._holds():
            return
        self._gone -= out
        if len(some) > 1:
            half = len(some) // 2
            self._drop(some[:half])
            self._drop(some[half:])

    def _go_to(self, place: int) -> None:
        """Play what is settled up to a step."""
        self._play(self._panel, self._reached, self._place, place)
        self._place = max(self._place, place)

    def _holds(self) -> bool:
        """Return whether every step that is left holds, and all is reached that was."""
        self._replays += 1
        self._on_share(self._replays / MOST_REPLAYS)
        reached = set(self._reached)
        is_met = self._play(self._panel.fork(), reached, self._place, len(self.steps))
        return is_met and reached >= self._wanted

    def _play(self, panel: Simulation, reached: set[Item], first: int, last: int) -> bool:
        """Play the steps that are left between two places, note what they reach, and return whether each of them holds."""
        panel.watch = lambda: reached.update(self._look(panel))
        names = Names(panel)
        try:
            return all(self._goes_well(panel, names, n) for n in range(first, last) if n not in self._gone)
        finally:
            panel.watch = None

    def _goes_well(self, panel: Simulation, names: Names, place: int) -> bool:
        """Play a step, and return whether all is as expected and what it stops has been on."""
        before = look_at(panel) if place in self._stops else {}
        misses = play_step(panel, names, self.steps[place], place).misses
        return not misses and self._stops.get(place, frozenset()) <= set(
            tell_changes(names, before, look_at(panel)) if before else ()
        )

    def _look(self, panel: Simulation) -> frozenset[Item]:
        """Return what an instant reaches: what is the same whenever everything conducts alike."""
        instant = panel.network.instant
        if instant not in self._known:
            self._known[instant] = frozenset(self._seen.now(panel))
        return self._known[instant]


def _of_all(passages: Sequence[Passage]) -> frozenset[Item]:
    """Return what passages reach of what is reached by the way."""
    reached = frozenset[Item]().union(*(passage.reached for passage in passages))
    return frozenset(item for item in reached if item[0] in _BY_THE_WAY)
