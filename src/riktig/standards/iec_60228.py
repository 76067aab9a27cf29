"""IEC 60228 (conductors of insulated cables): resistance, and what a cable drops."""

from math import sqrt

from riktig.standards.tables import Source, read_columns

SOURCE_RESISTANCE = Source("IEC 60228, class 5 plain copper", ("resistance_iec_60228",))
HOT_C = 70.0
"""Temperature in degC of a PVC-insulated conductor at its full current (IEC 60364-5-52, from memory)."""
REACTANCE_OHM_PER_M = 0.08e-3
"""IEC 60364-5-52 Annex G: 0.08 milliohm per metre where nothing else is known, from memory."""
_RESISTIVITY_OHM_MM2_PER_M = 1 / 58
_PER_KELVIN = 0.00393


def resistance_ohm_per_m(mm2: float, celsius: float = 20.0) -> float:
    """Return the largest resistance in ohm per metre of a class 5 copper conductor at `celsius`.

    A section that the standard does not list (an AWG size) is computed from the resistivity of annealed
    copper, 1/58 ohm mm2/m, with 7 % for the stranding.

    Source:
        IEC 60228 class 5 table, from memory; IEC 60028 for the resistivity and 0.00393 per kelvin.
    """
    listed = dict(read_columns("resistance_iec_60228", "mm2", "class5")).get(mm2)
    cold = listed / 1000 if listed is not None else _RESISTIVITY_OHM_MM2_PER_M / mm2 * 1.07
    return cold * (1 + _PER_KELVIN * (celsius - 20.0))


def voltage_drop_v(amps: float, metres: float, mm2: float, cos_phi: float, *, phases: int) -> float:
    """Return what a cable drops in V: line to line for three phases, there and back for one.

    Source:
        IEC 60364-5-52 Annex G, from memory: u = b (R L cos φ + X L sin φ) I, b 2 for one phase, √3 line to line.
    """
    sin_phi = sqrt(1 - cos_phi**2)
    factor = sqrt(3) if phases == 3 else 2.0
    per_metre = resistance_ohm_per_m(mm2, HOT_C) * cos_phi + REACTANCE_OHM_PER_M * sin_phi
    return factor * per_metre * metres * amps
