"""Owns the drawn sheets of the circuit: frame, busbars, titles, figures. Must not decide what is on which sheet."""

from collections.abc import Iterable, Iterator
from itertools import pairwise

from riktig.drawings.circuit.context import PlanContext, Standing
from riktig.drawings.circuit.figure import FigureDrawer
from riktig.drawings.circuit.geometry import LINE_HEIGHT, RAIL_LEFT, TOP, WIDE_AXIS, SheetGeometry
from riktig.drawings.circuit.pieces import Bus, Neighbours, SheetBuses, Tap, foot_id, head_id, is_incoming
from riktig.drawings.circuit.writer import SMALL, Writer
from riktig.drawings.display import Anchor, Drawing, Layer, Pen, Tone
from riktig.drawings.frame import LEFT, SHEET_HEIGHT, SHEET_WIDTH, draw_frame
from riktig.drawings.papers.paper import sheet_name, sheet_target
from riktig.drawings.shapes import POLE_PITCH, symbol_set
from riktig.drawings.text_width import fit_text, text_width, wrap_text
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import Place, Section
from riktig.plan.sheets.figures import CONTROL_CELLS, LANES, Figure

_TITLES = {
    Section.POWER: "Power circuit",
    Section.CONTROL: "Control circuit",
    Section.CONTROLLER: "Controller inputs and outputs",
}

LEAST_TITLE_MM, RUNG_TITLE_MM, BUS_NAME_MM = 18.0, 51.0, 20.0


def draw_circuit(plan: Plan, *, only: int | None = None) -> Iterator[Drawing]:
    """Yield every sheet of the circuit, A3 across, sizes in mm; `only` is the number of a single one."""
    context = PlanContext(plan, symbol_set(plan.job))
    return (_draw_sheet(context, sheet) for sheet in plan.sheets.sheets() if only in {None, sheet})


def _draw_sheet(context: PlanContext, sheet: int) -> Drawing:
    plan, buses = context.plan, context.pieces.buses[sheet]
    figures = plan.sheets.on(sheet)
    place = plan.sheets.places[figures[0].key]
    pen = Pen()
    title = _TITLES[place.section]
    draw_frame(pen, plan.job, title, sheet, has_grid=not place.is_line)
    geometry = SheetGeometry(
        is_rung=place.is_line, is_power=place.section is Section.POWER, heads=_levels(buses, is_head=True),
        feet=_levels(buses, is_head=False), letters=context.letters,
        cells=context.power_cells if place.section is Section.POWER else CONTROL_CELLS,
    )  # fmt: skip
    pen.target(sheet_target(sheet), LEFT, SHEET_HEIGHT - 10)
    if place.is_line:
        _draw_line_numbers(pen, sheet)
    _draw_buses(context, pen, geometry, buses, place, figures)
    _draw_titles(context, pen, geometry, figures)
    drawer = FigureDrawer(context, pen, geometry, buses)
    for figure in figures:
        drawer.draw(Standing(figure=figure, place=plan.sheets.places[figure.key]))
    subject = _subject([context.titles[figure.path] for figure in figures])
    return Drawing(
        name=sheet_name(sheet), title=f"{sheet}  {title}: {subject}", width=SHEET_WIDTH, height=SHEET_HEIGHT,
        items=tuple(pen.items), chapter=title, targets=tuple(pen.targets),
    )  # fmt: skip


def _subject(of_figures: list[str]) -> str:
    titles = list(dict.fromkeys(of_figures))
    return ", ".join(titles[:2]) + (f" and {len(titles) - 2} more" if len(titles) > 2 else "")


def _levels(buses: SheetBuses, *, is_head: bool) -> int:
    found = buses.heads if is_head else buses.feet
    return max((bus.level + 1 for bus in found.values()), default=0)


def _draw_line_numbers(pen: Pen, sheet: int) -> None:
    for line in range(LANES):
        y = TOP - LINE_HEIGHT * line - 13.0
        pen.text(
            RAIL_LEFT - 13.4, y - 1.2, str(100 * sheet + line + 1), size=SMALL, tone=Tone.QUIET, layer=Layer.REFERENCE
        )


def _draw_titles(context: PlanContext, pen: Pen, geometry: SheetGeometry, figures: tuple[Figure, ...]) -> None:
    """Write what each run of figures is for: above its columns, or at the right of its first rung."""
    titles, places = context.titles, context.plan.sheets.places
    runs: list[list[Figure]] = []
    for figure in figures:
        is_same = runs and titles[runs[-1][-1].path] == titles[figure.path]
        is_next = runs and places[runs[-1][-1].key].lane + runs[-1][-1].lanes == places[figure.key].lane
        if is_same and is_next:
            runs[-1].append(figure)
        else:
            runs.append([figure])
    for run in runs:
        lane, lanes = places[run[0].key].lane, sum(figure.lanes for figure in run)
        title = titles[run[0].path]
        if geometry.is_rung:
            x, y = geometry.at(lane * geometry.lane_width + 4.0, geometry.foot(0) + 5.0)
            size = 2.8 if text_width(title, 2.8, is_bold=True) <= RUNG_TITLE_MM else SMALL
            pen.text(x, y, fit_text(title, RUNG_TITLE_MM, size, is_bold=True), size=size, bold=True, layer=Layer.TAG)
            if lane:
                edge = geometry.at(lane * geometry.lane_width, 0)[1]
                pen.line((RAIL_LEFT + geometry.foot(0) + 4, edge), (408, edge), width=0.18, tone=Tone.FAINT)
            continue
        x = geometry.at(lane * geometry.lane_width, 0)[0]
        room = lanes * geometry.lane_width - 3.0
        if is_incoming(run[0]):
            beside = WIDE_AXIS + POLE_PITCH * (run[0].trunk.width - 1) + 2.0
            x, room = x + beside, room - beside
            title = title if room > LEAST_TITLE_MM else "Supply"
        for n, line in enumerate(wrap_text(title, room, 2.8, 2, is_bold=True)):
            pen.text(x + 2.0, 281.8 - 3.9 * n, line, size=2.8, bold=True, layer=Layer.TAG)
        if lane:
            pen.line((x, 285.0), (x, 276.5), width=0.25, tone=Tone.FAINT)


def _draw_buses(
    context: PlanContext,
    pen: Pen,
    geometry: SheetGeometry,
    buses: SheetBuses,
    place: Place,
    figures: tuple[Figure, ...],
) -> None:
    """Draw each busbar from its first tap to its last, named behind the first, with where it comes from and goes on."""
    writer = Writer(pen, geometry, context.plan.job.practice.number_prefix)
    above = {context.plan.sheets.places[figure.key].lane for figure in figures if is_incoming(figure)}
    for found, is_head in ((buses.heads, True), (buses.feet, False)):
        for bus in found.values():
            piece = head_id(place, bus.number) if is_head else foot_id(place, bus.number)
            u = geometry.head(bus.level) if is_head else geometry.foot(bus.level)
            taps = [geometry.axes(tap.lane, tap.width)[tap.conductor] for tap in bus.taps]
            writer.wire(bus.number, (taps[0] - 2.0, u), (taps[-1] + 2.0, u))
            writer.target(piece, taps[0], u)
            near = context.pieces.neighbours(piece)
            clear = [
                max([at, *_crossing(bus, tap, found.values(), geometry, is_above=tap.lane in above)])
                for at, tap in zip(taps, bus.taps, strict=True)
            ]
            lanes = list(zip(taps, clear, strict=True))
            _label_bus(writer, geometry, near, u, lanes, (bus.number, context.numbers.words(bus.number)))


def _crossing(bus: Bus, tap: Tap, others: Iterable[Bus], geometry: SheetGeometry, *, is_above: bool) -> Iterator[float]:
    """Yield what crosses a busbar behind a tap: conductors of that lane that come from busbars nearer to the edge, or, where the lane
    stands above the busbars, that go on to those farther from it.
    """
    for other in others:
        if (other.level > bus.level) if is_above else (other.level < bus.level):
            yield from (
                geometry.axes(t.lane, t.width)[t.conductor]
                for t in other.taps
                if t.lane == tap.lane and t.conductor > tap.conductor
            )


def _label_bus(
    writer: Writer,
    geometry: SheetGeometry,
    near: Neighbours,
    u: float,
    lanes: list[tuple[float, float]],
    named: tuple[str, str],
) -> None:
    """Write the name behind the first taps; where it comes from beside it, on a ladder above the first tap; where it goes on behind
    the last.

    Args:
        writer: of the sheet.
        geometry: of the sheet.
        near: what is before and behind the busbar in the chain of its potential.
        u: where it is.
        lanes: each tap, and the last conductor of its lane that crosses the busbar, the tap itself if none does.
        named: the number, and what is written for it.
    """
    number, name = named
    taps = [at for at, _ in lanes]
    ref, is_up = f"net:{number}", geometry.is_rung
    v, lift = _gap_start(lanes) + 1.4, u - 0.9
    room = LINE_HEIGHT - 3.0 if is_up else BUS_NAME_MM
    if text_width(name, SMALL, is_bold=True) > room:
        name = writer.short_number(number, room - 1.0)
    width = text_width(name, SMALL, is_bold=True)
    writer.text(
        v, lift, name, layer=Layer.NUMBER, ref=ref, tone=Tone.DONE, bold=True, upright=is_up,
        anchor=Anchor.RIGHT if is_up else Anchor.LEFT,
    )  # fmt: skip
    for other, sign, at in (
        (near.before, "←", taps[0] - 1.0 if is_up else v + width + 1.6),
        (near.behind, "→", lanes[-1][1] + 1.4),
    ):
        if other is not None:
            is_below = is_up and sign == "→"
            writer.text(
                at, lift, f"{sign}{other.place.label}", layer=Layer.REFERENCE, ref=ref, tone=Tone.DONE, upright=is_up,
                link=other.id, anchor=Anchor.RIGHT if is_below else Anchor.LEFT,
            )  # fmt: skip


def _gap_start(lanes: list[tuple[float, float]]) -> float:
    """Return where the first wide gap between taps begins: behind the conductors of the first lane."""
    for (tap, last), (following, _) in pairwise(lanes):
        if following - tap > 2 * POLE_PITCH:
            return last
    return lanes[-1][1]
