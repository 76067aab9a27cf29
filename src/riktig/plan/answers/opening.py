"""Owns by when a protective device has surely opened, over the current that flows. Must not judge it."""

from riktig.catalogue.model import Part
from riktig.plan.sizes.loops import trips_surely_a
from riktig.standards import iec_60269, iec_60947_4_1

AT_ONCE_S = 0.1
"""What trips at once has opened within this: IEC 60898-1 Table 7, from memory."""
_HOUR_S = 3600.0
_CONVENTIONAL, _SLOW = 1.45, 2.55
_SLOW_S = {True: 60.0, False: 120.0}
_FUSE_S = (5.0, 2.0, 1.0, 0.4, 0.2, 0.1)
_FUSE_HOUR = 1.6


def opens_by(part: Part) -> tuple[tuple[float, float], ...]:
    """Return points of the curve by which a device has opened at the latest: current in A, larger ones later, and seconds.

    Source:
        Small breakers: IEC 60898-1 Table 7 (1.45 times within an hour, 2.55 times within 60 s up to 32 A and 120 s beyond, at once within
        0.1 s); fuses: gates of IEC 60269-1 Tables 2 and 3; motor breakers: class 10 of IEC 60947-4-1 Table 2; from memory. Between the
        thermal points and the magnetic one the heat that flows is taken as constant: common practice.
    """
    at_once, _ = trips_surely_a(part, AT_ONCE_S)
    amps = part.rating("amps") or part.rating("amps_max")
    if part.kind == "fuse":
        fuse = "aM" if part.traits.get("curve") == "aM" else "gG"
        slow = ((_FUSE_HOUR * amps, _HOUR_S),) if fuse == "gG" else ()
        return (*slow, *((iec_60269.melts_a(fuse, amps, seconds), seconds) for seconds in _FUSE_S))
    if part.traits.get("curve") == "MA":
        return ((at_once, AT_ONCE_S),)
    if part.kind == "motor-breaker":
        first, seconds = iec_60947_4_1.CLASS_RATIO * amps, iec_60947_4_1.trip_times_s("10")[1]
        hour = 1.2 * amps
    else:
        first, seconds, hour = _SLOW * amps, _SLOW_S[amps <= 32], _CONVENTIONAL * amps
    warm = () if at_once <= first else ((at_once, max(AT_ONCE_S, seconds * (first / at_once) ** 2)),)
    return ((hour, _HOUR_S), *(((first, seconds),) if first < at_once else ()), *warm, (at_once, AT_ONCE_S))
