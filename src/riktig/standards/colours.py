"""Conductor colours by function: IEC 60204-1:2016 13.2 and UL 508A 66.5. From memory."""

from enum import StrEnum

SOURCE = {"iec": "IEC 60204-1:2016 13.2, from memory", "ul": "UL 508A 66.5, from memory"}


class ConductorFunction(StrEnum):
    """What a potential is for, as far as its colour depends on it."""

    POWER = "power"
    NEUTRAL = "neutral"
    EARTH = "earth"
    CONTROL_AC = "control AC"
    CONTROL_AC_RETURN = "control AC return"
    CONTROL_DC = "control DC"
    CONTROL_DC_RETURN = "control DC return"
    EXCEPTED = "excepted"
    EXCEPTED_RETURN = "excepted, grounded return"
    EXCEPTED_NEUTRAL = "excepted, neutral"
    GROUNDED_LINE = "grounded line"


_IEC = {
    ConductorFunction.POWER: "black",
    ConductorFunction.NEUTRAL: "light blue",
    ConductorFunction.EARTH: "green-yellow",
    ConductorFunction.CONTROL_AC: "red",
    ConductorFunction.CONTROL_AC_RETURN: "red",
    ConductorFunction.CONTROL_DC: "blue",
    ConductorFunction.CONTROL_DC_RETURN: "blue",
    ConductorFunction.EXCEPTED: "orange",
    ConductorFunction.EXCEPTED_RETURN: "orange",
    ConductorFunction.EXCEPTED_NEUTRAL: "light blue",
    ConductorFunction.GROUNDED_LINE: "black",
}
_UL = {
    **_IEC,
    ConductorFunction.NEUTRAL: "white",
    ConductorFunction.CONTROL_AC_RETURN: "white",
    ConductorFunction.CONTROL_DC_RETURN: "white-blue",
    ConductorFunction.EXCEPTED: "yellow",
    ConductorFunction.EXCEPTED_RETURN: "white-yellow",
    ConductorFunction.EXCEPTED_NEUTRAL: "white-yellow",
    ConductorFunction.GROUNDED_LINE: "white",
}


def conductor_colour(function: ConductorFunction, standard: str) -> str:
    """Return the insulation colour for a function in the world `iec` or `ul`.

    Source:
        IEC 60204-1:2016 13.2 or UL 508A 66.5, from memory; the return of an AC control transformer is red
        in the first world and white (grounded) in the second.
    """
    return (_IEC if standard == "iec" else _UL)[function]
