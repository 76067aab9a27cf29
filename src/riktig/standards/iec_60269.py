"""IEC 60269 (low-voltage fuses): what a start may do to a fuse, and what a fuse lets through."""

from riktig.standards.tables import Source, interpolate

SOURCE_START = Source("IEC 60269-1 time-current gates and IEC 60269-2 (gG, aM)")
SOURCE_CUT_OFF = Source("cut-off current of gG fuses, IEC 60269-2, usual values")
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
