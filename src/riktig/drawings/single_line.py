"""Owns the single-line diagram: supply and main switch above, one row for each motor, load, way and control supply. Must not
size.

The bus runs down the left side and every branch to the right, so that the diagram grows downward and is read like a list.
"""

from collections.abc import Callable

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Anchor, Drawing, Pen, Shape, Tone
from riktig.drawings.shapes import element_shape, symbol_set
from riktig.drawings.symbols import SPAN
from riktig.plan.answers.nameplate import protection_words
from riktig.plan.plan import Plan
from riktig.plan.sizes.coils import control_volts
from riktig.units.numbers import format_number

WIDTH, MARGIN = 124.0, 4.0
BUS_X, FIRST_X, STEP = 8.0, 15.0, 23.0
MOTOR_X, MOTOR_R = 93.0, 6.5
HEADER, ROW = 51.0, 22.0
_KINDS = {
    "reversing": "reversing",
    "star-delta": "star-delta",
    "drive": "speed drive",
    "soft": "soft starter",
    "pump": "pump",
}
_BOXES = {"drive": ("~", "f"), "soft-starter": ("~", "~"), "psu": ("~", "=")}
_MOST_TITLE = 44


Row = tuple[Callable[[Pen, Plan, str, float], None], str]


def single_line_rows(plan: Plan) -> tuple[Row, ...]:
    """Return what draws each branch, and its name: motors, loads of a person's own, ways, control supplies."""
    job = plan.job
    own = [
        name
        for name, one in plan.power_circuits.items()
        if job.starter(name) is None and not one.supply and one.devices
    ]
    return (
        *((_draw_starter, s.name) for s in job.starters if s.name in plan.motors),
        *((_draw_own, name) for name in own if plan.power_circuits[name].supply is not None),
        *((_draw_way, w.name) for w in job.ways),
        *((_draw_control, c.name) for c in job.controls if c.group_of is None),
    )


def draw_single_line(plan: Plan) -> Drawing:
    """Return the diagram in mm; it grows downward with each branch."""
    rows = single_line_rows(plan)
    height = HEADER + max(len(rows), 1) * ROW + MARGIN
    pen = Pen()
    pen.rect(0, 0, WIDTH, height, fill=Tone.PAPER, tone=Tone.NONE)
    draw_rows(pen, plan, rows, height, is_first=True)
    return Drawing(name="single-line", title="Single-line diagram", width=WIDTH, height=height, items=tuple(pen.items))


def draw_rows(pen: Pen, plan: Plan, rows: tuple[Row, ...], top: float, *, is_first: bool) -> None:
    """Draw branches on a piece of the bus that hangs from `top`, the first piece below supply and main switch."""
    head = top - HEADER if is_first else top
    if is_first:
        _draw_header(pen, plan, top)
    y = head - ROW / 2
    last = y
    for draw, name in rows:
        pen.circle(BUS_X, y, 1.0, fill=Tone.INK)
        draw(pen, plan, name, y)
        last, y = y, y - ROW
    pen.line((BUS_X, head), (BUS_X, last), width=1.0)


def _draw_header(pen: Pen, plan: Plan, height: float) -> None:
    supply = plan.job.supply
    words = f"{supply.volts:g} V  {supply.system}  {supply.hertz:g} Hz"
    pen.text(MARGIN, height - 8, words, size=3.8, bold=True)
    facts = (
        f"fault current {supply.available_ka:g} kA, rating {plan.panel.sccr_ka:g} kA",
        f"full load {plan.panel.full_load_a:.1f} A",
        f"supply: at most {protection_words(plan)}"
        + "".join(f", {n}: {v.value:g} A" for n, v in plan.panel.further.items()),
    )
    for n, text in enumerate(facts):
        pen.text(MARGIN, height - 13.5 - 4.8 * n, text, size=3, tone=Tone.QUIET)
    top = height - HEADER + 24
    pen.line((BUS_X, top), (BUS_X, top - 5), width=0.5)
    if "Q0" in plan.parts:
        pen.symbol(_pole(plan, plan.parts["Q0"].kind, is_turned=False), BUS_X, top - 5, ref="Q0")
        pen.text(BUS_X + 6, top - 10.5, plan.tags["Q0"], size=3.4, bold=True, ref="Q0")
        pen.text(BUS_X + 6, top - 15, f"{plan.parts['Q0'].rating('amps'):g} A", size=3, tone=Tone.QUIET, ref="Q0")
    else:
        pen.line((BUS_X, top - 5), (BUS_X, top - 5 - SPAN), width=0.5)
    pen.line((BUS_X, top - 5 - SPAN), (BUS_X, height - HEADER), width=0.5)


def _draw_device(pen: Pen, plan: Plan, device: str, kind: str, step: int, y: float, words: str) -> float:
    """Draw one device of a branch with its tag and rating above it, and return where it ends."""
    x = FIRST_X + step * STEP
    start = BUS_X if step == 0 else x - STEP + SPAN
    pen.line((start, y), (x, y), width=0.5)
    if kind in _BOXES:
        _draw_box(pen, x, y, _BOXES[kind], device)
    elif kind == "transformer":
        pen.circle(x + 4.6, y, 3.4, width=0.5, ref=device)
        pen.circle(x + 9.2, y, 3.4, width=0.5, ref=device)
        pen.line((x, y), (x + 1.2, y), width=0.5)
        pen.line((x + 12.6, y), (x + SPAN, y), width=0.5)
    else:
        pen.symbol(_pole(plan, kind, is_turned=True), x, y, ref=device)
    pen.text(x - 1, y + 8.3, plan.tags[device], size=3, bold=True, ref=device)
    pen.text(x - 1, y + 4.3, words, size=2.7, tone=Tone.QUIET, ref=device)
    return x + SPAN


def _pole(plan: Plan, kind: str, *, is_turned: bool) -> Shape:
    return element_shape(symbol_set(plan.job), kind, ElementKind.POLE, None, is_turned=is_turned)


def _draw_box(pen: Pen, x: float, y: float, words: tuple[str, str], ref: str) -> None:
    """Draw a drive, soft starter or DC supply: a divided box with what it makes of what."""
    pen.line((x, y), (x + 2.5, y), width=0.5, ref=ref)
    pen.rect(x + 2.5, y - 3.6, 9, 7.2, width=0.35, ref=ref)
    pen.line((x + 2.5, y - 3.6), (x + 11.5, y + 3.6), width=0.25, ref=ref)
    pen.text(x + 4.7, y + 0.6, words[0], size=2.6, anchor=Anchor.MIDDLE, ref=ref)
    pen.text(x + 9.4, y - 2.9, words[1], size=2.6, anchor=Anchor.MIDDLE, ref=ref)
    pen.line((x + 11.5, y), (x + SPAN, y), width=0.5, ref=ref)


def _rows_of(plan: Plan, name: str) -> list[tuple[int, str, str, str]]:
    """Return (step, device, kind, words) of what lies in the power path of a starter, from the bus on."""
    rows = []
    for step, role in ((0, "Q"), (1, "K"), (2, "F"), (2, "A")):
        device = f"{name}.{role}"
        kind = plan.circuit.device(device).kind if device in plan.parts else "relay"
        if kind != "relay":
            amps = f"{plan.parts[device].rating('amps'):g} A"
            is_set = kind in {"overload", "motor-breaker"} and plan.parts[device].rating("amps_max")
            words = f"set {format_number(plan.motors[name].setting)} A" if is_set else amps
            rows.append((step, device, kind, words))
    return rows


def _draw_starter(pen: Pen, plan: Plan, name: str, y: float) -> None:
    starter = plan.job.starter(name)
    assert starter is not None
    _draw_branch(pen, plan, _rows_of(plan, name), y)
    power = f"{starter.kw:g} kW" if starter.kw is not None else f"{starter.hp:g} hp"
    _draw_motor(pen, plan, name, y, (power, f"{format_number(plan.motors[name].current)} A"))
    told = [starter.title, _KINDS.get(starter.kind, "")]
    pen.text(FIRST_X - 1, y - 7.6, _fit(", ".join(word for word in told if word)), size=2.8, ref=name)


def _draw_branch(pen: Pen, plan: Plan, rows: list[tuple[int, str, str, str]], y: float) -> None:
    """Draw the devices of a branch (step, device, kind, words) and the line on to what it feeds."""
    end, before = BUS_X, -1
    for step, device, kind, words in rows:
        if step > before + 1:
            pen.line((end, y), (FIRST_X + step * STEP - STEP + SPAN, y), width=0.5)
        end, before = _draw_device(pen, plan, device, kind, step, y, words), step
    pen.line((end, y), (MOTOR_X - MOTOR_R, y), width=0.5)


def _draw_motor(pen: Pen, plan: Plan, name: str, y: float, words: tuple[str, str]) -> None:
    pen.circle(MOTOR_X, y, MOTOR_R, width=0.6, ref=name)
    pen.text(MOTOR_X, y - 1.6, "M", size=4.4, bold=True, anchor=Anchor.MIDDLE, ref=name)
    x = MOTOR_X + MOTOR_R + 2
    pen.text(x, y + 2.6, plan.tags.get(name, name), size=3.4, bold=True, ref=name)
    for n, text in enumerate(word for word in words if word):
        pen.text(x, y - 1.6 - 4.2 * n, text, size=3, tone=Tone.QUIET, ref=name)


def _draw_own(pen: Pen, plan: Plan, name: str, y: float) -> None:
    """Draw the branch of a motor or load that a person drew: of its devices the protection next to it, a contactor, what is set."""
    one, rows = plan.power_circuits[name], []
    for step, devices in enumerate(
        (one.of_role("Q")[-1:], one.of_role("K", "KR", "KD")[:1], one.of_role("F", "A")[:1])
    ):
        for device in devices:
            part, setting = plan.parts[device], plan.setting_of(device)
            words = f"{part.rating('amps'):g} A" if setting is None else f"set {format_number(setting)} A"
            rows.append((step, device, part.kind, words))
    _draw_branch(pen, plan, rows, y)
    load_device = plan.circuit.device(name)
    if one.is_motor:
        sizes = plan.starters.get(name)
        power = (
            ""
            if sizes is None
            else next((f"{v:g} {u}" for v, u in ((sizes.starter.kw, "kW"), (sizes.starter.hp, "hp")) if v), "")
        )
        _draw_motor(
            pen, plan, name, y, (power, f"{format_number(sizes.motor.current)} A" if sizes is not None else "not sized")
        )
    else:
        load = plan.own_loads.get(name)
        amps = f"{format_number(load.amps)} A" if load is not None and load.amps is not None else "not sized"
        _draw_arrow(pen, MOTOR_X - MOTOR_R, y, (plan.tags[name], amps), name)
    pen.text(FIRST_X - 1, y - 7.6, _fit(load_device.title or load_device.kind), size=2.8, ref=name)


def _draw_way(pen: Pen, plan: Plan, name: str, y: float) -> None:
    way = next(w for w in plan.job.ways if w.name == name)
    device = f"{name}.F"
    end = _draw_device(pen, plan, device, "breaker", 0, y, f"{plan.parts[device].rating('amps'):g} A")
    _draw_arrow(pen, end, y, (name, ""), f"{name}.E")
    pen.text(FIRST_X - 1, y - 7.6, _fit(way.title), size=2.8, ref=f"{name}.E")


def _draw_control(pen: Pen, plan: Plan, name: str, y: float) -> None:
    control = next(c for c in plan.job.controls if c.name == name)
    end = BUS_X
    present = [d for role in ("FP", "T", "G", "F") if (d := f"{name}.{role}") in plan.parts]
    for step, device in enumerate(present):
        part = plan.parts[device]
        is_middle = part.kind in {"transformer", "psu"}
        words = f"{part.rating('va'):g} VA" if is_middle else f"{part.rating('amps'):g} A"
        end = _draw_device(pen, plan, device, part.kind, step, y, words)
    volts = f"{control_volts(control, plan.job):.0f} V {'DC' if control.is_dc else 'AC'}"
    groups = [one.name for one in plan.job.controls if one.group_of == name]
    _draw_arrow(pen, end, y, (" ".join((name, *groups)), volts), present[-1])
    behind = " ".join(plan.tags[f"{group}.F"] for group in (name, *groups))
    words = f"Control supply, groups {behind}" if groups else "Control supply"
    pen.text(FIRST_X - 1, y - 7.6, _fit(words), size=2.8, tone=Tone.QUIET)


def _draw_arrow(pen: Pen, start: float, y: float, words: tuple[str, str], ref: str) -> None:
    tip = MOTOR_X + MOTOR_R
    pen.line((start, y), (tip - 3, y), width=0.5)
    pen.line((tip - 3, y - 1.6), (tip, y), (tip - 3, y + 1.6), (tip - 3, y - 1.6), width=0.5, ref=ref)
    pen.text(tip + 2, y + (0.6 if words[1] else -1.2), words[0], size=3.4, bold=True, ref=ref)
    pen.text(tip + 2, y - 3.8, words[1], size=3, tone=Tone.QUIET, ref=ref)


def _fit(text: str) -> str:
    return text if len(text) <= _MOST_TITLE else text[: _MOST_TITLE - 1] + "…"
