"""IEC 60898-1 and IEC 60947-2 (circuit-breakers): trip bands and preferred ratings."""

from riktig.standards.tables import Source, interpolate, read_columns, read_table

SOURCE_CURVES = Source("IEC 60898-1 Table 7, IEC 60947-2", ("trip_bands_iec_60898_1",))
SOURCE_LET_THROUGH = Source("usual let-through of current-limiting breakers", ("breaker_let_through",))


def instantaneous_band(curve: str) -> tuple[float, float]:
    """Return the multiples of rated current that do not trip at once, and that must.

    Raises:
        KeyError: the curve is none of B, C, D (IEC 60898-1), K (moulded case), M (motor breaker), MA (magnetic only).

    Source:
        IEC 60898-1 Table 7, from memory; K, M and MA common practice.
    """
    for row in read_table("trip_bands_iec_60898_1"):
        if row["curve"] == curve:
            return float(row["holds"]), float(row["trips"])
    raise KeyError(curve)


def preferred_ratings_a() -> tuple[float, ...]:
    """Return the rated currents in A that small breakers come in, smaller first.

    Source:
        IEC 60898-1 5.3.2, from memory; those below 6 A are made, but not in the list.
    """
    return tuple(sorted(amps for amps, _ in read_columns("mcb_ratings_iec_60898", "amps", "amps")))


def let_through_a2s(amps: float, fault_ka: float) -> float:
    """Return the Joule integral in A²s that a current-limiting breaker lets through: never more than the half wave of the fault itself.

    Args:
        amps: its rated current.
        fault_ka: prospective current where it is.

    Source:
        Usual values of current-limiting breakers, common practice, no source; above the table the half wave.
    """
    pairs = read_columns("breaker_let_through", "amps", "a2s_6_ka")
    half_wave: float = (1000.0 * fault_ka) ** 2 * 0.01
    at_6 = interpolate(pairs, max(amps, pairs[0][0])) if amps <= pairs[-1][0] else None
    return half_wave if at_6 is None else min(half_wave, at_6 * fault_ka / 6.0)
