"""IEC 60269 (low-voltage fuses): what a start may do to a fuse, and what a fuse lets through."""

from riktig.standards.tables import Source, interpolate, read_table
from riktig.units.numbers import on_log_paper

SOURCE_START = Source("IEC 60269-1 time-current gates and IEC 60269-2 (gG, aM)")
SOURCE_CUT_OFF = Source("cut-off current of gG fuses, IEC 60269-2, usual values")
SOURCE_GATES = Source("IEC 60269-1 Tables 3 and 7 (gG), IEC 60269-2 (aM)", ("fuse_gates_iec_60269",))
_AM_GATES = ((0.1, 19.0), (0.5, 12.5), (60.0, 6.3))
"""Seconds and multiples of the rated current at which an aM fuse has melted at the latest (IEC 60269-2, from memory)."""
_OPERATING = 2.0
"""The operating integral is no more than about twice the pre-arcing one at low voltage (common practice, no source)."""
_GG_HOLDS_5_S, _AM_HOLDS = 3.75, 6.3
_CUT_OFF_EXPONENT = 1 / 3


def start_multiple_held(fuse: str) -> float:
    """Return the multiple of its rated current that a fuse carries for 5 s without melting.

    Args:
        fuse: `gG` (general) or `aM` (motor back-up: holds 6.3 times for a minute).

    Raises:
        KeyError: neither of them.

    Source:
        IEC 60269-1 gates, IEC 60269-2 for aM, from memory; gG about 3.75 times between 16 and 250 A.
    """
    return {"gG": _GG_HOLDS_5_S, "aM": _AM_HOLDS}[fuse]


def cut_off_ka(amps: float, prospective_ka: float) -> float:
    """Return the peak in kA that a gG fuse lets through; the unlimited peak where it does not limit.

    Args:
        amps: rating of the fuse.
        prospective_ka: r.m.s. fault current ahead of it.

    Source:
        Usual cut-off diagrams of gG fuses, from memory: 4 kA for 32 A, 7 kA for 63 A, 10 kA for 100 A, 15 kA for 160 A,
        21 kA for 250 A, 30 kA for 400 A and 42 kA for 630 A at 50 kA, with the cube root of the prospective current.
    """
    pairs = ((2.0, 0.6), (16.0, 2.4), (32.0, 4.0), (63.0, 7.0), (100.0, 10.0), (160.0, 15.0), (250.0, 21.0),
             (400.0, 30.0), (630.0, 42.0))  # fmt: skip
    at_50 = interpolate(pairs, min(max(amps, 2.0), 630.0))
    assert at_50 is not None
    limited: float = at_50 * (prospective_ka / 50.0) ** _CUT_OFF_EXPONENT
    return min(limited, 2.55 * prospective_ka)


def preferred_ratings_a() -> tuple[float, ...]:
    """Return the rated currents in A that fuses come in, smaller first.

    Source:
        IEC 60269-1 5.3.1, from memory.
    """
    return _RATINGS


_RATINGS = (2.0, 4.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 315.0,
            400.0, 500.0, 630.0, 800.0, 1000.0, 1250.0)  # fmt: skip


def melts_a(fuse: str, amps: float, seconds: float) -> float:
    """Return the current in A that opens a fuse within a time at the latest.

    Args:
        fuse: `gG` or `aM`.
        amps: its rated current; one that is not listed is taken as the next larger.
        seconds: 0.1 to 5.

    Source:
        IEC 60269-1 Table 3 (gG), IEC 60269-2 (aM), from memory; between two gates a straight line on logarithmic paper.
    """
    if fuse == "aM":
        low, high = (_AM_GATES[0], _AM_GATES[1]) if seconds <= _AM_GATES[1][0] else (_AM_GATES[1], _AM_GATES[2])
        return amps * on_log_paper(low, high, seconds)
    row = _gate(amps)
    return on_log_paper((0.1, float(row["melts_0_1_s"])), (5.0, float(row["melts_5_s"])), seconds)


def operating_a2s(amps: float) -> float:
    """Return the Joule integral in A²s that a gG fuse lets through at a large fault current.

    Source:
        IEC 60269-1 Table 7 for the pre-arcing integral, twice of it; from memory.
    """
    return _OPERATING * float(_gate(amps)["prearcing_a2s"])


def _gate(amps: float) -> dict[str, str]:
    rows = read_table("fuse_gates_iec_60269")
    return next((row for row in rows if float(row["amps"]) >= amps - 1e-9), rows[-1])
