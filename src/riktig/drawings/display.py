"""Owns the display list: lines, shapes, texts and symbols in mm, origin lower left, y up. Must not know what they depict."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
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
    WHITE_YELLOW = "wire white-yellow"
    BROWN = "wire brown"
    VIOLET = "wire violet"
    GREY = "wire grey"
    GREEN = "wire green"
    GREEN_YELLOW = "wire green-yellow"


class Layer(StrEnum):
    """What sort of thing an item is; in exchange files a layer of its own."""

    SHEET = "sheet"
    WIRE = "wires"
    SYMBOL = "symbols"
    TAG = "tags"
    NUMBER = "numbers"
    REFERENCE = "references"
    TERMINAL = "terminals"
    NOTE = "notes"
    OUTLINE = "outlines"
    HOLE = "holes"
    CENTRE = "centres"
    RAIL = "rails"
    DUCT = "ducts"
    PART = "parts"


BENCH = "bench"
"""What a link to a bench of the window begins with."""


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
    layer: Layer = Layer.SHEET


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
    layer: Layer = Layer.SHEET


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
    layer: Layer = Layer.SHEET


@dataclass(frozen=True, slots=True, kw_only=True)
class Text:
    """A text whose baseline begins, centres or ends at its point; `size` is the letter height in mm (em 1.4 of it).

    `is_upright` turns it a quarter to the left. `link` is the id of the target that it leads to.
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
    layer: Layer = Layer.SHEET
    link: str | None = None


Primitive = Line | Rect | Circle | Text


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """A graphical symbol around its own origin, with the points where conductors meet it; `title` says what it stands for."""

    name: str
    items: tuple[Primitive, ...]
    pins: tuple[Point, ...]
    title: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Symbol:
    """A shape at a point. `terminals` name its pins in their order: `K1:A1`; `ref` is the id of what it depicts, `tag` how people
    call it, `spot` the key of the use that it is, `link` the id of the target that it leads to.
    """

    shape: Shape
    x: float
    y: float
    terminals: tuple[str, ...] = ()
    ref: str | None = None
    tag: str = ""
    spot: str = ""
    link: str | None = None
    layer: Layer = Layer.SYMBOL

    def pins(self) -> tuple[Point, ...]:
        """Return where its pins lie on the sheet."""
        return tuple((self.x + px, self.y + py) for px, py in self.shape.pins)

    def primitives(self) -> Iterator[Primitive]:
        """Yield what it is made of, on the sheet."""
        for item in self.shape.items:
            yield moved(item, self.x, self.y, self.ref, self.layer)


def moved(item: Primitive, dx: float, dy: float, ref: str | None, layer: Layer) -> Primitive:
    """Return an item moved by some mm, as part of something."""
    if isinstance(item, Line):
        return replace(item, points=tuple((x + dx, y + dy) for x, y in item.points), ref=ref, layer=layer)
    return replace(item, x=item.x + dx, y=item.y + dy, ref=ref, layer=layer)


def bench_link(bench: str, ref: str) -> str:
    """Return a link that leads to a thing on a bench of the window; on paper it leads nowhere."""
    return f"{BENCH}:{bench}:{ref}"


def bench_of(link: str) -> tuple[str, str] | None:
    """Return bench and ref of such a link, None of one that leads to a target on a sheet."""
    kind, _, rest = link.partition(":")
    bench, _, ref = rest.partition(":")
    return (bench, ref) if kind == BENCH else None


Item = Primitive | Symbol
EM_PER_HEIGHT = 1.4
"""Font size per letter height, for B612 (capital height 0.71 em)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """A place on a drawing that a link leads to."""

    id: str
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A sheet or view: size in mm and its items from back to front. `name` is for files, `title` for people; `chapter` is what it
    belongs to in a set, `targets` where links lead.
    """

    name: str
    title: str
    width: float
    height: float
    items: tuple[Item, ...]
    chapter: str = ""
    targets: tuple[Target, ...] = ()

    def primitives(self) -> Iterator[Primitive]:
        """Yield lines, shapes and texts, symbols taken apart."""
        for item in self.items:
            if isinstance(item, Symbol):
                yield from item.primitives()
            else:
                yield item


@dataclass(slots=True)
class Pen:
    """Collects items, each in the layer of its sort; a new one for each drawing."""

    items: list[Item] = field(default_factory=list)
    targets: list[Target] = field(default_factory=list)

    def line(
        self,
        *points: Point,
        width: float = 0.3,
        tone: Tone = Tone.INK,
        dashed: bool = False,
        ref: str | None = None,
        layer: Layer = Layer.SHEET,
    ) -> None:
        """Add a polyline through points."""
        self.items.append(Line(points=points, width=width, tone=tone, is_dashed=dashed, ref=ref, layer=layer))

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
        layer: Layer = Layer.SHEET,
    ) -> None:
        """Add a circle."""
        self.items.append(Circle(x=x, y=y, r=r, fill=fill, tone=tone, width=width, ref=ref, layer=layer))

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
        layer: Layer = Layer.SHEET,
        link: str | None = None,
    ) -> None:
        """Add a text; an empty one is left out."""
        if text:
            self.items.append(
                Text(
                    x=x, y=y, text=text, size=size, anchor=anchor, tone=tone, is_bold=bold, is_mono=mono,
                    is_upright=upright, ref=ref, layer=layer, link=link,
                )
            )  # fmt: skip

    def symbol(
        self,
        shape: Shape,
        x: float,
        y: float,
        *,
        terminals: tuple[str, ...] = (),
        ref: str | None = None,
        tag: str = "",
        spot: str = "",
        link: str | None = None,
    ) -> None:
        """Add a symbol."""
        self.items.append(Symbol(shape=shape, x=x, y=y, terminals=terminals, ref=ref, tag=tag, spot=spot, link=link))

    def target(self, name: str, x: float, y: float) -> None:
        """Add a place that links lead to."""
        self.targets.append(Target(id=name, x=x, y=y))
