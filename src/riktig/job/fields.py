"""Owns the field types of a Job: quantities with their units, words, places. Must not know any table."""

from typing import Annotated, ClassVar

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints, field_validator

from riktig.job.paths import WORD
from riktig.job.plain import MOST_LETTERS, find_unfit
from riktig.units.quantity import parse_quantity


def quantity(unit: str) -> BeforeValidator:
    """Return a validator that takes a number in `unit`, or a text that names its unit."""
    return BeforeValidator(lambda value: None if value is None else parse_quantity(value, unit))


MOST_NAME = 40
"""The longest name in letters: a longer one fits on no label."""
Word = Annotated[str, StringConstraints(pattern=rf"^{WORD}$", max_length=MOST_NAME)]
DeviceName = Annotated[str, StringConstraints(pattern=rf"^{WORD}(\.{WORD})?$", max_length=2 * MOST_NAME)]
RowName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_.-]*(/[A-Za-z0-9_.-]+)?$")]
Places = Annotated[
    tuple[Word, ...],
    Field(min_length=1),
    BeforeValidator(lambda value: (value,) if isinstance(value, str) else value),
]
LengthMm = Annotated[float, quantity("mm"), Field(gt=0, le=20_000)]
LengthM = Annotated[float, quantity("m"), Field(gt=0, le=5_000)]
Volts = Annotated[float, quantity("V"), Field(ge=5, le=1_000)]
Amps = Annotated[float, quantity("A"), Field(ge=0.001, le=6_300)]
KiloAmps = Annotated[float, quantity("kA"), Field(ge=0.01, le=200)]
Ohms = Annotated[float, Field(ge=0.0001, le=100_000)]
VoltAmps = Annotated[float, quantity("VA"), Field(ge=0.01, le=100_000)]
Hertz = Annotated[float, quantity("Hz"), Field(ge=10, le=400)]
KiloWatts = Annotated[float, quantity("kW"), Field(ge=0.001, le=1_000)]
HorsePower = Annotated[float, quantity("hp"), Field(ge=0.002, le=1_340)]


class Frozen(BaseModel):
    """A value that never changes and takes no unknown keys, nor anything that no field could mean."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    most_letters: ClassVar[int] = MOST_LETTERS
    """How long its texts may be."""

    @field_validator("*", mode="before")
    @classmethod
    def _refuse_unfit(cls, value: object) -> object:
        unfit = find_unfit(value, cls.most_letters)
        if unfit:
            raise ValueError(unfit)
        return value


class Named(Frozen):
    """A thing that people gave a name."""

    name: Word
