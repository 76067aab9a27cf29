"""Owns the graphical symbols as shapes with pins, in both standards and both directions. Must not know a plan.

A shape is drawn upright with its first pin at (0, 0), current running down; turned, current runs to the right and what stood on its
left stands above. Lengths in mm.
"""

from dataclasses import replace
from enum import StrEnum
from functools import cache

from riktig.catalogue.model import CHANGEOVERS, ElementKind
from riktig.drawings import symbols, symbols_nema
from riktig.drawings.display import Anchor, Line, Pen, Point, Primitive, Rect, Shape, Text
from riktig.drawings.symbols import SPAN, STROKE
from riktig.drawings.text_width import text_box
from riktig.job.model import Job
from riktig.job.practice import Standard

POLE_PITCH = 7.0
_BREAK_SORTS = frozenset({"nc", "tnc"})


class SymbolSet(StrEnum):
    """Which standard symbols follow: IEC 60617, or IEEE 315 with NEMA practice."""

    IEC = "iec"
    NEMA = "nema"


def symbol_set(job: Job) -> SymbolSet:
    """Return the standard that a job's symbols follow: as its practice says, else by its world."""
    if job.practice.symbols is not None:
        return SymbolSet(job.practice.symbols)
    return SymbolSet.NEMA if job.practice.standard is Standard.UL else SymbolSet.IEC


@cache
def element_shape(
    standard: SymbolSet, kind: str, element: ElementKind | None, sort: str | None, *, is_turned: bool
) -> Shape:
    """Return the symbol of one element; `sort` is how a path asks for it: nc, tnc, a position of a selector."""
    pen = Pen()
    if standard is SymbolSet.IEC or not _draw_nema(pen, kind, element, sort):
        symbols.draw_element(pen, 0, 0, "", kind, element, sort=sort)
    words = [
        standard.value,
        kind,
        element.value if element is not None else "missing",
        sort or "" if element in CHANGEOVERS else "",
    ]
    title = (
        f"{_kind_words(kind)}, {_ELEMENT_WORDS.get(element, 'element')}"
        if element is not None
        else "contact that the part lacks"
    )
    if element in CHANGEOVERS:
        title += " (opens)" if sort in _BREAK_SORTS else " (closes)"
    pins = ((0.0, 0.0), (0.0, -SPAN))
    return _finished(pen, "-".join(w for w in words if w), pins, is_turned=is_turned, title=title)


_ELEMENT_WORDS = {
    ElementKind.POLE: "main pole", ElementKind.NO: "make contact", ElementKind.NC: "break contact",
    ElementKind.CO: "half of a changeover", ElementKind.TIMED_NO: "timed make contact", ElementKind.TIMED_NC: "timed break contact",
    ElementKind.TIMED_CO: "half of a timed changeover", ElementKind.AUX_NO: "auxiliary make contact",
    ElementKind.AUX_NC: "auxiliary break contact", ElementKind.ALARM_NO: "alarm make contact",
    ElementKind.ALARM_NC: "alarm break contact", ElementKind.COIL: "coil", ElementKind.LAMP: "lamp", ElementKind.SOUNDER: "sounder",
    ElementKind.LOAD: "load or supply", ElementKind.WINDING: "winding", ElementKind.PRIMARY: "primary",
    ElementKind.SECONDARY: "secondary", ElementKind.CONVERTER: "converter", ElementKind.INPUT: "digital input",
    ElementKind.ENABLE: "safe torque off", ElementKind.OUTPUT: "digital output", ElementKind.ANALOG_IN: "analogue input",
    ElementKind.ANALOG_OUT: "analogue output", ElementKind.SENSOR: "sensor", ElementKind.SOURCE: "source",
    ElementKind.EARTH: "earth", ElementKind.THROUGH: "feed-through or link",
}  # fmt: skip
_KIND_WORDS = {
    "pushbutton": "push-button", "psu": "DC supply", "plc": "controller", "hmi": "operator panel", "rcd": "residual-current device",
    "disconnect": "switch-disconnector", "overload": "overload relay", "surge": "surge arrester", "motor-breaker": "motor breaker",
}  # fmt: skip


def _kind_words(kind: str) -> str:
    return _KIND_WORDS.get(kind, kind.replace("-", " "))


def _draw_nema(pen: Pen, kind: str, element: ElementKind | None, sort: str | None) -> bool:
    if element is ElementKind.POLE:
        return symbols_nema.draw_pole(pen, kind)
    if element in symbols.MAKES | symbols.BREAKS:
        is_break = element in symbols.BREAKS or (element in CHANGEOVERS and sort in _BREAK_SORTS)
        symbols_nema.draw_contact(pen, kind, is_break=is_break)
        if kind not in {"pushbutton", "emergency-stop"}:
            symbols.draw_actuator(pen, 0, 0, "", kind)
        return True
    return symbols_nema.draw_element(pen, kind, element)


@cache
def motor_shape(conductors: int, *, is_through: bool = False) -> Shape:
    """Return a motor below its conductors; the last pin is its earth terminal."""
    pen = Pen()
    symbols.draw_motor(pen, 0, 0, conductors, POLE_PITCH, "", is_through=is_through)
    middle, r = (conductors - 1) * POLE_PITCH / 2, symbols.MOTOR_R
    centre = -r - symbols.MOTOR_LEAD
    earth = (middle + r, centre) if is_through else (middle + r * 0.7071, centre - r * 0.7071)
    pins: list[Point] = [(i * POLE_PITCH, 0.0) for i in range(conductors)]
    if is_through:
        pins += [(i * POLE_PITCH, 2 * centre) for i in range(conductors)]
    pins.append(earth)
    return _finished(
        pen,
        f"motor-{conductors}{'-through' if is_through else ''}",
        tuple(pins),
        is_turned=False,
        title=f"motor, {conductors} leads" + (", both ends of each winding" if is_through else ""),
    )


@cache
def converter_shape(poles: int, words: tuple[str, str]) -> Shape:
    """Return a converter over all its lines: a divided box with what goes in and what comes out."""
    pen = Pen()
    symbols.draw_converter(pen, 0, 0, poles, POLE_PITCH, words, "")
    heads, ends = _rows(poles)
    return _finished(
        pen,
        f"converter-{poles}-{words[0]}{words[1]}",
        (*heads, *ends),
        is_turned=False,
        title="converter: drive or soft starter",
    )


@cache
def wide_load_shape(leads: int) -> Shape:
    """Return a load on several conductors: a box below them."""
    pen = Pen()
    symbols.draw_wide_load(pen, 0, 0, leads, POLE_PITCH, "")
    return _finished(pen, f"load-{leads}", _rows(leads)[0], is_turned=False, title=f"device on {leads} conductors")


@cache
def primary_shape(standard: SymbolSet, leads: int) -> Shape:
    """Return the primary of a transformer between its conductors."""
    pen = Pen()
    if standard is SymbolSet.NEMA:
        symbols_nema.draw_transformer(pen, POLE_PITCH * (leads - 1))
    else:
        symbols.draw_winding_pair(pen, 0, 0, POLE_PITCH * (leads - 1), "")
    return _finished(
        pen, f"{standard.value}-primary-{leads}", _rows(leads)[0], is_turned=False, title="transformer, primary"
    )


def _rows(count: int) -> tuple[tuple[Point, ...], tuple[Point, ...]]:
    return tuple((i * POLE_PITCH, 0.0) for i in range(count)), tuple((i * POLE_PITCH, -SPAN) for i in range(count))


@cache
def arrow_shape(direction: str) -> Shape:
    """Return the arrow of a potential that comes from or goes to elsewhere: `down` or `right`; its tail is the pin, or its tip is
    where it `comes`.
    """
    pen = Pen()
    name, _, way = direction.partition(" ")
    tip = -2.4 if way != "comes" else 0.0
    base = 0.0 if way != "comes" else 2.4
    pen.line((-1.3, base), (0, tip), (1.3, base), (-1.3, base), width=STROKE)
    return _finished(
        pen,
        f"arrow-{way or 'goes'}",
        ((0.0, 0.0),),
        is_turned=name == "right",
        title="potential comes from elsewhere" if way else "potential goes on elsewhere",
    )


@cache
def earth_shape(standard: SymbolSet, *, is_turned: bool = False) -> Shape:
    """Return the protective earth below its pin; after IEC 60617 in a circle."""
    pen = Pen()
    pen.line((0, 0), (0, -2.2), width=STROKE)
    for k, half in enumerate((2.0, 1.3, 0.6)):
        pen.line((-half, -2.2 - 0.8 * k), (half, -2.2 - 0.8 * k), width=STROKE)
    if standard is SymbolSet.IEC:
        pen.circle(0, -2.6, 2.6, width=0.25)
    return _finished(pen, f"{standard.value}-earth", ((0.0, 0.0),), is_turned=is_turned, title="protective earth")


@cache
def earthed_shape() -> Shape:
    """Return a part that is earthed: a box below its terminal."""
    pen = Pen()
    pen.line((0, 0), (0, -6), width=STROKE)
    pen.rect(-6, -13, 12, 7, width=STROKE)
    return _finished(
        pen, "earthed-part", ((0.0, 0.0),), is_turned=False, title="exposed part or device that is earthed"
    )


@cache
def terminal_shape() -> Shape:
    """Return a strip terminal on a conductor that goes through."""
    pen = Pen()
    pen.circle(0, 0, 0.9, width=0.3)
    return _finished(
        pen,
        "strip-terminal",
        ((0.0, 0.0),),
        is_turned=False,
        title="terminal of a strip: what lies behind it is outside the panel",
    )


def _finished(pen: Pen, name: str, pins: tuple[Point, ...], *, is_turned: bool, title: str) -> Shape:
    items = tuple(replace(item, ref=None) for item in pen.items if not hasattr(item, "shape"))
    if not is_turned:
        return Shape(name=name, items=items, pins=pins, title=title)
    return Shape(
        name=f"{name}-turned",
        items=tuple(_turned(item) for item in items),
        pins=tuple((-y, -x) for x, y in pins),
        title=title,
    )


def _turned(item: Primitive) -> Primitive:
    """Return an item mirrored on the falling diagonal: down becomes right, left becomes up; letters stay upright."""
    if isinstance(item, Line):
        return replace(item, points=tuple((-y, -x) for x, y in item.points))
    if isinstance(item, Rect):
        return replace(item, x=-item.y - item.h, y=-item.x - item.w, w=item.h, h=item.w)
    if isinstance(item, Text):
        assert item.anchor is Anchor.MIDDLE
        return replace(item, x=-item.y - item.size / 2, y=-item.x - item.size / 2)
    return replace(item, x=-item.y, y=-item.x)


@cache
def shape_box(shape: Shape) -> tuple[float, float, float, float]:
    """Return the room of a shape around its origin in mm: left, bottom, right, top."""
    xs, ys = [0.0], [0.0]
    for item in shape.items:
        if isinstance(item, Line):
            xs.extend(x for x, _ in item.points)
            ys.extend(y for _, y in item.points)
        elif isinstance(item, Rect):
            xs.extend((item.x, item.x + item.w))
            ys.extend((item.y, item.y + item.h))
        elif isinstance(item, Text):
            left, bottom, right, top = text_box(item)
            xs.extend((left, right))
            ys.extend((bottom, top))
        else:
            xs.extend((item.x - item.r, item.x + item.r))
            ys.extend((item.y - item.r, item.y + item.r))
    return min(xs), min(ys), max(xs), max(ys)
