"""IEC 60947-4-1 (contactors and motor starters), Annex G: currents of cage motors. From memory."""

from riktig.standards.tables import interpolate, read_columns

SOURCE_CURRENT = "IEC 60947-4-1 Annex G, from memory"
_COLUMNS = {230: "v230", 400: "v400", 500: "v500", 690: "v690"}


def rated_motor_current_a(kw: float, volts: float) -> float | None:
    """Return the guide value of the rated current in A of a three-phase cage motor, None outside the table.

    Between two rows the value is interpolated; at a voltage between two columns the column nearest in
    ratio is taken and the current scaled by the inverse of the voltage.

    Args:
        kw: rated output in kW, 0.06 to 250.
        volts: line to line voltage in V.

    Source:
        IEC 60947-4-1 Annex G (guide values at 50 Hz), from memory.
    """
    column = min(_COLUMNS, key=lambda v: max(v / volts, volts / v))
    current = interpolate(read_columns("motor_current_iec_60947_4_1_g", "kw", _COLUMNS[column]), kw)
    return None if current is None else current * column / volts
