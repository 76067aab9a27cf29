"""Owns which steps of a test reveal which fault. Must not choose steps."""

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from riktig.job.scripts import Script
from riktig.live.built import Built
from riktig.live.names import Names
from riktig.live.resistance import LEADS_OHM
from riktig.live.rig import WiringState
from riktig.live.scripts import ScriptError, play_on
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.prove.dead import DeadPanel
from riktig.prove.faults import Fault, Slip, list_faults
from riktig.prove.steps import Phase, Step


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultCover:
    """A fault, the steps that reveal it in working order, and why none does, "" where one does."""

    fault: Fault
    steps: tuple[Step, ...]
    because: str = ""

    @property
    def first(self) -> Step | None:
        """The step at which it comes to light."""
        return self.steps[0] if self.steps else None


def cover_faults(plan: Plan, steps: Sequence[Step], faults: Sequence[Fault]) -> tuple[FaultCover, ...]:
    """Return of each fault which of the steps before the supply is switched on reveal it."""
    watcher = DeadCover(DeadPanel(plan), steps)
    return tuple(watcher.cover(fault) for fault in faults)


class DeadCover:
    """Which of some steps on the dead panel reveal a fault.

    Args:
        panel: the dead panel as planned.
        steps: the steps, in working order.
    """

    def __init__(self, panel: DeadPanel, steps: Sequence[Step]) -> None:
        self._panel = panel
        self._place = {step.key: n for n, step in enumerate(steps)}
        self._of_wire = {step.wire: step for step in steps if step.wire is not None}
        self._apart = [step for step in steps if step.phase is Phase.APART]
        self._bonds = [step for step in steps if step.phase is Phase.BOND and not step.prepare]
        self._fitting = {step.of: step for step in steps if step.phase is Phase.FITTING and not step.a}
        self._looks = {step.of or step.key: step for step in steps if step.phase is Phase.LOOK}
        self._sides: defaultdict[str, dict[str, int]] = defaultdict(dict)
        for step in self._apart:
            for side, ends in enumerate((step.a, step.b)):
                for end in ends:
                    self._sides[end][step.key] = side
        self._lows = {step.key: step.low for step in self._apart}
        self._clusters = panel.clusters()
        self._side_of = {self._clusters.get(end, end): sides for end, sides in self._sides.items()}
        earth = {self._clusters.get(end) for step in self._bonds for end in step.a}
        self._earthed = {wire.id for wire in panel.plan.conductors if self._clusters[wire.a] in earth}

    def cover(self, fault: Fault) -> FaultCover:
        """Return the steps that reveal a fault, in their order."""
        built = fault.built
        if built is None:
            found = [self._looks[place] for place in fault.at if place in self._looks]
        else:
            found = [step for wire in built.ends if (step := self._of_wire.get(wire)) and self.reveals(step, built)]
            found += self._shorted(built)
            if not self._earthed.isdisjoint(built.ends):
                found += [step for step in self._bonds if self.reveals(step, built)]
            if fault.slip in {Slip.TURNED, Slip.POSITION}:
                found += [self._fitting[d] for d in {end.rpartition(":")[0] for end in fault.at} if d in self._fitting]
        ordered = tuple(sorted(found, key=lambda step: self._place[step.key]))
        return FaultCover(fault=fault, steps=ordered, because="" if ordered else _why(fault))

    def may_reveal(self, step: Step, fault: Fault) -> bool:
        """Return whether a step may fail because of a fault: quickly, and never no where it does."""
        built = fault.built
        if built is None:
            return False
        if step.phase is Phase.THROUGH:
            return step.wire in built.ends
        if step.phase is Phase.BOND:
            return not self._earthed.isdisjoint(built.ends)
        if step.phase is not Phase.APART:
            return step.of in {end.rpartition(":")[0] for end in fault.at}
        joined = [*(ends for ends in built.ends.values() if ends is not None), *built.extra, *built.turned]
        return any(self._sides_of(a).get(step.key, 0) != self._sides_of(b).get(step.key, 1) for a, b in joined)

    def must_reveal(self, step: Step, fault: Fault) -> bool:
        """Return whether a step surely fails because of a fault: quickly, and never yes where it may pass."""
        if (
            step.phase is not Phase.THROUGH
            or step.wire is None
            or fault.built is None
            or step.wire not in fault.built.ends
        ):
            return False
        ends = fault.built.ends[step.wire]
        return ends is None or self._clusters.get(ends[0], ends[0]) != self._clusters.get(ends[1], ends[1])

    def _sides_of(self, end: str) -> dict[str, int]:
        return self._side_of.get(self._clusters.get(end, end), {})

    def _shorted(self, built: Built) -> list[Step]:
        """Return the measurements between bundles that something joins which was not joined before."""
        new = [ends for ends in built.ends.values() if ends is not None]
        keys: set[str] = set()
        for one, _ in (*new, *built.extra, *built.turned):
            probes = [(self._sides[end], ohms) for end, ohms in self._panel.ways((one,), built) if end in self._sides]
            for n, (sides, ohms) in enumerate(probes):
                for others, more in probes[n + 1 :]:
                    keys.update(
                        k for k, side in sides.items() if others.get(k, side) != side and ohms + more < self._lows[k]
                    )
        return [step for step in self._apart if step.key in keys]

    def reveals(self, step: Step, built: Built) -> bool:
        """Return whether a step that measures a way through fails in a panel as it was built."""
        if step.phase is Phase.THROUGH and step.prepare:
            ends = built.ends.get(step.wire or "", (step.a[0], step.b[0]))
            return ends is None or set(ends) != {step.a[0], step.b[0]}
        return self._panel.least_ohms(step.a, step.b, built, most=step.high) > step.high - LEADS_OHM


def _why(fault: Fault) -> str:
    return _WHY.get(fault.slip, "both its ends read the same with and without it")


_WHY: Mapping[Slip, str] = {
    Slip.EXTRA_BRIDGE: "what it bridges is joined at rest by a contact or overload",
    Slip.TURNED: "no meter is put to that contact before it is fitted",
    Slip.DIAL: "nobody looks at that dial",
    Slip.MISSING_BRIDGE: "another way joins the same clamps: the bridge carries nothing alone",
    Slip.SWAPPED: "what is exchanged is joined at rest by a contact or overload",
    Slip.CROSSED: "nobody reads the numbers at the clamps",
    Slip.BESIDE: "where it landed is joined at rest with where it should be",
    Slip.LIKE: "where it landed is joined at rest with where it should be",
}


def cover_by_functions(plan: Plan, script: Script, faults: Iterable[Fault]) -> Iterator[tuple[Fault, int]]:
    """Yield faults with the number of the step of a function test at which each comes to light, 0 where none shows it.

    What cannot be played on a panel that is wired so has come to light at that step as well.
    """
    for fault in faults:
        if fault.built is None:
            continue
        panel = Simulation(plan, WiringState(built=fault.built))
        yield fault, _first_miss(panel, script)


def _first_miss(panel: Simulation, script: Script) -> int:
    names = Names(panel)
    try:
        for number, played in enumerate(play_on(panel, names, script), 1):
            if played.misses:
                return number
    except ScriptError as error:
        return error.step
    return 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Revealed:
    """A fault in words, the step that reveals it first and its phase, and how many steps do."""

    fault: str
    phase: Phase
    first: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultReport:
    """Which faults a test reveals, each with its first step, and those that none reveals, with the reason."""

    revealed: tuple[Revealed, ...]
    hidden: tuple[tuple[str, str], ...]

    @property
    def count(self) -> int:
        """How many faults there are."""
        return len(self.revealed) + len(self.hidden)

    @property
    def first(self) -> Mapping[str, int]:
        """How many each phase reveals first, in working order."""
        counts = Counter(one.phase for one in self.revealed)
        return {phase.value: counts[phase] for phase in Phase if counts[phase]}


def report_faults(
    plan: Plan,
    steps: Sequence[Step],
    scripts: Sequence[Script] = (),
    on_share: Callable[[float], None] = lambda share: None,
) -> FaultReport:
    """Return which faults a test reveals; scripts are played for those that no step before the supply is switched on shows."""
    found: dict[str, Revealed] = {}
    covers = cover_faults(plan, steps, list_faults(plan))
    for cover in covers:
        if cover.first is not None:
            found[cover.fault.key] = _revealed(cover.fault, cover.first.phase, cover.first.title, len(cover.steps))
    for script in scripts:
        asked = [cover.fault for cover in covers if cover.fault.key not in found]
        for number, (fault, step) in enumerate(cover_by_functions(plan, script, asked), 1):
            on_share(number / (len(asked) + 1))
            if step:
                found[fault.key] = _revealed(fault, Phase.FUNCTION, f"{script.title or script.name}, step {step}", 1)
    tail = "no kept script shows it" if scripts else "no script of functions is kept that might show it"
    hidden = ((c.fault.words, f"{c.because}; {tail}") for c in covers if c.fault.key not in found)
    return FaultReport(revealed=tuple(found.values()), hidden=tuple(hidden))


def _revealed(fault: Fault, phase: Phase, first: str, count: int) -> Revealed:
    return Revealed(fault=fault.words, phase=phase, first=first, count=count)
