"""IEC 60364-4-41 and -4-43, with IEC 60204-1 18.2: what disconnects a circuit in time, and what its conductors stand meanwhile."""

from riktig.standards.tables import Source

SOURCE_DISCONNECTION = Source("IEC 60204-1:2016 18.2 and Annex A, IEC 60364-4-41 411.3.2, 411.4.4")
SOURCE_HEATING = Source("IEC 60364-4-43 434.5.2")
FINAL_S, OTHER_S = 0.4, 5.0
"""Times in s in which a circuit is disconnected in TN at 230 V to earth: final circuits up to 32 A, and all others."""
_FINAL_A = 32.0
LEAST_VOLTS = 0.95
"""Share of the rated volts that a fault may find (IEC 60909-0 Table 1, smallest current, from memory)."""
_K_PVC = 115.0
_TOUCH_V = 50.0


def disconnection_s(rated_a: float) -> float:
    """Return the time in s in which the protective device of a circuit in TN, 120 to 230 V to earth, must open.

    Args:
        rated_a: rated current of the device.

    Source:
        IEC 60364-4-41:2005+A1:2017 411.3.2.2 and 411.3.2.3: 0.4 s for final circuits of fixed equipment up to 32 A, else 5 s; from
        memory.
    """
    return FINAL_S if rated_a <= _FINAL_A else OTHER_S


def residual_earthing_ohm(trip_a: float) -> float:
    """Return the largest resistance of the earthing in TT in ohm with a residual-current device that trips at `trip_a`.

    Source:
        IEC 60364-4-41 411.5.3: R_A · I_Δn at most 50 V, from memory.
    """
    return _TOUCH_V / trip_a


def stands_a2s(mm2: float) -> float:
    """Return the Joule integral in A²s that a copper conductor with PVC insulation stands from 70 degC: k² S².

    Source:
        IEC 60364-4-43 434.5.2 and Table 43A, k = 115, from memory.
    """
    return (_K_PVC * mm2) ** 2


def loop_a(volts_to_earth: float, source_ohm: float, ohm_per_m: float, metres: float) -> float:
    """Return the smallest fault current in A between a line and earth at the end of a cable.

    Args:
        volts_to_earth: rated volts of a line to earth.
        source_ohm: impedance of the loop up to where the cable begins.
        ohm_per_m: line and earth conductor together, hot.
        metres: length of the cable.

    Source:
        IEC 60364-4-41 411.4.4: I = U0 / Zs; resistances and the source added, on the safe side; from memory.
    """
    return LEAST_VOLTS * volts_to_earth / (source_ohm + ohm_per_m * metres)


def longest_m(volts_to_earth: float, source_ohm: float, ohm_per_m: float, trips_a: float) -> float:
    """Return the length in m up to which the fault current still reaches `trips_a`; below 0 where the source alone is too weak.

    Source:
        IEC 60364-4-41 411.4.4, from memory.
    """
    return (LEAST_VOLTS * volts_to_earth / trips_a - source_ohm) / ohm_per_m


def source_ohm(volts_to_earth: float, fault_ka: float) -> float:
    """Return the impedance of the loop of line and earth up to the panel in ohm, where only the fault current between lines is known.

    Source:
        The earth conductor as thin as the line, so that the fault to earth is half of that between three lines: common practice.
    """
    return 2.0 * volts_to_earth / (1000.0 * fault_ka)
