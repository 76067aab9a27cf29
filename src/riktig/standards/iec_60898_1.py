"""IEC 60898-1 (circuit-breakers for household and similar use): instantaneous trip bands. From memory."""

SOURCE_CURVES = "IEC 60898-1 Table 7, from memory"
_BANDS = {"B": (3.0, 5.0), "C": (5.0, 10.0), "D": (10.0, 20.0)}


def instantaneous_band(curve: str) -> tuple[float, float]:
    """Return the multiples of rated current that do not trip at once, and that must.

    Raises:
        KeyError: the curve is none of B, C, D.

    Source:
        IEC 60898-1 Table 7, from memory.
    """
    return _BANDS[curve]
