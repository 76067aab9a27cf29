"""Owns the form of a catalogue file: families of parts as TOML, published as a JSON Schema. Must not know jobs."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, model_validator

from riktig.catalogue.holes import read_holes, read_outline
from riktig.catalogue.model import ElementKind, Mounting

DEVICE_KINDS = (
    "beacon", "breaker", "busbar", "contactor", "disconnect", "drive", "emergency-stop", "fan", "filter", "float",
    "fuse", "heater", "hmi", "horn", "interlock", "lamp", "light", "limit-switch", "link", "load", "meter", "motor",
    "motor-breaker", "network", "overload", "phase-relay", "plc", "potentiometer", "psu", "pushbutton", "rcd", "relay",
    "resistor", "safety-relay", "selector", "socket", "soft-starter", "surge", "switch", "terminal", "thermistor-relay",
    "thermostat", "timer", "transducer", "transformer", "valve",
)  # fmt: skip
"""What a brief may call a device."""
INTERNAL_KINDS = ("block", "earth-bar", "earth-stud", "earth-terminal", "outlet-filter", "source")
NEEDED_COLUMNS = ("width", "height", "depth")
_KINDS = "|".join(sorted(ElementKind, key=len, reverse=True))
_MARKS = {
    ElementKind.CO: (3, 3), ElementKind.TIMED_CO: (3, 3), ElementKind.EARTH: (1, 2), ElementKind.LOAD: (2, 4),
    ElementKind.WINDING: (2, 6),
}  # fmt: skip
"""How many marks an element has, at least and at most; the others have two."""


def _check_marks(text: str) -> str:
    kind, _, words = text.partition(" ")
    marks = words.split("-")
    least, most = _MARKS.get(ElementKind(kind), (2, 2))
    if not least <= len(marks) <= most or not all(marks) or len(set(marks)) < len(marks):
        usual = "three marks, the common first, such as 11-12-14" if most == 3 else "two marks, such as 13-14"
        raise ValueError(
            f"'{text}' is no element: {kind} has {usual if most < 4 else f'{least} to {most} marks'}, each once"
        )
    return text


ElementText = Annotated[str, StringConstraints(pattern=rf"^({_KINDS}) [^\s]+$"), AfterValidator(_check_marks)]
Word = Annotated[str, StringConstraints(min_length=1)]


class ClampSpec(BaseModel):
    """How the parts of a family take conductors; columns of a row with these names go before it.

    Left out, the least section and the strip length follow from the largest section, as is usual.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    clamp: Literal["screw", "spring", "bolt"] = "screw"
    mm2_min: float | None = Field(default=None, gt=0)
    mm2_max: float = Field(default=4.0, gt=0)
    strip_mm: float | None = Field(default=None, gt=0)


class Family(BaseModel):
    """Parts that differ in numbers only: each row by each variant is one part. Lengths in mm, losses in W.

    `code` and `title` are patterns over the columns and `{variant}`. `elements` are `kind MARK-MARK`; `repeat` repeats
    elements with `#` counted up to the value of a column. `blocks` names what may extend the parts, `coils` the
    volts they come with, such as `230AC`. `all_bottom` are the marks that lie at the bottom edge.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Word
    code: Word
    title: Word
    mounting: Mounting
    columns: tuple[str, ...]
    rows: Annotated[tuple[tuple[float | str, ...], ...], Field(min_length=1)]
    elements: tuple[ElementText, ...] = ()
    repeat: dict[str, tuple[ElementText, ...]] = {}
    variants: dict[str, tuple[ElementText, ...]] = {"": ()}
    capacity: Annotated[int, Field(ge=1, le=4)] = 2
    clamp: ClampSpec = ClampSpec()
    all_bottom: tuple[str, ...] = ()
    blocks: tuple[str, ...] = ()
    coils: tuple[Annotated[str, StringConstraints(pattern=r"^\d+(AC|DC)$")], ...] = ()
    ratings: dict[str, float] = {}
    traits: dict[str, str] = {}

    @model_validator(mode="after")
    def _rows_fit(self) -> "Family":
        known = (*DEVICE_KINDS, *INTERNAL_KINDS)
        if self.kind not in known:
            raise ValueError(f"'{self.kind}' is no device kind: use one of {', '.join(known)}")
        missing = [name for name in NEEDED_COLUMNS if name not in self.columns]
        if missing:
            raise ValueError(f"column '{missing[0]}' is missing: every part has {', '.join(NEEDED_COLUMNS)} in mm")
        for place, row in enumerate(self.rows, start=1):
            if len(row) != len(self.columns):
                raise ValueError(f"row {place} has {len(row)} values for {len(self.columns)} columns")
            for name, value in zip(self.columns, row, strict=True):
                if name in NEEDED_COLUMNS and (isinstance(value, str) or value <= 0):
                    raise ValueError(f"row {place}: {name} is a length in mm above 0, not '{value}'")
            values = dict(zip(self.columns, row, strict=True))
            size = float(values["width"]), float(values["height"])
            for key, read in (("holes", read_holes), ("outline", read_outline)):
                read(str(values.get(key, self.traits.get(key, ""))), *size)
        return self


class CatalogueFile(BaseModel):
    """A whole catalogue file."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    family: tuple[Family, ...] = ()


def catalogue_schema() -> dict[str, Any]:
    """Return the JSON Schema of a catalogue file."""
    return CatalogueFile.model_json_schema()
