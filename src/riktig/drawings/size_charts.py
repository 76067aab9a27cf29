"""Owns the charts of sizes: short-circuit chain, heat balance, voltage along a feeder. Must not compute any of them."""

from dataclasses import dataclass

from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.drawings.single_line import draw_single_line
from riktig.plan.answers.feeder_drop import FeederProfile, profile_feeder
from riktig.plan.plan import Plan
from riktig.plan.sizes.short_circuit import Branch, ChainLink
from riktig.plan.sizes.starter import DROP_LIMIT_PERCENT, START_DROP_LIMIT_PERCENT
from riktig.units.numbers import format_number

WIDTH, MARGIN = 124.0, 4.0
_INNER = WIDTH - 2 * MARGIN
_LINK_X, _LINK_W, _LINK_H, _LINK_GAP, _IN_ROW = 24.0, 21.0, 15.0, 4.0, 4
_ROW_H = _LINK_H + 3.0
_MOST_BARS, _BAR_H, _BAR_X, _BAR_W = 9, 6.0, 34.0, 62.0
_CHART_H, _AXIS_X = 100.0, 17.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Charts:
    """All charts of a Plan; `feeder` is None where no motor that is sized is asked for."""

    single_line: Drawing
    chain: Drawing
    heat: Drawing
    feeder: Drawing | None


def draw_charts(plan: Plan, name: str | None = None) -> Charts:
    """Return the single-line diagram and the charts of sizes; `name` is the motor whose feeder is drawn, if it is one that is sized."""
    feeder = draw_feeder(plan, name) if name is not None and name in plan.starters else None
    return Charts(single_line=draw_single_line(plan), chain=draw_chain(plan), heat=draw_heat(plan), feeder=feeder)


def _paper(pen: Pen, height: float, heading: str, facts: tuple[str, ...]) -> float:
    """Lay the paper, write heading and facts, and return the y where drawing goes on; `pen` gets its paper first."""
    pen.rect(0, 0, WIDTH, height, fill=Tone.PAPER, tone=Tone.NONE)
    pen.text(MARGIN, height - 8, heading, size=3.8, bold=True)
    for n, text in enumerate(facts):
        pen.text(MARGIN, height - 14 - 5 * n, text, size=3, tone=Tone.QUIET)
    return height - 16 - 5 * len(facts)


def _drawing(name: str, title: str, height: float, pen: Pen) -> Drawing:
    return Drawing(name=name, title=title, width=WIDTH, height=height, items=tuple(pen.items))


# -- short-circuit chain


def draw_chain(plan: Plan) -> Drawing:
    """Return what each component of each branch stands, in mm, the weakest branch first; it grows downward."""
    rating = plan.panel.short_circuit
    branches = sorted((b for b in rating.branches if b.ka is not None), key=lambda b: b.ka or 0.0)
    height = 32.0 + sum(_branch_height(branch) for branch in branches)
    pen = Pen()
    fault = plan.job.supply.available_ka
    is_enough = rating.rating_ka >= fault
    verdict = "enough for" if is_enough else "NOT enough for"
    weakest = ", ".join(plan.tags[d] for d in rating.limited_by[:3]) + (" ..." if len(rating.limited_by) > 3 else "")
    facts = (
        f"{verdict} the {fault:g} kA that the supply can deliver",
        f"weakest: {weakest}" if weakest else "set by hand",
    )
    y = _paper(pen, height, f"The panel stands {rating.rating_ka:g} kA", facts)
    for branch in branches:
        y = _draw_branch(pen, plan, branch, rating.rating_ka, y)
    return _drawing("short-circuit", "Short-circuit chain", height, pen)


def _branch_height(branch: Branch) -> float:
    return -(-len(branch.links) // _IN_ROW) * _ROW_H + 2.0


def _draw_branch(pen: Pen, plan: Plan, branch: Branch, least: float, y: float) -> float:
    """Draw a branch: its name and what it stands on the left, its components in the order of the current."""
    is_tagged = branch.owner in plan.tags
    name = plan.tags[branch.owner] if is_tagged else branch.owner.replace("_", " ")
    ref = branch.owner if is_tagged or plan.job.control(branch.owner) is not None else None
    pen.text(MARGIN, y - 6, name, size=3.2 if len(name) <= 6 else 2.5 if len(name) <= 9 else 2.2, bold=True, ref=ref)
    pen.text(MARGIN, y - 11, f"{branch.ka:g} kA", size=3.2, ref=ref)
    for n, link in enumerate(branch.links):
        row, column = divmod(n, _IN_ROW)
        x, top = _LINK_X + column * (_LINK_W + _LINK_GAP), y - row * _ROW_H
        if column:
            pen.line((x - _LINK_GAP, top - _LINK_H / 2), (x, top - _LINK_H / 2), width=0.6)
        _draw_link(pen, plan, link, branch.available_ka, link.strength.ka == least, x, top)
    return y - _branch_height(branch)


def _draw_link(pen: Pen, plan: Plan, link: ChainLink, fault: float, is_weakest: bool, x: float, top: float) -> None:
    """Draw one component: tag, kA, and how it comes by them; the weakest has a thick frame and says so."""
    strength = link.strength
    is_short = strength.ka < fault
    tone = Tone.DANGER if is_short else Tone.ATTENTION if is_weakest else Tone.INK
    pen.rect(
        x, top - _LINK_H, _LINK_W, _LINK_H, fill=Tone.PART, tone=tone, width=0.8 if is_weakest or is_short else 0.3, radius=1.2,
        ref=link.device,
    )  # fmt: skip
    pen.text(x + 1.3, top - 4.6, plan.tags[link.device], size=3, bold=True, ref=link.device)
    is_raised = strength.ka > strength.own_ka
    words = f"{strength.own_ka:g} → {strength.ka:g} kA" if is_raised else f"{strength.ka:g} kA"
    pen.text(x + 1.3, top - 9.3, words, size=3, ref=link.device)
    how = "too weak" if is_short else "weakest" if is_weakest else strength.how
    pen.text(x + 1.3, top - 13.4, how, size=2.3, tone=tone if is_short or is_weakest else Tone.QUIET, ref=link.device)


# -- heat balance


def draw_heat(plan: Plan) -> Drawing:
    """Return where the heat comes from and where it goes, in mm."""
    heat, box = plan.panel.heat, plan.job.enclosure
    bars = sorted(heat.by_device.items(), key=lambda pair: -pair[1])
    shown, rest = bars[:_MOST_BARS], bars[_MOST_BARS:]
    lines = [(plan.tags[d], watts, d) for d, watts in shown]
    if rest:
        lines.append((f"{len(rest)} others", sum(w for _, w in rest), ""))
    lines.append(("wires", heat.wires_w, ""))
    height = 121.0 + len(lines) * (_BAR_H + 1.6)
    pen = Pen()
    is_hot = heat.inside_c > box.inside_max + 1e-9
    facts = (
        f"{plan.panel.heat_w:.0f} W warm it by {format_number(heat.rise_k)} K",
        "too warm: see the findings" if is_hot else "on average; warmer at the top of the enclosure",
    )
    y = _paper(pen, height, f"{heat.inside_c:.0f} °C inside", facts)
    y = _draw_scale(pen, plan, y - 9, is_hot)
    pen.text(MARGIN, y - 5, "Heat set free", size=3.2, bold=True)
    pen.text(WIDTH - MARGIN, y - 5, f"{plan.panel.heat_w:.0f} W", size=3.2, bold=True, anchor=Anchor.RIGHT)
    y -= 8.5
    most = max([watts for _, watts, _ in lines] + [1.0])
    for name, watts, ref in lines:
        y = _draw_bar(pen, name, watts, most, y, Tone.ATTENTION, ref or None)
    allowed = max(box.inside_max - box.ambient, 0.0)
    _draw_carried(pen, plan, allowed, y - 4)
    return _drawing("heat", "Heat balance", height, pen)


def _draw_scale(pen: Pen, plan: Plan, y: float, is_hot: bool) -> float:
    """Draw the temperatures on one line: around the panel, inside, allowed."""
    heat, box = plan.panel.heat, plan.job.enclosure
    low = min(box.ambient, heat.inside_c) - 6.0
    high = max(box.inside_max, heat.inside_c) + 8.0

    def place(celsius: float) -> float:
        return MARGIN + _INNER * (celsius - low) / (high - low)

    base = y - 10
    tone = Tone.DANGER if is_hot else Tone.DONE
    pen.rect(MARGIN, base, _INNER, 6, fill=Tone.STEEL, tone=Tone.NONE, radius=1)
    pen.rect(place(box.ambient), base, place(heat.inside_c) - place(box.ambient), 6, fill=tone, tone=Tone.NONE)
    pen.line((place(box.inside_max), base - 2), (place(box.inside_max), base + 12), width=0.8)
    pen.text(place(box.ambient), base + 8.5, f"around {box.ambient:g}", size=3, anchor=Anchor.LEFT)
    pen.text(place(box.inside_max), base + 12.8, f"allowed {box.inside_max:g}", size=3, anchor=Anchor.MIDDLE)
    pen.text(
        place(heat.inside_c),
        base - 5,
        f"inside {heat.inside_c:.0f} °C",
        size=3,
        bold=True,
        tone=tone,
        anchor=Anchor.MIDDLE,
    )
    return base - 8


def _draw_bar(pen: Pen, name: str, watts: float, most: float, y: float, tone: Tone, ref: str | None) -> float:
    pen.text(MARGIN, y - 4.4, name, size=3, ref=ref)
    pen.rect(_BAR_X, y - _BAR_H, max(_BAR_W * watts / most, 0.4), _BAR_H, fill=tone, tone=Tone.NONE, ref=ref)
    pen.text(
        WIDTH - MARGIN,
        y - 4.4,
        f"{watts:.1f} W" if watts < 10 else f"{watts:.0f} W",
        size=3,
        anchor=Anchor.RIGHT,
        ref=ref,
    )
    return y - _BAR_H - 1.6


def _draw_carried(pen: Pen, plan: Plan, allowed_k: float, y: float) -> None:
    """Draw what walls and fans carry away at the warmest air allowed, and what is left."""
    heat, box = plan.panel.heat, plan.job.enclosure
    walls = heat.walls_w(allowed_k)
    fans = heat.fans_m3h * allowed_k / 3.1
    pen.text(MARGIN, y - 5, f"Carried away at {box.inside_max:g} °C inside", size=3.2, bold=True)
    y -= 8.5
    most = max(walls, fans, plan.panel.heat_w, 1.0)
    y = _draw_bar(pen, "walls", walls, most, y, Tone.DONE, None)
    if fans:
        y = _draw_bar(pen, "fans", fans, most, y, Tone.DONE, None)
    left = walls + fans - plan.panel.heat_w
    word, tone = ("to spare", Tone.DONE) if left >= 0 else ("missing", Tone.DANGER)
    y = _draw_bar(pen, word, abs(left), most, y, tone, None)
    if heat.needed_air_m3h:
        pen.text(
            MARGIN, y - 4, f"A filter fan of {heat.needed_air_m3h:.0f} m³/h would carry it.", size=3, tone=Tone.DANGER
        )
    elif heat.needed_heater_w:
        words = f"At {box.ambient_min:g} °C around it, {heat.needed_heater_w:.0f} W of heating keep it at 5 °C."
        pen.text(MARGIN, y - 4, words, size=3, tone=Tone.QUIET)


# -- voltage along a feeder


def draw_feeder(plan: Plan, name: str) -> Drawing:
    """Return the voltage along the way to a starter's motor, in mm.

    Raises:
        KeyError: there is no such starter.
    """
    profile = profile_feeder(plan, name)
    starter = plan.job.starter(name)
    height = _CHART_H + 70.0
    pen = Pen()
    end = profile.points[-1]
    lost = [100 - end.running_percent, 100 - end.starting_percent]
    facts = (
        f"at the motor {format_number(profile.volts * end.running_percent / 100)} V running, "
        f"{format_number(profile.volts * end.starting_percent / 100)} V while it starts",
        f"{lost[0]:.1f} % and {lost[1]:.1f} % below the supply's {profile.volts:g} V",
    )
    title = f"{plan.tags[name]}  {starter.title}" if starter is not None and starter.title else plan.tags[name]
    y = _paper(pen, height, f"Voltage on the way to {title}", facts)
    _draw_axes(pen, profile, y - 4)
    return _drawing("feeder", "Voltage along a feeder", height, pen)


def _draw_axes(pen: Pen, profile: FeederProfile, top: float) -> None:
    first, last = profile.points[0].metres, profile.points[-1].metres
    lowest = min(min(p.starting_percent, p.running_percent) for p in profile.points)
    low = max(0.0, 5.0 * int(min(lowest - 1.0, 94.0) / 5.0))
    left, right, bottom = MARGIN + _AXIS_X, WIDTH - MARGIN - 6, top - _CHART_H

    def place(metres: float, percent: float) -> tuple[float, float]:
        x = left + (right - left) * (metres - first) / max(last - first, 1e-6)
        return x, bottom + (top - bottom) * (percent - low) / (100.0 - low)

    step = 5.0 if 100.0 - low > 12 else 2.0 if 100.0 - low > 6 else 1.0
    percent = low
    while percent <= 100.0 + 1e-9:
        _, y = place(first, percent)
        pen.line((left, y), (right, y), width=0.2, tone=Tone.FAINT)
        pen.text(left - 2, y - 1.1, f"{percent:g} %", size=2.6, tone=Tone.QUIET, anchor=Anchor.RIGHT)
        percent += step
    panel = profile.points[1]
    for what, limit, at in (
        ("running", DROP_LIMIT_PERCENT, panel.running_percent),
        ("starting", START_DROP_LIMIT_PERCENT, panel.starting_percent),
    ):
        if at - limit > low:
            a, b = place(panel.metres, at - limit), place(last, at - limit)
            pen.line(a, b, width=0.5, tone=Tone.DANGER, dashed=True)
            pen.text(a[0] + 2, a[1] + 1.2, f"{what}: at most {limit:g} % on the cable", size=2.6, tone=Tone.DANGER)
    running = tuple(place(p.metres, p.running_percent) for p in profile.points)
    starting = tuple(place(p.metres, p.starting_percent) for p in profile.points)
    pen.line(*running, width=0.9, tone=Tone.DONE)
    pen.line(*starting, width=0.9, tone=Tone.ATTENTION)
    for line, tone in ((running, Tone.DONE), (starting, Tone.ATTENTION)):
        for x, y in line[1:]:
            pen.circle(x, y, 1.1, fill=tone, tone=tone)
    for n, point in enumerate(profile.points):
        if n != 2:  # the terminals stand too near the switch for words of their own
            x = place(point.metres, low)[0]
            pen.line((x, bottom), (x, bottom - 1.5), width=0.3)
            shift, anchor = ((5.0, Anchor.RIGHT), (-3.0, Anchor.LEFT), (0.0, Anchor.LEFT), (4.0, Anchor.RIGHT))[n]
            pen.text(x + shift, bottom - 5.5, point.name, size=2.8, anchor=anchor)
    pen.text(
        right + 4,
        bottom - 10,
        f"{last - profile.points[2].metres:g} m of cable",
        size=2.8,
        tone=Tone.QUIET,
        anchor=Anchor.RIGHT,
    )
    _draw_legend(pen, bottom - 18)


def _draw_legend(pen: Pen, y: float) -> None:
    for x, tone, words in ((MARGIN, Tone.DONE, "running"), (MARGIN + 40, Tone.ATTENTION, "while the motor starts")):
        pen.line((x, y), (x + 8, y), width=0.9, tone=tone)
        pen.circle(x + 4, y, 1.1, fill=tone, tone=tone)
        pen.text(x + 10, y - 1.1, words, size=2.8)
    for row, words in enumerate(("The source sags by its own fault current;", "cos φ 0.8 running, 0.35 starting.")):
        pen.text(MARGIN, y - 6 - 4 * row, words, size=2.6, tone=Tone.QUIET)
