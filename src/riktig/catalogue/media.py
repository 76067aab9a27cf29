"""Owns what labels are printed on: generic media, and the shop's own beside them. Must not know any label.

A shop's own media stand in a file of the same form: `$RIKTIG_MEDIA`, or `media.toml` in the user's data folder.
"""

from importlib.resources import files
from pathlib import Path
from typing import Annotated, Literal

import tomli
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from riktig.refusal import Refusal
from riktig.standards.shelf import from_shelf, own_path

MEDIA_VARIABLE = "RIKTIG_MEDIA"
LEAST_LETTER_MM, LEAST_ENGRAVED_MM = 1.5, 2.0
"""No letter is lower: what is read in a panel, and what is engraved (common practice, no source)."""
_Mm = Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)]


class MediaError(Refusal):
    """Media that cannot be read; the sentence names the medium and the mend."""


class Medium(BaseModel):
    """Something to print, slide or engrave on.

    Attributes:
        code: what it is ordered by.
        title: it in words.
        form: sleeve, characters (single ones clipped on one after the other), wrap, strip, tape, plate or sheet.
        around: from which to which diameter (sleeve, characters, wrap) or pitch (strip) in mm it serves; (0, 0) for anything.
        height: of the printed field in mm.
        width: of the printed field in mm, 0 for as long as is wanted, up to `most_width` and in steps of `step`: of characters that of one.
        letters: the least and the largest letter height in mm.
        material: what it is made of.
        kinds: kinds of labels for which it comes first.
        signs: of characters, which there are.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    code: Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]{0,30}$")]
    title: Annotated[str, Field(min_length=1, max_length=120)]
    form: Literal["sleeve", "characters", "wrap", "strip", "tape", "plate", "sheet"]
    around: tuple[_Mm, _Mm] = (0.0, 0.0)
    height: Annotated[float, Field(ge=2, le=500)]
    width: _Mm = 0.0
    most_width: _Mm = 0.0
    step: Annotated[float, Field(ge=0, le=100)] = 0.0
    letters: tuple[_Mm, _Mm]
    material: str = ""
    kinds: tuple[str, ...] = ()
    signs: str = ""

    @model_validator(mode="after")
    def _holds_letters(self) -> "Medium":
        least = LEAST_ENGRAVED_MM if self.form == "plate" else LEAST_LETTER_MM
        if not least <= self.letters[0] <= self.letters[1]:
            raise ValueError(f"letters: the least is {least:g} mm or more, and no larger than the largest")
        if not self.width and not self.most_width:
            raise ValueError("write width, or most_width of what is as long as is wanted")
        if (self.form == "characters") is not bool(self.signs) or (self.signs and (self.width or not self.step)):
            raise ValueError("of characters write signs, step and most_width; of anything else no signs")
        if self.around[0] > self.around[1]:
            raise ValueError("around: from the smaller to the larger")
        return self

    @property
    def is_endless(self) -> bool:
        """Whether it is cut as long as the text asks."""
        return not self.width

    def goes_round(self, mm: float) -> bool:
        """Return whether it serves a diameter or pitch in mm; what is for anything does."""
        return self.around == (0.0, 0.0) or self.around[0] <= mm < self.around[1]


def media_path() -> Path:
    """Return where a shop's own media stand."""
    return own_path(MEDIA_VARIABLE, "media.toml")


def parse_media(text: str, name: str) -> tuple[Medium, ...]:
    """Return the media of a TOML text.

    Raises:
        MediaError: it is no TOML, or a medium of it holds what it may not.
    """
    try:
        rows = tomli.loads(text).get("medium", [])
    except tomli.TOMLDecodeError as error:
        raise MediaError(f"{name}: {error}; mend the file or move it away") from error
    found = []
    for place, row in enumerate(rows if isinstance(rows, list) else [rows], start=1):
        try:
            found.append(Medium(**row))
        except (ValidationError, TypeError) as error:
            code = row.get("code", f"number {place}") if isinstance(row, dict) else f"number {place}"
            faults = error.errors() if isinstance(error, ValidationError) else []
            words = (
                "; ".join(f"{'.'.join(map(str, e['loc']))} {e['msg'].lower()}".strip() for e in faults) or "no table"
            )
            raise MediaError(f"{name}: medium {code}: {words}") from error
    return tuple(found)


@from_shelf
def all_media() -> tuple[Medium, ...]:
    """Return the shop's own media, and behind them those that Riktig ships.

    Raises:
        MediaError: the shop's file cannot be read, or has the code of a shipped medium.
    """
    shipped = parse_media(files("riktig.catalogue").joinpath("media.toml").read_text("utf-8"), "media.toml")
    path = media_path()
    if not path.is_file():
        return shipped
    try:
        own = parse_media(path.read_text(encoding="utf-8"), path.name)
    except (OSError, UnicodeDecodeError) as error:
        raise MediaError(f"cannot read {path}: {error}; mend the file or move it away") from error
    twice = {medium.code for medium in own} & {medium.code for medium in shipped}
    if twice:
        raise MediaError(f"{path.name}: '{min(twice)}' is a shipped medium's code; give yours another one")
    return (*own, *shipped)
