"""Owns what a minute, a set-up and a metre of wire cost a shop. Must not know any job.

A shop's own prices stand in a TOML file: `$RIKTIG_SHOP`, or `shop.toml` in the user's data folder. Every figure that it leaves out is an
assumption of Riktig, common practice with no source, and is told as one.
"""

from collections.abc import Mapping
from pathlib import Path
from typing import Annotated

import tomli
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from riktig.refusal import Refusal
from riktig.standards.shelf import from_shelf, own_path

SHOP_VARIABLE = "RIKTIG_SHOP"
_PER_METRE, _PER_MM2 = 0.05, 0.11
_Amount = Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]
_Some = Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]


class PricesError(Refusal):
    """A shop's prices that cannot be read; the sentence names the key and the mend."""


class Prices(BaseModel):
    """What work and wire cost, in one money of the shop's.

    Attributes:
        money: what the shop calls it.
        minute: of a person.
        set_up_min: minutes to set a length stop, fetch the wire and count off, for each lot.
        cut_min: minutes to cut one wire once that is done.
        metre: of wire by section in mm2; of others by `metre_of`.
        reel_m: metres on a reel.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    money: Annotated[str, Field(max_length=8)] = ""
    minute: _Amount = 0.9
    set_up_min: _Amount = 1.0
    cut_min: _Amount = 0.1
    metre: Mapping[float, _Amount] = Field(default_factory=dict)
    reel_m: _Some = 100.0

    def metre_of(self, mm2: float) -> float:
        """Return what a metre of wire of a section in mm2 costs: as the shop says, else 0.05 and 0.11 for each mm2.

        Source:
            Common practice, no source.
        """
        stated = next((price for section, price in self.metre.items() if abs(section - mm2) < 0.01), None)
        return _PER_METRE + _PER_MM2 * mm2 if stated is None else stated

    @property
    def assumed(self) -> tuple[str, ...]:
        """The names of the figures that the shop has not stated."""
        return tuple(name for name in type(self).model_fields if name not in self.model_fields_set)


def prices_path() -> Path:
    """Return where a shop's prices stand."""
    return own_path(SHOP_VARIABLE, "shop.toml")


@from_shelf
def prices_now() -> Prices:
    """Return the shop's prices, what it does not state as assumed.

    Raises:
        PricesError: the file cannot be read, or holds what is no price.
    """
    path = prices_path()
    if not path.is_file():
        return Prices()
    try:
        raw = tomli.loads(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError, tomli.TOMLDecodeError) as error:
        raise PricesError(f"cannot read {path}: {error}; mend the file or move it away") from error
    try:
        return Prices(**raw.get("prices", {}))
    except (ValidationError, TypeError) as error:
        words = (
            "; ".join(f"{'.'.join(map(str, e['loc']))}: {e['msg'].lower()}" for e in error.errors())
            if isinstance(error, ValidationError)
            else "[prices] is no table"
        )
        known = ", ".join(Prices.model_fields)
        raise PricesError(f"{path.name}: [prices] {words} (known here: {known})") from error
