"""IEC 60947-5-1 (control circuit devices): holes of push-buttons and lamps in doors, how far apart they stand, and what contacts switch."""

from dataclasses import dataclass
from functools import cache, lru_cache

from riktig.standards.tables import Source, own_digests, read_table

SOURCE_HOLES = Source("IEC 60947-5-1 6.3, mounting of push-buttons", ("holes_iec_60947_5_1",))

SOURCE_DUTY = Source("IEC 60947-5-1 Table A.1, UL 60947-5-1 pilot duty", ("contact_duty_iec_60947_5_1",))


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactDuty:
    """What a contact of a designation such as A600 carries in A, makes and breaks in VA, up to how many volts."""

    code: str
    thermal_a: float
    make_va: float
    break_va: float
    volts_max: float


def contact_duty(codes: str, *, is_dc: bool) -> ContactDuty | None:
    """Return what a contact switches by its designations, such as `A600 Q300`: the first one for AC or for DC, None without one.

    Source:
        IEC 60947-5-1 Table A.1; AC-15 is A to D with their volts, DC-13 N to R; from memory.
    """
    rows = {row["code"]: row for row in read_table("contact_duty_iec_60947_5_1") if (row["current"] == "dc") is is_dc}
    for code in codes.split():
        row = rows.get(code[0])
        if row is not None:
            return ContactDuty(
                code=code, thermal_a=float(row["thermal_a"]), make_va=float(row["make_va"]), break_va=float(row["break_va"]),
                volts_max=float(code[1:]),
            )  # fmt: skip
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class MountingHole:
    """The hole of a size of push-button, in mm: diameter with its tolerance (to the plus side alone), height over the recess and its
    width where it has one, and least distances from centre to centre along one axis and the other.
    """

    size: str
    diameter: float
    tolerance: float
    recess_h: float | None
    recess_b: float | None
    pitch_x: float
    pitch_y: float


def hole_for(diameter: float) -> MountingHole | None:
    """Return the standard hole of a device that wants about this diameter in mm, None where it is no standard size.

    Source:
        IEC 60947-5-1 6.3, from memory; centre distances uncertain: confirm against the part.
    """
    return _hole_for(diameter, own_digests())


_ABOUT_MM = 0.5


@lru_cache(maxsize=256)
def _hole_for(diameter: float, tables: tuple[str, ...]) -> MountingHole | None:
    return next((hole for hole in _holes(tables) if abs(hole.diameter - diameter) <= _ABOUT_MM), None)


@cache
def _holes(_: tuple[str, ...]) -> tuple[MountingHole, ...]:
    """Return the standard holes; a set of own tables has its own."""
    return tuple(
        MountingHole(
            size=row["size"],
            diameter=(nominal := float(row["hole_d"])),
            tolerance=float(row["hole_tol_plus"]),
            recess_h=_maybe(row["recess_h"]),
            recess_b=_maybe(row["recess_b"]),
            pitch_x=_maybe(row["min_centre_one_axis"]) or nominal * 1.5,
            pitch_y=_maybe(row["min_centre_other_axis"]) or nominal * 1.5,
        )
        for row in read_table("holes_iec_60947_5_1")
    )


def _maybe(text: str) -> float | None:
    return float(text) if text else None
