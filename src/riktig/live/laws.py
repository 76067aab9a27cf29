"""Owns how things conduct at their terminals, in numbers. Must not know parts or circuits."""

from dataclasses import dataclass
from functools import cache

import numpy as np
import numpy.typing as npt

Complexes = npt.NDArray[np.complex128]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Law:
    """How a thing of k terminals conducts: admittances in S (k x k) and what it drives out of its terminals by itself in A (k), at the
    frequency of the supply and at DC. `joins` are the pairs of terminals between which current can pass: both sides of a transformer
    act on each other, and no current passes from one to the other.
    """

    ac: Complexes
    dc: Floats
    ac_drive: Complexes
    dc_drive: Floats
    joins: tuple[tuple[int, int], ...]

    def __deepcopy__(self, memo: object) -> "Law":
        """Return this very law, which never changes: what conducts by it in a copy of a panel is known there too."""
        return self


def _law(ac: Complexes, dc: Floats, joins: tuple[tuple[int, int], ...]) -> Law:
    count = len(ac)
    return Law(ac=ac, dc=dc, ac_drive=np.zeros(count, complex), dc_drive=np.zeros(count), joins=joins)


@cache
def nothing(count: int) -> Law:
    """Return how what is open conducts."""
    return _law(np.zeros((count, count), complex), np.zeros((count, count)), ())


@cache
def admittance(ac: complex, dc: float) -> Law:
    """Return how a load between two terminals conducts: admittance at the supply's frequency and at DC, in S."""
    pair = np.array([[1.0, -1.0], [-1.0, 1.0]])
    return _law(ac * pair, dc * pair, ((0, 1),))


@cache
def star(ac: complex, dc: float, count: int) -> Law:
    """Return how `count` equal admittances in S to a point in the middle conduct that is nowhere wired: a motor's windings."""
    shape = np.eye(count) - np.ones((count, count)) / count
    return _law((ac * shape).astype(np.complex128), dc * shape, tuple((0, other) for other in range(1, count)))


@cache
def source(volts_ac: complex, volts_dc: float, siemens_ac: complex, siemens_dc: float) -> Law:
    """Return a source that lifts its second terminal over its first by some volts, behind an inner admittance in S."""
    pair = np.array([[1.0, -1.0], [-1.0, 1.0]])
    out = np.array([-1.0, 1.0])
    return Law(
        ac=siemens_ac * pair, dc=siemens_dc * pair, ac_drive=siemens_ac * volts_ac * out, dc_drive=siemens_dc * volts_dc * out,
        joins=((0, 1),),
    )  # fmt: skip


@cache
def current_source(amps_dc: float, siemens_dc: float) -> Law:
    """Return what drives a current in A out of its second terminal and into its first, beside an inner conductance in S."""
    pair = np.array([[1.0, -1.0], [-1.0, 1.0]])
    return Law(
        ac=np.zeros((2, 2), complex), dc=siemens_dc * pair, ac_drive=np.zeros(2, complex), dc_drive=amps_dc * np.array([-1.0, 1.0]),
        joins=((0, 1),),
    )  # fmt: skip


@cache
def transformer(ratio: float, leakage: complex, idle: complex, copper: tuple[float, float]) -> Law:
    """Return how a transformer conducts: two terminals of its primary, two of its secondary.

    Args:
        ratio: volts of the primary by those of the secondary, with nothing behind it.
        leakage: what the secondary sees in series, in S.
        idle: what the primary draws with nothing behind it, in S.
        copper: conductance of primary and secondary at DC, in S.
    """
    pair = np.array([[1.0, -1.0], [-1.0, 1.0]])
    ac = np.zeros((4, 4), complex)
    ac[:2, :2] = (leakage / ratio**2 + idle) * pair
    ac[2:, 2:] = leakage * pair
    ac[:2, 2:] = ac[2:, :2] = -leakage / ratio * pair
    dc = np.zeros((4, 4))
    dc[:2, :2], dc[2:, 2:] = copper[0] * pair, copper[1] * pair
    return _law(ac, dc, ((0, 1), (2, 3)))
