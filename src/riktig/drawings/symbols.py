"""Owns graphical symbols after IEC 60617 (from memory), drawn upright: the first pin on top, the second below.

Every function draws between `y` (upper pin) and `y - SPAN` (lower pin) on the line x. Lengths in mm.
"""

from riktig.catalogue.model import CHANGEOVERS, ElementKind
from riktig.drawings.display import Anchor, Pen, Tone

SPAN = 14.0
STROKE = 0.35
MOTOR_R, MOTOR_LEAD = 7.5, 3.4


def draw_no(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a make contact."""
    pen.line((x, y), (x, y - 4), width=STROKE, ref=ref)
    pen.line((x, y - SPAN), (x, y - 10), (x - 3.2, y - 4.2), width=STROKE, ref=ref)


def draw_nc(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a break contact: the blade lies against a stop."""
    pen.line((x, y), (x, y - 4), (x + 3, y - 4), width=STROKE, ref=ref)
    pen.line((x, y - SPAN), (x, y - 10), (x + 2.6, y - 3), width=STROKE, ref=ref)


def draw_push(pen: Pen, x: float, y: float, ref: str, *, is_mushroom: bool = False) -> None:
    """Draw a push-button actuator left of a contact; a mushroom head for an emergency stop."""
    mid = y - 7.2
    pen.line((x - 1.4, mid), (x - 7, mid), width=0.25, dashed=True, ref=ref)
    if is_mushroom:
        pen.line((x - 7, mid + 2.4), (x - 8.4, mid + 1.2), (x - 8.4, mid - 1.2), (x - 7, mid - 2.4), (x - 7, mid + 2.4),
                 width=STROKE, ref=ref)  # fmt: skip
    else:
        pen.line((x - 5.6, mid + 2), (x - 7, mid + 2), (x - 7, mid - 2), (x - 5.6, mid - 2), width=STROKE, ref=ref)


def draw_trip_actuator(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw the thermal release that works a contact."""
    mid = y - 7.2
    pen.line((x - 1.4, mid), (x - 5, mid), width=0.25, dashed=True, ref=ref)
    pen.rect(x - 8.6, mid - 1.8, 3.6, 3.6, width=STROKE, ref=ref)
    pen.line((x - 7.8, mid - 0.9), (x - 7.8, mid + 0.9), (x - 6, mid + 0.9), (x - 6, mid - 0.9), width=0.25, ref=ref)


def draw_level_actuator(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a float left of a contact."""
    mid = y - 7.2
    pen.line((x - 1.4, mid), (x - 5.4, mid), width=0.25, dashed=True, ref=ref)
    pen.circle(x - 7, mid, 1.6, width=STROKE, ref=ref)


def draw_coil(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a relay or contactor coil."""
    pen.line((x, y), (x, y - 4), width=STROKE, ref=ref)
    pen.rect(x - 5.5, y - 10, 11, 6, width=STROKE, ref=ref)
    pen.line((x, y - 10), (x, y - SPAN), width=STROKE, ref=ref)


def draw_lamp(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a lamp."""
    r = 3.6
    pen.line((x, y), (x, y - 7 + r), width=STROKE, ref=ref)
    pen.circle(x, y - 7, r, width=STROKE, ref=ref)
    d = r * 0.707
    pen.line((x - d, y - 7 - d), (x + d, y - 7 + d), width=STROKE, ref=ref)
    pen.line((x - d, y - 7 + d), (x + d, y - 7 - d), width=STROKE, ref=ref)
    pen.line((x, y - 7 - r), (x, y - SPAN), width=STROKE, ref=ref)


def draw_horn(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a horn."""
    pen.line((x, y), (x, y - 5), width=STROKE, ref=ref)
    pen.rect(x - 2, y - 9, 4, 4, width=STROKE, ref=ref)
    pen.line((x + 2, y - 5.4), (x + 5, y - 3.5), (x + 5, y - 10.5), (x + 2, y - 8.6), width=STROKE, ref=ref)
    pen.line((x, y - 9), (x, y - SPAN), width=STROKE, ref=ref)


def draw_pole(pen: Pen, x: float, y: float, ref: str, kind: str) -> None:
    """Draw one main pole: breaker with a cross, contactor with a cap, main switch with a bar, overload as a box, a winding or
    resistance that starts a motor as what it is.
    """
    if kind == "overload":
        pen.line((x, y), (x, y - 4), width=STROKE, ref=ref)
        pen.rect(x - 2, y - 10, 4, 6, width=STROKE, ref=ref)
        pen.line((x, y - 4), (x, y - 5.6), (x + 1, y - 5.6), (x + 1, y - 8.4), (x, y - 8.4), (x, y - SPAN),
                 width=0.25, ref=ref)  # fmt: skip
        return
    if kind == "transformer":
        draw_winding(pen, x, y, ref)
        return
    if kind == "resistor":
        pen.line((x, y), (x, y - 3), width=STROKE, ref=ref)
        pen.rect(x - 1.6, y - 11, 3.2, 8, width=STROKE, ref=ref)
        pen.line((x, y - 11), (x, y - SPAN), width=STROKE, ref=ref)
        return
    if kind == "fuse":
        pen.line((x, y), (x, y - SPAN), width=STROKE, ref=ref)
        pen.rect(x - 1.4, y - 10.5, 2.8, 7, width=STROKE, ref=ref)
        return
    draw_no(pen, x, y, ref)
    if kind in {"breaker", "motor-breaker", "rcd"}:
        pen.line((x - 1.1, y - 2.9), (x + 1.1, y - 5.1), width=STROKE, ref=ref)
        pen.line((x - 1.1, y - 5.1), (x + 1.1, y - 2.9), width=STROKE, ref=ref)
        pen.rect(x - 1.3, y - 13.2, 2.6, 2.6, width=0.25, fill=Tone.PAPER, ref=ref)
    elif kind == "contactor":
        pen.line((x - 1.2, y - 2.4), (x - 1.2, y - 3.4), (x, y - 4.2), (x + 1.2, y - 3.4), (x + 1.2, y - 2.4),
                 width=0.25, ref=ref)  # fmt: skip
    elif kind == "disconnect":
        pen.line((x - 1.5, y - 3.1), (x + 1.5, y - 3.1), width=STROKE, ref=ref)
        pen.circle(x, y - 3.9, 0.7, width=0.25, ref=ref)


def draw_gang(pen: Pen, x: float, y: float, poles: int, pitch: float, ref: str) -> None:
    """Draw the broken line that joins the poles of one device."""
    if poles > 1:
        pen.line((x - 1.7, y - 7.1), (x - 1.7 + (poles - 1) * pitch, y - 7.1), width=0.25, dashed=True, ref=ref)


def draw_motor(
    pen: Pen, x: float, y: float, conductors: int, pitch: float, ref: str, *, is_through: bool = False
) -> None:
    """Draw a motor below its conductors, which begin at `y`; with both ends of each winding led out they go on below it."""
    middle = x + (conductors - 1) * pitch / 2
    r = MOTOR_R
    centre = y - r - MOTOR_LEAD
    for i in range(conductors):
        px = x + i * pitch
        reach = (r * r - (px - middle) ** 2) ** 0.5
        pen.line((px, y), (px, centre + reach), width=STROKE, ref=ref)
        if is_through:
            pen.line((px, centre - reach), (px, y - 2 * (r + MOTOR_LEAD)), width=STROKE, ref=ref)
    pen.circle(middle, centre, r, width=0.5, ref=ref)
    pen.text(middle, centre + 0.6, "M", size=4, anchor=Anchor.MIDDLE, bold=True, ref=ref)
    pen.text(middle, centre - 4, f"{conductors if conductors > 2 else 1}~", size=2.8, anchor=Anchor.MIDDLE, ref=ref)


def draw_winding_pair(pen: Pen, x: float, y: float, width: float, ref: str) -> None:
    """Draw the primary of a transformer between two conductors: two rings that overlap."""
    middle = x + width / 2
    for px in (x, x + width):
        pen.line((px, y), (px, y - 2.9), (middle + (px - middle) * 0.25, y - 2.9), width=STROKE, ref=ref)
    pen.circle(middle, y - 6.1, 3.4, width=STROKE, ref=ref)
    pen.circle(middle, y - 10.5, 3.4, width=STROKE, ref=ref)


def draw_secondary(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw the secondary of a transformer in a line of its own."""
    pen.line((x, y), (x, y - 2.4), width=STROKE, ref=ref)
    pen.circle(x, y - 4.9, 2.5, width=STROKE, ref=ref)
    pen.circle(x, y - 8.0, 2.5, width=0.25, tone=Tone.QUIET, ref=ref)
    pen.line((x, y - 10.5), (x, y - SPAN), width=STROKE, ref=ref)


def draw_link(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a removable link."""
    pen.line((x, y), (x, y - 3.4), width=STROKE, ref=ref)
    pen.circle(x, y - 4.2, 0.8, width=STROKE, ref=ref)
    pen.rect(x - 1.4, y - 9, 2.8, 4, width=STROKE, ref=ref)
    pen.circle(x, y - 9.8, 0.8, width=STROKE, ref=ref)
    pen.line((x, y - 10.6), (x, y - SPAN), width=STROKE, ref=ref)


def draw_load(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a load in general: a box."""
    pen.line((x, y), (x, y - 3), width=STROKE, ref=ref)
    pen.rect(x - 4, y - 11, 8, 8, width=STROKE, ref=ref)
    pen.line((x, y - 11), (x, y - SPAN), width=STROKE, ref=ref)


def draw_missing(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a contact that the part does not have: a make contact in a broken frame."""
    draw_no(pen, x, y, ref)
    pen.rect(x - 5, y - 10.8, 9, 7.6, width=0.4, tone=Tone.DANGER, ref=ref)


def draw_converter(pen: Pen, x: float, y: float, poles: int, pitch: float, words: tuple[str, str], ref: str) -> None:
    """Draw a converter over all its lines: a divided box with what goes in and what comes out."""
    left, right = x - 5, x + (poles - 1) * pitch + 5
    for i in range(poles):
        pen.line((x + i * pitch, y), (x + i * pitch, y - 2.5), width=STROKE, ref=ref)
        pen.line((x + i * pitch, y - 11.5), (x + i * pitch, y - SPAN), width=STROKE, ref=ref)
    pen.rect(left, y - 11.5, right - left, 9, width=STROKE, ref=ref)
    pen.line((left, y - 11.5), (right, y - 2.5), width=0.25, ref=ref)
    pen.text(left + 3, y - 5.8, words[0], size=2.8, anchor=Anchor.MIDDLE, ref=ref)
    pen.text(right - 3, y - 10.4, words[1], size=2.8, anchor=Anchor.MIDDLE, ref=ref)


def draw_wide_load(pen: Pen, x: float, y: float, leads: int, pitch: float, ref: str) -> None:
    """Draw a load on several conductors: a box below them."""
    for i in range(leads):
        pen.line((x + i * pitch, y), (x + i * pitch, y - 4), width=STROKE, ref=ref)
    pen.rect(x - 4, y - 11, (leads - 1) * pitch + 8, 7, width=STROKE, ref=ref)


def draw_winding(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw one winding of a motor in a line of its own: three half turns."""
    pen.line((x, y), (x, y - 2.5), width=STROKE, ref=ref)
    for k in range(3):
        top = y - 2.5 - 3 * k
        pen.line(
            (x, top),
            (x + 1.6, top - 0.5),
            (x + 2, top - 1.5),
            (x + 1.6, top - 2.5),
            (x, top - 3),
            width=STROKE,
            ref=ref,
        )
    pen.line((x, y - 11.5), (x, y - SPAN), width=STROKE, ref=ref)


def draw_turn(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw a turned actuator left of a contact."""
    mid = y - 7.2
    pen.line((x - 1.4, mid), (x - 7, mid), width=0.25, dashed=True, ref=ref)
    pen.line((x - 5.6, mid + 2), (x - 7, mid + 2), (x - 7, mid - 2), (x - 8.4, mid - 2), width=STROKE, ref=ref)


def draw_delay(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw the bow of a delayed contact at its blade."""
    mid = y - 7.2
    pen.line((x - 2, mid), (x - 4.4, mid), width=0.25, ref=ref)
    pen.line(
        (x - 3.6, mid + 1.6), (x - 4.8, mid + 0.8), (x - 4.8, mid - 0.8), (x - 3.6, mid - 1.6), width=STROKE, ref=ref
    )


def draw_heat_actuator(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw the temperature that works a contact."""
    mid = y - 7.2
    pen.line((x - 1.4, mid), (x - 5, mid), width=0.25, dashed=True, ref=ref)
    pen.rect(x - 8.6, mid - 1.8, 3.6, 3.6, width=STROKE, ref=ref)
    pen.text(x - 6.8, mid - 1, "θ", size=2.6, anchor=Anchor.MIDDLE, ref=ref)


def draw_roller_actuator(pen: Pen, x: float, y: float, ref: str) -> None:
    """Draw the roller of a limit switch."""
    mid = y - 7.2
    pen.line((x - 1.4, mid), (x - 4.6, mid), width=0.25, dashed=True, ref=ref)
    pen.line((x - 4.6, mid), (x - 6.2, mid + 1.2), width=STROKE, ref=ref)
    pen.circle(x - 7, mid + 1.8, 1.0, width=STROKE, ref=ref)


def draw_channel(pen: Pen, x: float, y: float, ref: str, words: str) -> None:
    """Draw an input, output or sensor of a device: a box that says what it is."""
    draw_load(pen, x, y, ref)
    pen.text(x, y - 7.9, words, size=2.5, anchor=Anchor.MIDDLE, ref=ref)


_CHANNEL_WORDS = {
    ElementKind.INPUT: "DI",
    ElementKind.ENABLE: "STO",
    ElementKind.OUTPUT: "DO",
    ElementKind.ANALOG_IN: "AI",
    ElementKind.ANALOG_OUT: "AO",
    ElementKind.SENSOR: "PTC",
    ElementKind.SOURCE: "V",
}
MAKES = frozenset(
    {
        ElementKind.NO,
        ElementKind.CO,
        ElementKind.TIMED_NO,
        ElementKind.TIMED_CO,
        ElementKind.AUX_NO,
        ElementKind.ALARM_NO,
    }
)
BREAKS = frozenset({ElementKind.NC, ElementKind.TIMED_NC, ElementKind.AUX_NC, ElementKind.ALARM_NC})


def draw_element(
    pen: Pen, x: float, y: float, ref: str, device_kind: str, element: ElementKind | None, *, sort: str | None = None
) -> None:
    """Draw one element of a device in a line of its own; `sort` is how a path asks for it: nc, tnc, a position."""
    is_break = element in BREAKS or (element in CHANGEOVERS and sort in {"nc", "tnc"})
    if element is ElementKind.POLE:
        draw_pole(pen, x, y, ref, device_kind)
    elif is_break:
        draw_nc(pen, x, y, ref)
    elif element in MAKES:
        draw_no(pen, x, y, ref)
    elif element is ElementKind.COIL:
        draw_coil(pen, x, y, ref)
    elif element is ElementKind.SOUNDER:
        draw_horn(pen, x, y, ref)
    elif element is ElementKind.LAMP or device_kind == "light":
        draw_lamp(pen, x, y, ref)
    elif element is ElementKind.SECONDARY and device_kind == "transformer":
        draw_secondary(pen, x, y, ref)
    elif element is ElementKind.THROUGH:
        draw_link(pen, x, y, ref)
    elif element is ElementKind.WINDING:
        draw_winding(pen, x, y, ref)
    elif element in _CHANNEL_WORDS:
        draw_channel(pen, x, y, ref, _CHANNEL_WORDS[element])
    elif element is None:
        draw_missing(pen, x, y, ref)
    else:
        draw_load(pen, x, y, ref)
    if element in MAKES | BREAKS:
        draw_actuator(pen, x, y, ref, device_kind)


def draw_actuator(pen: Pen, x: float, y: float, ref: str, device_kind: str) -> None:
    """Draw what works a contact; relays and contactors show it at their coil."""
    if device_kind in {"pushbutton", "emergency-stop"}:
        draw_push(pen, x, y, ref, is_mushroom=device_kind == "emergency-stop")
    elif device_kind == "selector":
        draw_turn(pen, x, y, ref)
    elif device_kind in {"overload", "drive", "soft-starter"}:
        draw_trip_actuator(pen, x, y, ref)
    elif device_kind == "float":
        draw_level_actuator(pen, x, y, ref)
    elif device_kind == "thermostat":
        draw_heat_actuator(pen, x, y, ref)
    elif device_kind == "limit-switch":
        draw_roller_actuator(pen, x, y, ref)
    elif device_kind == "timer":
        draw_delay(pen, x, y, ref)
