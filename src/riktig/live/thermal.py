"""Owns when what protects trips: thermal images, magnetic parts, fuses. Must not know circuits."""

from dataclasses import dataclass
from math import exp, inf, log

from riktig.standards import iec_60269, iec_60898_1, iec_60947_4_1
from riktig.units.numbers import on_log_paper

_RELAY_TRIPS = 1.15**2
"""Heat at which an overload relay trips, 1 at its setting: between 1.05 and 1.2 times that (IEC 60947-4-1 Table 2, from memory)."""
_BREAKER_TRIPS = 1.28**2
"""The same of a small breaker, between 1.13 and 1.45 times its rating (IEC 60898-1 Table 7, from memory)."""
_BREAKER_TAU_S = 69.0
"""Time constant of a small breaker: trips in 20 s at 2.55 times its rating, where 1 to 60 s are asked (as above)."""
PHASE_LOSS = 1.15
"""A relay that minds a lost phase heats so much more then: it trips at 1.15 times its setting on two poles (as above)."""
_MAGNETIC_S = 0.01


@dataclass(slots=True)
class ThermalImage:
    """A body that heats with the square of a current and cools by itself; `heat` is 1 where the rated current keeps it.

    Args:
        tau: its time constant in s.
        trips: the heat at which it trips.
    """

    tau: float
    trips: float
    heat: float = 0.0
    drive: float = 0.0
    since: float = 0.0

    def load(self, now: float, multiple: float) -> None:
        """Let it be loaded with a multiple of the rated current from now on."""
        self.heat = self.heat_at(now)
        self.since, self.drive = now, multiple**2

    def heat_at(self, now: float) -> float:
        """Return its heat at a later time, in s."""
        return self.drive + (self.heat - self.drive) * exp(-(now - self.since) / self.tau)

    def seconds_left(self, now: float) -> float:
        """Return after how many seconds it trips, infinite where it never does."""
        heat = self.heat_at(now)
        if heat >= self.trips:
            return 0.0
        return self.tau * log((self.drive - heat) / (self.drive - self.trips)) if self.drive > self.trips else inf

    def seconds_to_cool(self, now: float, heat: float) -> float:
        """Return after how many seconds it has cooled to some heat, infinite where it never does."""
        there = self.heat_at(now)
        if there <= heat:
            return 0.0
        return self.tau * log((there - self.drive) / (heat - self.drive)) if self.drive < heat else inf


def relay_image(trip_class: str) -> ThermalImage:
    """Return the thermal image of an overload relay of a class, cold: at 7.2 times its setting it trips in the middle of what is asked.

    Source:
        IEC 60947-4-1 Table 2, from memory.
    """
    holds, trips = iec_60947_4_1.trip_times_s(trip_class)
    at = iec_60947_4_1.CLASS_RATIO**2
    return ThermalImage(tau=(holds * trips) ** 0.5 / log(at / (at - _RELAY_TRIPS)), trips=_RELAY_TRIPS)


def breaker_image() -> ThermalImage:
    """Return the thermal image of a small breaker, cold."""
    return ThermalImage(tau=_BREAKER_TAU_S, trips=_BREAKER_TRIPS)


def magnetic_multiple(curve: str) -> float:
    """Return the multiple of its rating from which a breaker trips at once: in the middle of the band, on logarithmic paper."""
    holds, trips = iec_60898_1.instantaneous_band(curve)
    return float((holds * trips) ** 0.5)


def magnetic_seconds() -> float:
    """Return how long it takes then; 0.1 s are allowed (IEC 60898-1, from memory)."""
    return _MAGNETIC_S


_AM_GATES = ((6.3, 60.0), (8.0, 8.0), (12.5, 0.5), (19.0, 0.1))
_UL_GATES = ((1.35, 3600.0), (2.0, 120.0), (5.0, 10.0), (10.0, 0.2), (15.0, 0.05))
"""Multiples and seconds: opens at 135 % within an hour, a time-delay fuse holds 500 % for 10 s (UL 248, from memory; the rest usual)."""


def melts_after_s(sort: str, amps: float, current: float) -> float:
    """Return after how many seconds a cold fuse opens, infinite where it carries the current.

    Args:
        sort: gG, aM, or a North American class.
        amps: its rating.
        current: what it carries, in A.

    Source:
        gG: 1.6 times within an hour, gates at 5 s and 0.1 s (IEC 60269-1), the pre-arcing integral below; aM from 6.3 times on
        (IEC 60269-2); others as time-delay fuses of UL 248. From memory.
    """
    gates: tuple[tuple[float, float], ...]
    if sort == "gG":
        gates = (
            (1.6 * amps, 3600.0),
            (iec_60269.melts_a("gG", amps, 5.0), 5.0),
            (iec_60269.melts_a("gG", amps, 0.1), 0.1),
        )
    else:
        gates = tuple((multiple * amps, seconds) for multiple, seconds in (_AM_GATES if sort == "aM" else _UL_GATES))
    if current < gates[0][0]:
        return inf
    last_a, last_s = gates[-1]
    if current >= last_a:
        return last_s * (last_a / current) ** 2
    low, high = next((a, b) for a, b in zip(gates, gates[1:], strict=False) if a[0] <= current <= b[0])
    return float(on_log_paper(low, high, current))
