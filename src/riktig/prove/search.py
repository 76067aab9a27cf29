"""Owns the way to a fault: which faults explain all readings so far, how likely each is, and what to measure next. Must not read meters."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import exp, log, log2

from riktig.live.built import AS_PLANNED
from riktig.prove.coverage import FaultCover
from riktig.prove.dead import DeadPanel
from riktig.prove.faults import ODDS, Fault, Slip
from riktig.prove.probing import Reach
from riktig.prove.steps import Phase, Step

MISREAD, STEP_MISREAD = 0.02, 0.0002
"""So often a hand slips at a probe, and a step that was judged and kept is wrong all the same: nothing rules a fault out for good (common
practice, no source)."""
READS_JOINED_OHM = 2.0
"""A measurement on the way to a fault asks no more than this: joined, or not."""
_LEAST_SHARE = 0.003
"""Suspects of which less is left are not followed any more."""
_MOST_POINTS = 60
"""So many probe points are weighed against each other at once."""
_SECONDS, _CLIP_SECONDS, _MM_A_SECOND = 8.0, 4.0, 400.0
"""What a measurement takes and each clip more, and how fast a hand goes from one clamp to the next (common practice, no source)."""
_MOST_CLIPS, _LEAST_BITS = 6, 0.02
SURE = 0.95
"""A suspect with so much of the chances is told as the one."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspect:
    """A fault that explains what was read, and its share of all that do, 0 to 1."""

    fault: Fault
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Probe:
    """The measurement that is worth most: from a terminal to another, or to several clipped together; in bit of knowledge, and in seconds
    of work.
    """

    a: str
    b: tuple[str, ...]
    bits: float
    seconds: float


class Search:
    """The way to one fault in a dead panel.

    Args:
        panel: the dead panel as planned.
        reach: how far its terminals are apart.
        covers: the faults that it may be, with the steps that reveal each.
        places: at how many places of the panel each slip may happen, None where these are all faults that there are.
        found_before: how often each slip was found in panels of this shop: it is added to the odds.
    """

    def __init__(
        self,
        panel: DeadPanel,
        reach: Reach,
        covers: Sequence[FaultCover],
        places: Mapping[Slip, int] | None = None,
        found_before: Mapping[Slip, int] | None = None,
    ) -> None:
        self._panel, self._reach = panel, reach
        before = found_before or {}
        self._faults = [cover.fault for cover in covers if cover.fault.built is not None]
        counts = places or Counter(fault.slip for fault in self._faults)
        # the odds are those of a slip as such; the more places it has, the less likely is each
        self._weights = {f.key: log((ODDS[f.slip] + before.get(f.slip, 0)) / counts[f.slip]) for f in self._faults}
        self._shown_by = {cover.fault.key: {step.key for step in cover.steps} for cover in covers}
        self._labels: dict[tuple[str, str], frozenset[str]] = {}
        self._at = ""

    def take_step(self, step: Step, *, is_passed: bool) -> None:
        """Weigh every fault by how a step of the test came out."""
        if step.phase not in {Phase.THROUGH, Phase.BOND, Phase.APART, Phase.FITTING}:
            return
        for fault in self._faults:
            fails = step.key in self._shown_by[fault.key]
            self._weights[fault.key] += log(1 - STEP_MISREAD if fails != is_passed else STEP_MISREAD)

    def take_reading(self, a: str, b: Sequence[str], ohms: float) -> None:
        """Weigh the suspects by a reading in ohm from a terminal to another, or to several clipped together."""
        is_joined = ohms <= READS_JOINED_OHM
        for suspect in self.suspects:
            says = not self._group(suspect.fault, a).isdisjoint(b)
            self._weights[suspect.fault.key] += log(1 - MISREAD if says == is_joined else MISREAD)
        self._at = a

    @property
    def suspects(self) -> tuple[Suspect, ...]:
        """The faults that explain best what was read, likeliest first."""
        top = max(self._weights.values())
        shares = {key: exp(weight - top) for key, weight in self._weights.items() if weight - top > log(_LEAST_SHARE)}
        whole = sum(shares.values())
        found = [Suspect(fault=f, share=shares[f.key] / whole) for f in self._faults if f.key in shares]
        return tuple(sorted(found, key=lambda suspect: -suspect.share))

    def next_probe(self) -> Probe | None:
        """Return the measurement that tells most in a second, None where none tells the suspects apart any more."""
        suspects = self.suspects[:200]
        points = _points(suspects)
        if len(suspects) < 2 or len(points) < 2:
            return None
        sides = [(suspect.share, {p: self._group(suspect.fault, p) for p in points}) for suspect in suspects]
        whole = sum(share for share, _ in sides)
        probes = (self._best_from(a, points, [(share / whole, groups[a]) for share, groups in sides]) for a in points)
        best = max(probes, key=_worth)
        return best if best.bits >= _LEAST_BITS else None

    def _best_from(self, a: str, points: Sequence[str], sides: Sequence[tuple[float, frozenset[str]]]) -> Probe:
        """Return the best measurement from one terminal: the other clip at one more terminal while that tells more."""
        chosen: list[str] = []
        left, best = list(sides), Probe(a=a, b=(), bits=0.0, seconds=0.0)
        nearest = sorted((p for p in points if p != a), key=lambda p: self._reach.apart(a, p))
        while len(chosen) < _MOST_CLIPS and left:
            joined = 1.0 - sum(share for share, _ in left)
            shares = {p: sum(share for share, group in left if p in group) for p in nearest if p not in chosen}
            if not shares:
                break
            p = max(shares, key=lambda point: _bits(joined + shares[point]))
            walked = self._reach.apart(a, p) + (self._reach.apart(self._at, a) if self._at else 0.0)
            seconds = _SECONDS + _CLIP_SECONDS * len(chosen) + walked / _MM_A_SECOND
            probe = Probe(a=a, b=(*chosen, p), bits=_bits(joined + shares[p]), seconds=seconds)
            if _worth(probe) <= _worth(best):
                break
            best = probe
            chosen.append(p)
            left = [(share, group) for share, group in left if p not in group]
        return best

    def _group(self, fault: Fault, point: str) -> frozenset[str]:
        """Return the terminals that read as joined with one where a fault is."""
        key = fault.key, point
        if key not in self._labels:
            self._labels[key] = frozenset(self._panel.within(point, fault.built or AS_PLANNED, READS_JOINED_OHM))
        return self._labels[key]


def _worth(probe: Probe) -> float:
    """Sort measurements: knowledge first, for each is a pause of the work; among alike ones the nearer."""
    return probe.bits - 0.004 * probe.seconds


def _bits(share: float) -> float:
    """Return how much a yes or no tells whose chances are these, in bit."""
    if share <= 0.0 or share >= 1.0:
        return 0.0
    return -share * log2(share) - (1 - share) * log2(1 - share)


def _points(suspects: Iterable[Suspect]) -> list[str]:
    """Return the terminals at which suspects differ, those of the likeliest first."""
    found: dict[str, None] = {}
    for suspect in suspects:
        found.update(dict.fromkeys(suspect.fault.at))
        if len(found) >= _MOST_POINTS:
            break
    return list(found)[:_MOST_POINTS]
