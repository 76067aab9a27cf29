"""Owns what the window writes of a test into the Record of the open job. Must not know what follows from it."""

from collections.abc import Mapping, Sequence
from math import isinf
from typing import TYPE_CHECKING

from riktig.record.events import EventKind

if TYPE_CHECKING:
    from riktig.app.record_keeper import RecordKeeper
    from riktig.prove.steps import Phase, Step


class RecordOfTests:
    """Steps that are judged or left out, phases that are waived, faults that are found: each is in the file before it is told."""

    def __init__(self, keeper: "RecordKeeper") -> None:
        self._keeper = keeper

    def judge(self, step: "Step", reading: float, meter: str = "") -> bool:
        """Store what was read or seen at a step with its verdict and the meter; refused while its phase is shut."""
        progress = self._keeper.progress
        shut = progress.testing.why_shut(step) if progress is not None else ""
        if shut:
            self._keeper.refuse(f"{step.title}: {shut}")
            return False
        verdict = "pass" if step.is_passed(reading) else "fail"
        limits = {name: value for name, value in (("low", step.low), ("high", step.high)) if not isinf(value)}
        said = {step.unit.value: None if isinf(reading) else reading, "verdict": verdict, "as": step.as_planned}
        data = {**said, **limits, "a": " ".join(step.a), "b": " ".join(step.b), **({"meter": meter} if meter else {})}
        return self._keeper.store(EventKind.MEASURE, step.key, **data)

    def skip(self, step: "Step", reason: str) -> None:
        """Store that a step is left out, and why."""
        self._keeper.store(EventKind.SKIP, step.key, reason=reason, **{"as": step.as_planned})

    def waive(self, phase: "Phase", reason: str) -> None:
        """Store that a phase of the test is waived, and why."""
        from riktig.record.testing import phase_key

        self._keeper.store(EventKind.WAIVE, phase_key(phase), reason=reason)

    def acknowledge(self, words: str) -> None:
        """Store that the caution before live work was read and taken on by whoever is signed in."""
        from riktig.record.testing import CAUTION_KEY

        self._keeper.store(EventKind.CAUTION, CAUTION_KEY, reason=words)

    def find_fault(self, fault: str, words: str, mend: str, slip: str, retest: Sequence[str]) -> None:
        """Store a fault that was found, how it is mended, and which steps it makes open again."""
        self._keeper.store(EventKind.FAULT, f"fault:{fault}", words=words, mend=mend, slip=slip, retest=list(retest))

    def note_probe(self, a: str, b: Sequence[str], ohms: float) -> None:
        """Store what was measured on the way to a fault, from a terminal to others clipped together."""
        self._keeper.store(EventKind.PROBE, f"probe:{a}", ohms=None if isinf(ohms) else ohms, a=a, b=" ".join(b))

    def attach_photo(self, step: "Step", name: str) -> None:
        """Store that a photo of a step lies beside the job."""
        self._keeper.store(EventKind.PHOTO, step.key, name=name)

    def found_before(self) -> Mapping[str, int]:
        """Return how often each slip was found in any unit of this job."""
        from riktig.record.testing import found_before

        return {slip.value: count for slip, count in found_before(self._keeper.events).items()}
