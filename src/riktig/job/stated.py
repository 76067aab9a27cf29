"""Owns what people state so that a design can be judged: the colours of a house, and what a risk assessment came to. Must not judge it."""

from typing import ClassVar, Literal, Self

from pydantic import model_validator

from riktig.job.fields import Frozen
from riktig.job.waivers import Day

Colour = Literal[
    "black", "brown", "red", "orange", "yellow", "green", "blue", "light blue", "violet", "grey", "white", "green-yellow", "white-blue",
    "white-yellow",
]  # fmt: skip


class Colours(Frozen):
    """The colours of a house, by what a conductor is for; None: as the standard says."""

    power: Colour | None = None
    neutral: Colour | None = None
    earth: Colour | None = None
    control_ac: Colour | None = None
    control_ac_return: Colour | None = None
    control_dc: Colour | None = None
    control_dc_return: Colour | None = None
    excepted: Colour | None = None
    excepted_return: Colour | None = None
    excepted_neutral: Colour | None = None
    grounded_line: Colour | None = None


class Risk(Frozen):
    """What a risk assessment came to, and who answers for it: the stop category wanted of an emergency stop, or that none is needed; the
    performance level (ISO 13849-1) wanted of it; why what starts by itself may. None and "": nobody has said.
    """

    most_letters: ClassVar[int] = 500
    person: str = ""
    date: Day | None = None
    emergency_stop: Literal["none", "category 0", "category 1"] | None = None
    performance_level: Literal["a", "b", "c", "d", "e"] | None = None
    restart: str = ""

    @model_validator(mode="after")
    def _has_a_person(self) -> Self:
        if (self.emergency_stop or self.performance_level or self.restart) and not (self.person and self.date):
            raise ValueError("say who answers for it and since when: person and date")
        return self

    @property
    def words(self) -> str:
        """Who answers for it."""
        return f"{self.person}, {self.date.isoformat()}" if self.date is not None else ""
