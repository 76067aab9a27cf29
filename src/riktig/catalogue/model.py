"""Owns what a part is. Must not know which job uses it."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class ElementKind(StrEnum):
    """What one element inside a device does to the current through it."""

    POLE = "pole"
    NO = "no"
    NC = "nc"
    CO = "co"
    COIL = "coil"
    LAMP = "lamp"
    LOAD = "load"
    PRIMARY = "primary"
    SECONDARY = "secondary"
    EARTH = "earth"
    THROUGH = "through"


CONTACT_KINDS = frozenset({ElementKind.NO, ElementKind.NC, ElementKind.CO})
CONSUMER_KINDS = frozenset({ElementKind.COIL, ElementKind.LAMP, ElementKind.LOAD, ElementKind.PRIMARY})


class Mounting(StrEnum):
    """How a part is held."""

    RAIL = "rail"
    PLUGGED = "plugged"  # on the load side of another device, such as an overload relay on its contactor
    PLATE = "plate"
    DOOR = "door"
    FIELD = "field"


class Side(StrEnum):
    """On which edge of the part, seen from the front, a terminal is wired."""

    TOP = "top"
    BOTTOM = "bottom"


@dataclass(frozen=True, slots=True, kw_only=True)
class Element:
    """One pole, contact, coil or the like, with its terminal marks in the order of their numbers."""

    kind: ElementKind
    marks: tuple[str, ...]

    @property
    def name(self) -> str:
        """The marks joined, as a brief asks for them: `13-14`."""
        return "-".join(self.marks)


@dataclass(frozen=True, slots=True, kw_only=True)
class TerminalSpec:
    """A clamp: how many conductors it takes and where it lies.

    `x_share` is its place across the width of the part, 0 at the left edge and 1 at the right.
    """

    mark: str
    side: Side
    x_share: float
    capacity: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A catalogue part. Lengths in mm, losses in W at rated current, torque in N m.

    `ratings` holds plain numbers by name: `amps`, `amps_min` and `amps_max` (setting range), `volts`,
    `hold_va`, `inrush_va`, `va`, `hole_mm`.
    """

    code: str
    kind: str
    title: str
    width: float
    height: float
    depth: float
    mounting: Mounting
    elements: tuple[Element, ...]
    terminals: tuple[TerminalSpec, ...]
    ratings: Mapping[str, float]
    traits: Mapping[str, str]
    losses_w: float = 0.0
    torque_nm: float = 0.5

    def rating(self, name: str) -> float:
        """Return a rating, 0 where the part has none of that name."""
        return self.ratings.get(name, 0.0)

    def terminal(self, mark: str) -> TerminalSpec | None:
        """Return the clamp with that mark, None if the part has none."""
        return next((t for t in self.terminals if t.mark == mark), None)
