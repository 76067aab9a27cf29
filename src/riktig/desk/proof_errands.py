"""Owns what the Test bench asks of the worker: the way to a fault, what may have failed, what faults there are, the papers. Must not know
the window.
"""

from collections import Counter, deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.job.scripts import Script
    from riktig.live.built import Built
    from riktig.plan.plan import Plan
    from riktig.prove.coverage import FaultCover
    from riktig.prove.faults import Fault, Slip
    from riktig.prove.search import Probe
    from riktig.prove.steps import Step
    from riktig.record.testing import Testing

SHOWN, MOST_FOLLOWED = 12, 800
"""So many suspects are shown; of more than so many none is followed before other steps of the test have told some of them apart."""
OnShare = Callable[[float], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Observed:
    """What is known of a panel so far: verdicts by the keys of steps, readings in ohm from a terminal to others, how often each slip was
    found before in this job, and where it lies, so that the other jobs of its folder count too.
    """

    verdicts: tuple[tuple[str, bool], ...] = ()
    readings: tuple[tuple[str, tuple[str, ...], float], ...] = ()
    before: tuple[tuple[str, int], ...] = ()
    file: Path | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectLine:
    """A suspect as it is shown: its share 0 to 1, at which terminals, what mends it and which steps are open then; `ref` is what shows
    it on the drawings, the wire or the device.
    """

    key: str
    slip: str
    words: str
    mend: str
    share: float
    at: tuple[str, ...]
    ref: str
    retest: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trail:
    """How far the way to a fault is: suspects likeliest first, how many, what to measure next, None where nothing tells more, and how many
    faults that were found before are in the odds.
    """

    suspects: tuple[SuspectLine, ...]
    count: int
    probe: "Probe | None"
    before: int = 0


class Proof:
    """What is known of the faults of a Plan: its steps, every fault, and those steps that reveal the ones that were asked for."""

    def __init__(self, plan: "Plan") -> None:
        from riktig.prove.coverage import DeadCover
        from riktig.prove.dead import DeadPanel
        from riktig.prove.faults import list_faults
        from riktig.prove.probing import Reach
        from riktig.prove.program import list_steps

        self.plan = plan
        self.steps, self.faults = list_steps(plan), list_faults(plan)
        self.places = Counter(fault.slip for fault in self.faults)
        self.by_key = {step.key: step for step in self.steps}
        self.panel, self.reach = DeadPanel(plan), Reach(plan)
        self._watcher = DeadCover(self.panel, self.steps)
        self._covers: dict[str, FaultCover] = {}

    def cover(self, fault: "Fault") -> "FaultCover":
        """Return a fault with the steps that reveal it."""
        if fault.key not in self._covers:
            self._covers[fault.key] = self._watcher.cover(fault)
        return self._covers[fault.key]

    def suspected(self, failed: "Sequence[Step]", passed: "Sequence[Step]" = ()) -> "list[Fault]":
        """Return the faults that may explain a step that failed and contradict none that passed, as far as that is seen at a glance."""
        from riktig.prove.steps import Phase

        sound = {step.wire: step for step in passed if step.wire is not None}
        apart = [step for step in passed if step.phase is Phase.APART]
        found = []
        for fault in self.faults:
            if fault.built is None or not any(self._watcher.may_reveal(step, fault) for step in failed):
                continue
            measured = [sound[wire] for wire in fault.built.ends if wire in sound]
            if any(self._watcher.must_reveal(step, fault) for step in measured):
                continue
            if fault.built.extra and any(self._watcher.may_reveal(step, fault) for step in apart):
                continue
            found.append(fault)
        return found


_known: deque[Proof] = deque(maxlen=1)


def proof_of(plan: "Plan") -> Proof:
    """Return what is known of the faults of a Plan, made once for it."""
    if not _known or _known[0].plan is not plan:
        _known.append(Proof(plan))
    return _known[0]


def follow_fault(plan: "Plan", /, seen: Observed) -> Trail:
    """Return the suspects that explain what was seen, and the measurement that tells most of them apart."""
    from riktig.prove.search import Search

    proof = proof_of(plan)
    judged = [(proof.by_key[key], is_passed) for key, is_passed in seen.verdicts if key in proof.by_key]
    failed, passed = ([step for step, verdict in judged if verdict is wanted] for wanted in (False, True))
    faults = proof.suspected(failed, passed)
    if not faults or len(faults) > MOST_FOLLOWED:
        return Trail(suspects=(), count=len(faults), probe=None)
    covers = [proof.cover(fault) for fault in faults]
    before = _found_before(seen)
    search = Search(proof.panel, proof.reach, covers, proof.places, before)
    for step, is_passed in judged:
        search.take_step(step, is_passed=is_passed)
    for a, b, ohms in seen.readings:
        search.take_reading(a, b, ohms)
    suspects = search.suspects
    lines = tuple(_line(one.fault, one.share, proof.cover(one.fault)) for one in suspects[:SHOWN])
    return Trail(suspects=lines, count=len(suspects), probe=search.next_probe(), before=before.total())


_past: dict[Path, "Mapping[Slip, int]"] = {}


def _found_before(seen: Observed) -> "Counter[Slip]":
    """Return how often each slip was found before: in this job, and in the others of its folder, which are read once."""
    from riktig.files.past_faults import count_past
    from riktig.prove.faults import Slip

    if seen.file is not None and seen.file not in _past:
        _past[seen.file] = count_past(seen.file.parent, seen.file)
    own = Counter({Slip(slip): count for slip, count in seen.before})
    return own + Counter(_past.get(seen.file, {}) if seen.file is not None else {})


def explain_function(plan: "Plan", /, script: str, number: int, seen: Observed, *, on_share: OnShare) -> Trail | None:
    """Return what would come to light at a step of a kept script and not before: of the slips of wiring those that no measurement on the
    dead panel shows, for all others were found then; and what may have failed inside devices. None where the script is not kept any more.
    """
    from riktig.prove.coverage import cover_by_functions
    from riktig.prove.failures import explain_step
    from riktig.prove.faults import ODDS, Slip
    from riktig.prove.steps import Phase

    proof = proof_of(plan)
    kept = next((one for one in plan.job.scripts if one.name == script), None)
    if kept is None:
        return None
    measured = {Phase.THROUGH, Phase.BOND, Phase.APART}
    asked = [
        f for f in proof.faults if f.built is not None and measured.isdisjoint(s.phase for s in proof.cover(f).steps)
    ]
    failed = explain_step(plan, kept, number)
    found = [*failed]
    for count, (fault, step) in enumerate(cover_by_functions(plan, kept, asked), 1):
        on_share(count / (len(asked) + 1))
        if step == number:
            found.append(fault)
    places, before = {**proof.places, Slip.FAILED: _FAILING * len(plan.circuit.devices)}, _found_before(seen)
    chances = {fault.key: (ODDS[fault.slip] + before[fault.slip]) / places[fault.slip] for fault in found}
    whole = sum(chances.values())
    found.sort(key=lambda fault: -chances[fault.key])
    lines = tuple(_line(fault, chances[fault.key] / whole, proof.cover(fault)) for fault in found[:SHOWN])
    return Trail(suspects=lines, count=len(found), probe=None, before=before.total())


_FAILING = 4
"""In so many ways a device may fail inside, usually."""


def _line(fault: "Fault", share: float, cover: "FaultCover") -> SuspectLine:
    return SuspectLine(
        key=fault.key, slip=fault.slip.value, words=fault.words, mend=fault.mend, share=share, at=fault.at,
        retest=tuple(step.key for step in cover.steps),
        ref=next((f"wire:{wire}" for wire in (fault.built.ends if fault.built is not None else ())), fault.at[0].rpartition(":")[0]),
    )  # fmt: skip


def name_faults(plan: "Plan", /) -> "tuple[tuple[str, str, Built], ...]":
    """Return the faults that can be put into a simulated panel: in words, their keys, and how it is built then."""
    return tuple((fault.words, fault.key, fault.built) for fault in proof_of(plan).faults if fault.built is not None)


def derive_script(plan: "Plan", /, *, on_share: OnShare) -> "Script | None":
    """Return the function test that follows from the circuit."""
    from riktig.live.derive import derive_tests

    return derive_tests(plan, on_share).script


def write_test_report(plan: "Plan", /, folder: Path, testing: "Testing", unit: str, *, on_share: OnShare) -> str:
    """Write the report of the test of a unit; return in a sentence where it is, or why not."""
    from riktig.files.proof_papers import write_report
    from riktig.refusal import Refusal, sentence_of

    try:
        paths = write_report(plan, testing, unit, folder, on_share=on_share)
    except Refusal as error:
        return sentence_of(error)
    return f"report written to {folder}: {', '.join(path.name for path in paths)}"
