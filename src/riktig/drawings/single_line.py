"""Owns the single-line diagram: supply, main switch, one branch for each motor and control supply. Must not size."""

from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.drawings.symbols import SPAN, draw_pole
from riktig.plan.coils import control_volts
from riktig.plan.plan import Plan
from riktig.units.numbers import format_number

BRANCH, LEFT_MARGIN, MARGIN = 42.0, 20.0, 6.0
BUS_Y, TOP_Y, MOTOR_Y = 118.0, 160.0, 34.0


def draw_single_line(plan: Plan) -> Drawing:
    """Return the diagram in mm; it grows to the right with each branch."""
    pen = Pen()
    job = plan.job
    branches = max(len(job.starters) + len(job.ways) + len(job.controls), 2)
    width = LEFT_MARGIN + branches * BRANCH + MARGIN
    height = TOP_Y + 22
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    supply = job.supply
    x = LEFT_MARGIN
    words = f"{supply.volts:g} V  {supply.system}  {supply.hertz:g} Hz"
    pen.text(x - 14, TOP_Y + 12, words, size=3.6, bold=True)
    pen.text(x - 14, TOP_Y + 6.5, f"fault current {supply.fault_ka:g} kA", size=3, tone=Tone.QUIET)
    pen.line((x, TOP_Y + 4), (x, BUS_Y + 26), width=0.5)
    if "Q0" in plan.parts:
        draw_pole(pen, x, BUS_Y + 26, "Q0", "disconnect")
        _label(pen, plan, "Q0", x + 4, BUS_Y + 20, f"{plan.parts['Q0'].rating('amps'):g} A")
    else:
        pen.line((x, BUS_Y + 26), (x, BUS_Y + 26 - SPAN), width=0.5)
    pen.line((x, BUS_Y + 26 - SPAN), (x, BUS_Y), width=0.5)
    pen.line((x - 12, BUS_Y), (width - MARGIN, BUS_Y), width=1.0)
    load = f"full load {plan.panel.full_load_a:.1f} A    rating {plan.panel.sccr_ka:g} kA"
    pen.text(width - MARGIN, BUS_Y + 2.5, load, size=3, anchor=Anchor.RIGHT, tone=Tone.QUIET)
    for starter in job.starters:
        _draw_starter(pen, plan, starter.name, x)
        x += BRANCH
    for way in job.ways:
        _draw_way(pen, plan, way.name, x)
        x += BRANCH
    for control in job.controls:
        _draw_control(pen, plan, control.name, x)
        x += BRANCH
    return Drawing(name="single-line", title="Single-line diagram", width=width, height=height, items=tuple(pen.items))


def _label(pen: Pen, plan: Plan, device: str, x: float, y: float, words: str) -> None:
    pen.text(x, y, plan.tags[device], size=3.4, bold=True, ref=device)
    pen.text(x, y - 4.6, words, size=3, tone=Tone.QUIET, ref=device)


def _rows_of(plan: Plan, name: str) -> list[tuple[str, str, str]]:
    """Return (device, kind, words) of what lies in the power path of a starter, from the bus down."""
    size = plan.motors[name]
    rows = []
    for role in ("Q", "K", "F", "A"):
        device = f"{name}.{role}"
        kind = plan.circuit.device(device).kind if device in plan.parts else "relay"
        if kind == "relay":
            continue
        setting = f"set {format_number(size.setting)} A"
        words = setting if role == "F" else f"{plan.parts[device].rating('amps'):g} A"
        rows.append((device, kind, words))
    return rows


_BESIDE = {"KR": "and reverse", "KD": "star-delta"}


def _draw_converter(pen: Pen, x: float, y: float, device: str, kind: str) -> None:
    """Draw a drive or soft starter: a box with what it makes of the supply."""
    pen.line((x, y), (x, y - 3), width=0.5, ref=device)
    pen.rect(x - 5, y - 11, 10, 8, width=0.5, ref=device)
    pen.line((x - 5, y - 11), (x + 5, y - 3), width=0.35, ref=device)
    pen.text(x - 2.6, y - 5.6, "~", size=3, anchor=Anchor.MIDDLE, ref=device)
    pen.text(x + 2.6, y - 9.8, "f" if kind == "drive" else "~", size=3, anchor=Anchor.MIDDLE, ref=device)
    pen.line((x, y - 11), (x, y - SPAN), width=0.5, ref=device)


def _draw_starter(pen: Pen, plan: Plan, name: str, x: float) -> None:
    size = plan.motors[name]
    y = BUS_Y
    pen.circle(x, BUS_Y, 1.0, fill=Tone.INK)
    for device, kind, words in _rows_of(plan, name):
        pen.line((x, y), (x, y - 6), width=0.5)
        if kind in {"drive", "soft-starter"}:
            _draw_converter(pen, x, y - 6, device, kind)
        else:
            draw_pole(pen, x, y - 6, device, kind)
        _label(pen, plan, device, x + (7 if kind in {"drive", "soft-starter"} else 6), y - 11.5, words)
        beside = next((text for role, text in _BESIDE.items() if f"{name}.{role}" in plan.parts), None)
        if kind == "contactor" and beside is not None:
            pen.text(x + 6, y - 20.6, beside, size=2.8, tone=Tone.QUIET, ref=device)
        y -= 6 + SPAN
    pen.line((x, y), (x, MOTOR_Y + 8), width=0.5)
    pen.circle(x, MOTOR_Y, 8, width=0.6, ref=name)
    pen.text(x, MOTOR_Y - 1.8, "M", size=5, bold=True, anchor=Anchor.MIDDLE, ref=name)
    starter = plan.job.starter(name)
    assert starter is not None
    power = f"{starter.kw:g} kW" if starter.kw is not None else f"{starter.hp:g} hp"
    pen.text(x + 11, MOTOR_Y + 2, plan.tags[name], size=3.4, bold=True, ref=name)
    pen.text(x + 11, MOTOR_Y - 2.6, power, size=3, tone=Tone.QUIET, ref=name)
    pen.text(x + 11, MOTOR_Y - 7, f"{format_number(size.current)} A", size=3, tone=Tone.QUIET, ref=name)
    pen.text(x, MOTOR_Y - 14, _fit(starter.title), size=3, anchor=Anchor.MIDDLE, ref=name)


def _draw_way(pen: Pen, plan: Plan, name: str, x: float) -> None:
    way = next(w for w in plan.job.ways if w.name == name)
    pen.circle(x, BUS_Y, 1.0, fill=Tone.INK)
    y = _draw_breaker(pen, plan, f"{name}.F", x, BUS_Y)
    pen.line((x, y), (x, MOTOR_Y + 2), (x - 1.6, MOTOR_Y + 5), (x + 1.6, MOTOR_Y + 5), (x, MOTOR_Y + 2), width=0.5)
    pen.text(x, MOTOR_Y - 4, name, size=3.2, bold=True, anchor=Anchor.MIDDLE, ref=f"{name}.E")
    pen.text(x, MOTOR_Y - 8.6, _fit(way.title), size=3, tone=Tone.QUIET, anchor=Anchor.MIDDLE, ref=f"{name}.E")


def _draw_control(pen: Pen, plan: Plan, name: str, x: float) -> None:
    control = next(c for c in plan.job.controls if c.name == name)
    pen.circle(x, BUS_Y, 1.0, fill=Tone.INK)
    y = BUS_Y
    middle = next((device for role in "TG" if (device := f"{name}.{role}") in plan.parts), None)
    if middle is not None:
        y = _draw_breaker(pen, plan, f"{name}.FP", x, y)
        pen.line((x, y), (x, y - 3), width=0.5)
        if middle.endswith("T"):
            pen.circle(x, y - 6.6, 3.6, width=0.5, ref=middle)
            pen.circle(x, y - 11.2, 3.6, width=0.5, ref=middle)
        else:
            pen.rect(x - 4.5, y - 14.8, 9, 11.8, width=0.5, ref=middle)
            pen.line((x - 4.5, y - 14.8), (x + 4.5, y - 3), width=0.35, ref=middle)
            pen.text(x - 2.2, y - 6.4, "~", size=3, anchor=Anchor.MIDDLE, ref=middle)
            pen.text(x + 2.2, y - 13.4, "=", size=3, anchor=Anchor.MIDDLE, ref=middle)
        _label(pen, plan, middle, x + 6, y - 8, f"{plan.parts[middle].rating('va'):g} VA")
        y -= 14.8
    y = _draw_breaker(pen, plan, f"{name}.F", x, y)
    pen.line((x, y), (x, MOTOR_Y + 2), (x - 1.6, MOTOR_Y + 5), (x + 1.6, MOTOR_Y + 5), (x, MOTOR_Y + 2), width=0.5)
    pen.text(x, MOTOR_Y - 4, f"Control {name}", size=3.2, bold=True, anchor=Anchor.MIDDLE)
    pen.text(
        x,
        MOTOR_Y - 8.6,
        f"{control_volts(control, plan.job):.0f} V {'DC' if control.is_dc else 'AC'}",
        size=3,
        tone=Tone.QUIET,
        anchor=Anchor.MIDDLE,
    )


def _draw_breaker(pen: Pen, plan: Plan, device: str, x: float, y: float) -> float:
    pen.line((x, y), (x, y - 6), width=0.5)
    draw_pole(pen, x, y - 6, device, "breaker")
    _label(pen, plan, device, x + 5, y - 11.5, f"{plan.parts[device].rating('amps'):g} A")
    return y - 6 - SPAN


def _fit(text: str) -> str:
    return text if len(text) <= 22 else text[:21] + "…"
