"""Owns the display list: lines, shapes and texts in mm, origin lower left, y up. Must not know what they depict."""

from dataclasses import dataclass, field
from enum import StrEnum

Point = tuple[float, float]


class Tone(StrEnum):
    """What a stroke or fill is for; each output turns it into a colour of its own."""

    INK = "ink"
    QUIET = "quiet"
    FAINT = "faint"
    PAPER = "paper"
    STEEL = "steel"
    PART = "part"
    DUCT = "duct"
    DONE = "done"
    ATTENTION = "attention"
    DANGER = "danger"
    NONE = "none"
    BLACK = "wire black"
    RED = "wire red"
    BLUE = "wire blue"
    LIGHT_BLUE = "wire light blue"
    ORANGE = "wire orange"
    YELLOW = "wire yellow"
    WHITE = "wire white"
    WHITE_BLUE = "wire white-blue"
    GREEN_YELLOW = "wire green-yellow"


class Anchor(StrEnum):
    """Which end of a text lies at its point."""

    LEFT = "left"
    MIDDLE = "middle"
    RIGHT = "right"


def wire_tone(colour: str) -> Tone:
    """Return the tone of an insulation colour such as `light blue`."""
    return Tone(f"wire {colour}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A polyline. `ref` is the id of what it depicts, `width` in mm."""

    points: tuple[Point, ...]
    width: float = 0.3
    tone: Tone = Tone.INK
    is_dashed: bool = False
    ref: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Rect:
    """A rectangle from its lower left corner; `radius` rounds its corners."""

    x: float
    y: float
    w: float
    h: float
    width: float = 0.3
    tone: Tone = Tone.INK
    fill: Tone = Tone.NONE
    radius: float = 0.0
    ref: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Circle:
    """A circle around its centre."""

    x: float
    y: float
    r: float
    width: float = 0.3
    tone: Tone = Tone.INK
    fill: Tone = Tone.NONE
    ref: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Text:
    """A text whose baseline begins, centres or ends at its point; `size` is the letter height in mm (em 1.4 of it).

    `is_upright` turns it a quarter to the left.
    """

    x: float
    y: float
    text: str
    size: float = 2.5
    anchor: Anchor = Anchor.LEFT
    tone: Tone = Tone.INK
    is_bold: bool = False
    is_mono: bool = False
    is_upright: bool = False
    ref: str | None = None


Item = Line | Rect | Circle | Text
EM_PER_HEIGHT = 1.4
"""Font size per letter height, for B612 (capital height 0.71 em)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A sheet or view: size in mm and its items from back to front. `name` is for files, `title` for people."""

    name: str
    title: str
    width: float
    height: float
    items: tuple[Item, ...]


@dataclass(slots=True)
class Pen:
    """Collects items; a new one for each drawing."""

    items: list[Item] = field(default_factory=list)

    def line(
        self, *points: Point, width: float = 0.3, tone: Tone = Tone.INK, dashed: bool = False, ref: str | None = None
    ) -> None:
        """Add a polyline through points."""
        self.items.append(Line(points=points, width=width, tone=tone, is_dashed=dashed, ref=ref))

    def rect(
        self,
        x: float,
        y: float,
        w: float,
        h: float,
        *,
        fill: Tone = Tone.NONE,
        tone: Tone = Tone.INK,
        width: float = 0.3,
        radius: float = 0.0,
        ref: str | None = None,
    ) -> None:
        """Add a rectangle."""
        self.items.append(Rect(x=x, y=y, w=w, h=h, fill=fill, tone=tone, width=width, radius=radius, ref=ref))

    def circle(
        self,
        x: float,
        y: float,
        r: float,
        *,
        fill: Tone = Tone.NONE,
        tone: Tone = Tone.INK,
        width: float = 0.3,
        ref: str | None = None,
    ) -> None:
        """Add a circle."""
        self.items.append(Circle(x=x, y=y, r=r, fill=fill, tone=tone, width=width, ref=ref))

    def text(
        self,
        x: float,
        y: float,
        text: str,
        *,
        size: float = 2.5,
        anchor: Anchor = Anchor.LEFT,
        tone: Tone = Tone.INK,
        bold: bool = False,
        mono: bool = False,
        upright: bool = False,
        ref: str | None = None,
    ) -> None:
        """Add a text; an empty one is left out."""
        if text:
            self.items.append(
                Text(
                    x=x, y=y, text=text, size=size, anchor=anchor, tone=tone, is_bold=bold, is_mono=mono,
                    is_upright=upright, ref=ref,
                )
            )  # fmt: skip
