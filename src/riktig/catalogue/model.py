"""Owns what a part is. Must not know which job uses it."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from riktig.catalogue.holes import FixingHole, read_holes, read_outline


class ElementKind(StrEnum):
    """What one element inside a device does to the current through it."""

    POLE = "pole"
    NO = "no"
    NC = "nc"
    CO = "co"
    TIMED_NO = "tno"
    TIMED_NC = "tnc"
    TIMED_CO = "tco"
    AUX_NO = "aux_no"
    AUX_NC = "aux_nc"
    ALARM_NO = "alarm_no"
    ALARM_NC = "alarm_nc"
    COIL = "coil"
    LAMP = "lamp"
    SOUNDER = "sounder"
    LOAD = "load"
    WINDING = "winding"
    PRIMARY = "primary"
    SECONDARY = "secondary"
    CONVERTER = "converter"  # a line in and a line out that do not conduct: drive or soft starter
    INPUT = "input"  # a digital input and its common, or the device's own supply that a contact closes onto it
    ENABLE = "enable"  # a safe-torque-off input, as `input`
    OUTPUT = "output"  # a digital output: supply in, channel out
    ANALOG_IN = "analog_in"
    ANALOG_OUT = "analog_out"
    SENSOR = "sensor"
    SOURCE = "source"
    EARTH = "earth"
    THROUGH = "through"


CONTACT_KINDS = frozenset({
    ElementKind.NO, ElementKind.NC, ElementKind.CO, ElementKind.TIMED_NO, ElementKind.TIMED_NC, ElementKind.TIMED_CO,
    ElementKind.AUX_NO, ElementKind.AUX_NC, ElementKind.ALARM_NO, ElementKind.ALARM_NC,
})  # fmt: skip
CONSUMER_KINDS = frozenset({
    ElementKind.COIL, ElementKind.LAMP, ElementKind.SOUNDER, ElementKind.LOAD, ElementKind.PRIMARY,
    ElementKind.WINDING,
})  # fmt: skip
CHANGEOVERS = frozenset({ElementKind.CO, ElementKind.TIMED_CO})
LANE_KINDS = frozenset({ElementKind.POLE, ElementKind.THROUGH, ElementKind.CONVERTER})
"""Elements that stand side by side, one for each conductor of a feeder."""


class Mounting(StrEnum):
    """How a part is held."""

    RAIL = "rail"
    PLUGGED = "plugged"  # on the load side of another device, such as an overload relay on its contactor
    PLATE = "plate"
    DOOR = "door"
    FIELD = "field"
    FRONT = "front"  # a block snapped on the front of another part: adds to its depth
    BESIDE = "beside"  # a block at the side of another part: adds to its width


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
class Clamp:
    """How a part takes its conductors: `clamp` screw, spring or bolt; sections in mm2, torque in N m (0 for a
    spring), strip length in mm, and how many conductors each takes.
    """

    clamp: str = "screw"
    capacity: int = 2
    mm2_min: float = 0.5
    mm2_max: float = 2.5
    torque_nm: float = 0.5
    strip_mm: float = 9.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TerminalSpec:
    """A terminal: its mark, how it clamps and where it lies.

    `x_share` is its place across the width of the part, 0 at the left edge and 1 at the right.
    """

    mark: str
    side: Side
    x_share: float
    clamp: Clamp

    @property
    def capacity(self) -> int:
        """How many conductors it takes."""
        return self.clamp.capacity


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A catalogue part. Lengths in mm, losses in W at rated current, `clearance` in mm to what stands above and below.

    `ratings` holds plain numbers by name: `amps` (rated or AC-3), `kw_400`, `hp_460`, `amps_min` and `amps_max` (setting
    range), `volts` of its coil or lamp, `hold_va`, `inrush_va`, `va`, `breaking_ka`, `rating_ka`, `hole_mm`.
    `traits` holds words: `curve`, `type`, `colour`, `current` (ac or dc of its coil), `blocks` that extend it, the
    `coils` that it comes with and the `holes` by which it is screwed down.
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
    clearance: float = 0.0

    def rating(self, name: str) -> float:
        """Return a rating, 0 where the part has none of that name."""
        return self.ratings.get(name, 0.0)

    @property
    def holes(self) -> tuple[FixingHole, ...]:
        """Where it is screwed to the plate, nothing where its data do not say."""
        return read_holes(self.traits.get("holes", ""), self.width, self.height)

    @property
    def outline(self) -> tuple[tuple[float, float], ...]:
        """The corners of its outline in mm from the lower left one of the rectangle that holds it, none where it is that rectangle."""
        return read_outline(self.traits.get("outline", ""), self.width, self.height)

    @property
    def poles(self) -> int:
        """How many poles it has."""
        return sum(element.kind is ElementKind.POLE for element in self.elements)

    def terminal(self, mark: str) -> TerminalSpec | None:
        """Return the terminal with that mark, None if the part has none."""
        known = _BY_MARK.get(id(self))
        if known is None or known[0] is not self:
            known = _BY_MARK[id(self)] = (self, {t.mark: t for t in reversed(self.terminals)})
        return known[1].get(mark)

    @property
    def torque_nm(self) -> float:
        """The largest torque in N m of its terminals."""
        return max((t.clamp.torque_nm for t in self.terminals), default=0.0)

    @property
    def codes(self) -> tuple[str, ...]:
        """The order codes of base part and blocks; the coil stays with the base."""
        body, at, volts = self.code.partition("@")
        base, *blocks = body.split("+")
        return (f"{base}{at}{volts}", *blocks)


_BY_MARK: dict[int, tuple[Part, dict[str, TerminalSpec]]] = {}
"""The terminals of each part by their marks; a part is asked for them thousands of times."""
