"""Owns what the Test bench asks of the worker: the way to a fault, what faults a test reveals, a hidden fault to practise on. Must not know
the window.
"""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from riktig.job.scripts import Script
    from riktig.live.built import Built
    from riktig.plan.plan import Plan
    from riktig.prove.coverage import FaultCover
    from riktig.prove.search import Probe
    from riktig.prove.steps import Step
    from riktig.record.testing import Testing

SHOWN = 12
OnShare = Callable[[float], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Observed:
    """What is known of a panel so far: verdicts by the keys of steps, readings in ohm from a terminal to others, and how often each slip
    was found before.
    """

    verdicts: tuple[tuple[str, bool], ...] = ()
    readings: tuple[tuple[str, tuple[str, ...], float], ...] = ()
    before: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectLine:
    """A suspect as it is shown: its share 0 to 1, at which terminals, what mends it and which steps are open again then."""

    key: str
    slip: str
    words: str
    mend: str
    share: float
    at: tuple[str, ...]
    retest: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trail:
    """How far the way to a fault is: suspects likeliest first, how many, and what to measure next, None where nothing tells more."""

    suspects: tuple[SuspectLine, ...]
    count: int
    probe: "Probe | None"


_known: deque[tuple["Plan", "tuple[Step, ...]", "tuple[FaultCover, ...]"]] = deque(maxlen=1)


def _covers(plan: "Plan") -> "tuple[tuple[Step, ...], tuple[FaultCover, ...]]":
    """Return the steps of a Plan and its faults with those that reveal each, made once for a Plan."""
    from riktig.prove.coverage import cover_faults
    from riktig.prove.faults import list_faults
    from riktig.prove.program import list_steps

    if not _known or _known[0][0] is not plan:
        steps = list_steps(plan)
        _known.append((plan, steps, cover_faults(plan, steps, list_faults(plan))))
    return _known[0][1:]


def follow_fault(plan: "Plan", /, seen: Observed) -> Trail:
    """Return the suspects that explain what was seen, and the measurement that tells most of them apart."""
    from riktig.prove.faults import Slip
    from riktig.prove.search import Search

    steps, covers = _covers(plan)
    search = Search(plan, covers, {Slip(slip): count for slip, count in seen.before})
    by_key = {step.key: step for step in steps}
    for key, is_passed in seen.verdicts:
        if key in by_key:
            search.take_step(by_key[key], is_passed=is_passed)
    for a, b, ohms in seen.readings:
        search.take_reading(a, b, ohms)
    shown_by = {cover.fault.key: cover.steps for cover in covers}
    suspects = search.suspects
    lines = tuple(
        SuspectLine(
            key=one.fault.key, slip=one.fault.slip.value, words=one.fault.words, mend=one.fault.mend, share=one.share, at=one.fault.at,
            retest=tuple(step.key for step in shown_by[one.fault.key]),
        )
        for one in suspects[:SHOWN]
    )  # fmt: skip
    return Trail(suspects=lines, count=len(suspects), probe=search.next_probe())


@dataclass(frozen=True, slots=True, kw_only=True)
class Hidden:
    """A fault that is hidden in a simulated panel: how that is built, what it is, the step that fails first, and how many measurements the
    best way takes.
    """

    key: str
    words: str
    built: "Built"
    first: str
    best: int


def hide_fault(plan: "Plan", /, seed: int, level: int) -> tuple[Hidden, ...]:
    """Return faults to practise on, in a panel of which the dead tests reveal each: one (levels 1 and 2) or two (level 3).

    Args:
        plan: the panel.
        seed: of the choice.
        level: 1 an open wire, 2 any single slip, 3 two of them.
    """
    from riktig.prove.faults import Slip
    from riktig.prove.steps import Phase

    _, covers = _covers(plan)
    able = [
        cover for cover in covers
        if cover.fault.built is not None and cover.first is not None and cover.first.phase in {Phase.THROUGH, Phase.APART}
        and (level > 1 or cover.fault.slip is Slip.OPEN)
    ]  # fmt: skip
    chosen = Random(seed).sample(able, min(2 if level == 3 else 1, len(able)))
    return tuple(
        Hidden(
            key=cover.fault.key, words=cover.fault.words, built=cover.fault.built, first=cover.first.key,
            best=best_way(plan, cover, covers),
        )
        for cover in chosen if cover.fault.built is not None and cover.first is not None
    )  # fmt: skip


def best_way(plan: "Plan", cover: "FaultCover", covers: "tuple[FaultCover, ...]") -> int:
    """Return after how many measurements the search is left with a fault, from the step that reveals it on."""
    from riktig.prove.dead import DeadPanel
    from riktig.prove.search import Search

    if cover.fault.built is None or cover.first is None:
        return 0
    network = DeadPanel(plan).network(cover.fault.built)
    search, count = Search(plan, covers), 0
    search.take_step(cover.first, is_passed=False)
    while count < _MOST_PROBES and search.suspects[0].share < _SURE:
        probe = search.next_probe()
        if probe is None:
            break
        search.take_reading(probe.a, probe.b, network.between((probe.a,), probe.b))
        count += 1
    return count


_MOST_PROBES, _SURE = 30, 0.95


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
