"""Owns graphical symbols after IEEE 315 and NEMA ICS 19 (from memory), drawn upright like those of `symbols`."""

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Pen
from riktig.drawings.symbols import SPAN, STROKE

_R = 0.9
_UPPER, _LOWER = 4.0, 10.0


def draw_bars(pen: Pen, *, is_break: bool) -> None:
    """Draw a relay contact: two bars across the conductor, struck through where it breaks."""
    pen.line((0, 0), (0, -5.4), width=STROKE)
    pen.line((-3, -5.4), (3, -5.4), width=0.5)
    pen.line((-3, -8.6), (3, -8.6), width=0.5)
    pen.line((0, -8.6), (0, -SPAN), width=STROKE)
    if is_break:
        pen.line((-3, -10.4), (3, -3.6), width=STROKE)


def draw_terminals(pen: Pen) -> None:
    """Draw the two fixed points of a switch."""
    pen.line((0, 0), (0, -_UPPER + _R), width=STROKE)
    pen.circle(0, -_UPPER, _R, width=STROKE)
    pen.circle(0, -_LOWER, _R, width=STROKE)
    pen.line((0, -_LOWER - _R), (0, -SPAN), width=STROKE)


def draw_button(pen: Pen, *, is_break: bool, is_mushroom: bool = False) -> None:
    """Draw a push-button: its bridge stands off the points, or lies on their far side and is pushed off."""
    draw_terminals(pen)
    bridge = 1.5 if is_break else -2.4
    pen.line((bridge, -3.1), (bridge, -10.9), width=STROKE)
    pen.line((bridge, -7), (-6.6, -7), width=STROKE)
    if is_mushroom:
        pen.line((-6.6, -4.4), (-8.2, -5.6), (-8.2, -8.4), (-6.6, -9.6), (-6.6, -4.4), width=STROKE)
    else:
        pen.line((-6.6, -4.8), (-6.6, -9.2), width=STROKE)


def draw_switch(pen: Pen, *, is_break: bool) -> None:
    """Draw a switch that something other than a hand works: the blade hangs off the points or rests on them from behind."""
    draw_terminals(pen)
    tip = (1.7, -3.2) if is_break else (-3.4, -4.4)
    pen.line((-_R * 0.4 if not is_break else _R * 0.5, -_LOWER + _R), tip, width=STROKE)


def draw_coil(pen: Pen) -> None:
    """Draw a coil: a circle."""
    pen.line((0, 0), (0, -2.8), width=STROKE)
    pen.circle(0, -7, 4.2, width=STROKE)
    pen.line((0, -11.2), (0, -SPAN), width=STROKE)


def draw_lamp(pen: Pen) -> None:
    """Draw a pilot light: a circle with rays."""
    r = 3.0
    pen.line((0, 0), (0, -7 + r), width=STROKE)
    pen.circle(0, -7, r, width=STROKE)
    for sx in (-1, 1):
        for sy in (-1, 1):
            pen.line((sx * 2.4, -7 + sy * 2.4), (sx * 3.8, -7 + sy * 3.8), width=STROKE)
    pen.line((0, -7 - r), (0, -SPAN), width=STROKE)


def draw_heater(pen: Pen) -> None:
    """Draw the heater of an overload relay in one pole: two hooks back to back."""
    pen.line((0, 0), (0, -3), width=STROKE)
    pen.line((0, -3), (-1.6, -3.4), (-2.1, -4.9), (-1.6, -6.4), (0, -6.8), width=STROKE)
    pen.line((0, -6.8), (1.6, -7.2), (2.1, -8.7), (1.6, -10.2), (0, -10.6), width=STROKE)
    pen.line((0, -10.6), (0, -SPAN), width=STROKE)


def draw_fuse(pen: Pen) -> None:
    """Draw a fuse: a wave between two points."""
    pen.line((0, 0), (0, -3), width=STROKE)
    pen.line(
        (0, -3),
        (1.2, -3.6),
        (1.7, -5),
        (1.2, -6.4),
        (0, -7),
        (-1.2, -7.6),
        (-1.7, -9),
        (-1.2, -10.4),
        (0, -11),
        width=STROKE,
    )
    pen.line((0, -11), (0, -SPAN), width=STROKE)


def draw_breaker(pen: Pen, *, is_magnetic: bool) -> None:
    """Draw one pole of a circuit breaker: a bow beside its points, and a hook where its release is magnetic."""
    draw_terminals(pen)
    pen.line((-1.2, -3.2), (-2.9, -5), (-3.3, -7), (-2.9, -9), (-1.2, -10.8), width=STROKE)
    if is_magnetic:
        pen.line((0, -11.6), (1.3, -11.6), (1.3, -12.9), (0, -12.9), width=0.25)


def draw_blade(pen: Pen) -> None:
    """Draw one pole of a disconnect switch."""
    draw_terminals(pen)
    pen.line((-0.4, -_LOWER + _R), (-3.6, -3.6), width=STROKE)


def draw_loops(pen: Pen) -> None:
    """Draw a winding in a line of its own: loops."""
    pen.line((0, 0), (0, -2.5), width=STROKE)
    for k in range(3):
        top = -2.5 - 3 * k
        pen.line((0, top), (1.9, top - 0.4), (2.3, top - 1.5), (1.9, top - 2.6), (0, top - 3), width=STROKE)
    pen.line((0, -11.5), (0, -SPAN), width=STROKE)


def draw_transformer(pen: Pen, width: float) -> None:
    """Draw the primary of a transformer between two conductors `width` mm apart: loops, the core, and the loops of the secondary."""
    for x in (0.0, width):
        pen.line((x, 0), (x, -3.4), width=STROKE)
    step = width / 3
    for upper, sign in ((-3.4, -1.0), (-10.6, 1.0)):
        for k in range(3):
            x = k * step
            pen.line(
                (x, upper),
                (x + step * 0.15, upper + sign * 1.6),
                (x + step * 0.5, upper + sign * 2.2),
                (x + step * 0.85, upper + sign * 1.6),
                (x + step, upper),
                width=STROKE,
            )
    for y in (-6.6, -7.4):
        pen.line((0, y), (width, y), width=STROKE)


def draw_pole(pen: Pen, kind: str) -> bool:
    """Draw one main pole; return whether this kind of device has a form of its own here."""
    if kind == "contactor":
        draw_bars(pen, is_break=False)
    elif kind == "overload":
        draw_heater(pen)
    elif kind == "fuse":
        draw_fuse(pen)
    elif kind in {"breaker", "motor-breaker", "rcd"}:
        draw_breaker(pen, is_magnetic=kind == "motor-breaker")
    elif kind == "disconnect":
        draw_blade(pen)
    elif kind == "transformer":
        draw_loops(pen)
    elif kind == "resistor":
        draw_zigzag(pen)
    else:
        return False
    return True


def draw_zigzag(pen: Pen) -> None:
    """Draw a resistance: three teeth to each side."""
    teeth = [(1.6 if k % 2 else -1.6, -3.6 - 1.36 * k) for k in range(6)]
    pen.line((0, 0), (0, -3), *teeth, (0, -11), (0, -SPAN), width=STROKE)


def draw_contact(pen: Pen, kind: str, *, is_break: bool) -> bool:
    """Draw a contact with what works it; return whether this kind of device has a form of its own here."""
    if kind in {"pushbutton", "emergency-stop"}:
        draw_button(pen, is_break=is_break, is_mushroom=kind == "emergency-stop")
    elif kind in {"selector", "float", "limit-switch", "thermostat", "switch", "disconnect", "timer"}:
        draw_switch(pen, is_break=is_break)
    else:
        draw_bars(pen, is_break=is_break)
    return True


def draw_element(pen: Pen, kind: str, element: ElementKind | None) -> bool:
    """Draw a coil, lamp or winding; return whether it has a form of its own here."""
    if element is ElementKind.COIL:
        draw_coil(pen)
    elif element is ElementKind.LAMP:
        draw_lamp(pen)
    elif element is ElementKind.WINDING or (element is ElementKind.SECONDARY and kind == "transformer"):
        draw_loops(pen)
    else:
        return False
    return True
