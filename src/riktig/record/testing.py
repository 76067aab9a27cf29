"""Owns what the Record says of the test of one unit: verdicts, readings, what was left out and why, faults that were found, and whether it
may be switched on. Must not store anything.
"""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import inf

from riktig.prove.faults import Slip
from riktig.prove.steps import Phase, Step, Unit
from riktig.record.events import Event, EventKind

CAUTION_KEY = "caution:live"


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """What was read or seen at a step: in its unit, infinite for an open circuit; the verdict, who, when (UTC), and with which meter."""

    value: float
    is_passed: bool
    person: str
    time: str
    meter: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What somebody gave as a reason, who and when."""

    reason: str
    person: str
    time: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """A fault that was found: its key, in words, how it is mended, who and when; `is_mended` once that is ticked."""

    key: str
    words: str
    mend: str
    person: str
    time: str
    slip: str = ""
    is_mended: bool = False


@dataclass(frozen=True, kw_only=True)
class Testing:
    """How far the test of one unit is."""

    __test__ = False
    steps: tuple[Step, ...]
    readings: Mapping[str, Reading]
    outdated: tuple[str, ...] = ()
    """Keys of steps that were judged before what they prove changed."""
    skipped: Mapping[str, Said] = field(default_factory=dict)
    waived: Mapping[Phase, Said] = field(default_factory=dict)
    caution: Said | None = None
    faults: tuple[Found, ...] = ()
    photos: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    probes: tuple[tuple[str, tuple[str, ...], float], ...] = ()
    """What was measured on the way to the fault that is looked for now: from a terminal to others, in ohm."""

    @cached_property
    def by_key(self) -> Mapping[str, Step]:
        """The steps by their keys."""
        return {step.key: step for step in self.steps}

    @property
    def phases(self) -> tuple[Phase, ...]:
        """The phases that have steps, in the order of the work."""
        there = {step.phase for step in self.steps}
        return tuple(phase for phase in Phase if phase in there)

    def steps_of(self, phase: Phase) -> tuple[Step, ...]:
        """Return the steps of a phase in working order."""
        return tuple(step for step in self.steps if step.phase is phase)

    def is_open(self, step: Step) -> bool:
        """Return whether a step is still to be done: neither judged nor skipped."""
        return step.key not in self.readings and step.key not in self.skipped

    def left(self, phase: Phase) -> tuple[Step, ...]:
        """Return the steps of a phase that keep what comes after it shut: open ones and failed ones, none where it was waived."""
        if phase in self.waived:
            return ()
        return tuple(
            step for step in self.steps_of(phase)
            if self.is_open(step) or (step.key in self.readings and not self.readings[step.key].is_passed)
        )  # fmt: skip

    @property
    def is_proved_dead(self) -> bool:
        """Whether every phase before the supply is switched on is passed or waived."""
        return not any(self.left(phase) for phase in self.phases if not phase.is_live)

    def why_shut(self, step: Step) -> str:
        """Return why a step may not be done yet, "" where it may: nothing is switched on before what is dead is proved and the caution
        acknowledged.
        """
        if not step.phase.is_live:
            return ""
        for phase in self.phases:
            left = self.left(phase) if not phase.is_live else ()
            if left:
                count = len(self.steps_of(phase))
                return (
                    f"shut until “{phase.value}” is passed or waived with name and reason: {len(left)} of {count} left"
                )
        if any(not one.is_mended for one in self.faults):
            return "shut until the fault that was found is mended"
        return "" if self.caution is not None else "shut until a named person has acknowledged the caution"

    @property
    def failed(self) -> tuple[Step, ...]:
        """The steps that stand failed, in working order."""
        return tuple(s for s in self.steps if s.key in self.readings and not self.readings[s.key].is_passed)


def read_testing(steps: Sequence[Step], events: Iterable[Event], unit: str) -> Testing:
    """Return the test of one unit: the last word on each step counts, and only while what it proves is planned as it was then."""
    current = {step.key: step for step in steps}
    last: dict[str, Event] = {}
    waived: dict[Phase, Said] = {}
    caution: Said | None = None
    faults: dict[str, Found] = {}
    photos: dict[str, tuple[str, ...]] = {}
    probes: list[tuple[str, tuple[str, ...], float]] = []
    for event in (one for one in events if one.unit == unit):
        if event.kind in {EventKind.MEASURE, EventKind.SKIP}:
            last[event.subject] = event
        elif event.kind is EventKind.WAIVE and event.subject in _PHASES:
            waived[_PHASES[event.subject]] = _said(event)
        elif event.kind is EventKind.CAUTION:
            caution = _said(event)
        elif event.kind is EventKind.PROBE:
            ohms = event.data.get("ohms")
            ends = str(event.data.get("b", "")).split()
            probes.append((str(event.data.get("a", "")), tuple(ends), inf if ohms is None else ohms))
        elif event.kind is EventKind.FAULT:
            probes.clear()
            faults[event.subject] = _found(event)
            for key in event.data.get("retest", ()):
                last.pop(key, None)
        elif event.kind in {EventKind.TICK, EventKind.UNTICK} and event.subject in faults:
            faults[event.subject] = replace(faults[event.subject], is_mended=event.kind is EventKind.TICK)
        elif event.kind is EventKind.PHOTO:
            photos[event.subject] = (*photos.get(event.subject, ()), str(event.data.get("name", "")))
    valid = {k: e for k, e in last.items() if k in current and e.data.get("as") == current[k].as_planned}
    return Testing(
        steps=tuple(steps),
        readings={k: _reading(current[k], e) for k, e in valid.items() if e.kind is EventKind.MEASURE},
        outdated=tuple(k for k in current if k in last and k not in valid),
        skipped={k: _said(e) for k, e in valid.items() if e.kind is EventKind.SKIP},
        waived=waived, caution=caution, faults=tuple(faults.values()), photos=photos, probes=tuple(probes),
    )  # fmt: skip


_PHASES = {f"phase:{phase.value}": phase for phase in Phase}


def phase_key(phase: Phase) -> str:
    """Return the subject of events about a whole phase."""
    return f"phase:{phase.value}"


def _reading(step: Step, event: Event) -> Reading:
    value = event.data.get(step.unit.value)
    if step.unit is Unit.SEEN and value is None:
        value = 1.0 if event.data.get("verdict") == "pass" else 0.0
    return Reading(
        value=inf if value is None else value, is_passed=event.data.get("verdict") == "pass", person=event.person,
        time=event.time, meter=str(event.data.get("meter", "")),
    )  # fmt: skip


def _said(event: Event) -> Said:
    return Said(reason=str(event.data.get("reason", "")), person=event.person, time=event.time)


def _found(event: Event) -> Found:
    words, mend, slip = (str(event.data.get(name, "")) for name in ("words", "mend", "slip"))
    return Found(key=event.subject, words=words, mend=mend, slip=slip, person=event.person, time=event.time)


def found_before(events: Iterable[Event]) -> Mapping[Slip, int]:
    """Return how often each slip was found in any unit of a job: what the odds of the next search are added to."""
    counts: Counter[Slip] = Counter()
    for event in events:
        if event.kind is EventKind.FAULT and event.data.get("slip") in set(Slip):
            counts[Slip(event.data["slip"])] += 1
    return counts
