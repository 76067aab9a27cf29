"""IEC 60228 (conductors of insulated cables): resistance. From memory."""

from riktig.standards.tables import read_columns

SOURCE_RESISTANCE = "IEC 60228, class 5 plain copper at 20 degC, from memory"
_RESISTIVITY_OHM_MM2_PER_M = 1 / 58


def resistance_ohm_per_m(mm2: float) -> float:
    """Return the largest resistance in ohm per metre of a class 5 copper conductor at 20 degC.

    A section that the standard does not list (an AWG size) is computed from the resistivity of annealed
    copper, 1/58 ohm mm2/m, with 7 % for the stranding.

    Source:
        IEC 60228 class 5 table, from memory; IEC 60028 for the resistivity.
    """
    listed = dict(read_columns("resistance_iec_60228", "mm2", "class5")).get(mm2)
    return listed / 1000 if listed is not None else _RESISTIVITY_OHM_MM2_PER_M / mm2 * 1.07
