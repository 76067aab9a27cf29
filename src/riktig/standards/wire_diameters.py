"""How thick insulated wires are (EN 50525-2-31)."""

from math import pi, sqrt


def outer_diameter_mm(mm2: float) -> float:
    """Return the outside diameter in mm of a PVC-insulated flexible wire of `mm2`.

    Source:
        Conductor diameter with 30 % for the stranding and insulation of 0.7 to 1.2 mm (EN 50525-2-31 class 5, from memory).
    """
    return 2 * sqrt(mm2 / pi) * 1.3 + 2 * (0.7 if mm2 <= 2.5 else 0.8 if mm2 <= 6 else 1.2)
