"""Owns the papers of the workshop: hole schedule, cut list with its bars, measure-thrice sheet. Must not compute what they list."""

from collections.abc import Sequence

from riktig.catalogue.model import Mounting
from riktig.drawings.display import Anchor, Drawing, Pen, Tone
from riktig.drawings.frame import LEFT, RIGHT
from riktig.drawings.papers.paper import BOTTOM, TOP, Cell, Column, Sheet, draw_heading, finish, table_pages
from riktig.drawings.text_width import fit_text
from riktig.plan.place.door import Cutout
from riktig.plan.place.pieces import Cut, waste_mm
from riktig.plan.plan import Plan
from riktig.record.cutouts import list_cutouts

_DATUM = (
    "x and y in mm from the lower left corner, from the front; of the entry wall from its left edge and the back wall"
)
_BAR_PITCH, _BAR_HEIGHT = 17.0, 8.0


def shop_pages(plan: Plan) -> tuple[Drawing, ...]:
    """Return hole schedule, cut list and measure-thrice sheet, numbered through from 1."""
    sheets = [*_holes(plan), *_cuts(plan), *_measures(plan)]
    return tuple(finish(plan.job, sheet, number) for number, sheet in enumerate(sheets, start=1))


HoleRow = tuple[str, float, float, float, float, float, str, str]
"""Sheet, x, y, diameter, width, height (0 where it does not apply), how, what for; mm."""


def hole_rows(plan: Plan) -> list[HoleRow]:
    """Return every hole of plate, door, walls and operator stations, sheet by sheet."""
    rows: list[HoleRow] = [
        ("plate", h.x, h.y, h.diameter, 0.0, 0.0, h.fix, plan.tags.get(h.target, h.target)) for h in plan.holes
    ]
    rows.extend(
        ("door", round(c.x, 1), round(c.y, 1), c.diameter, c.w, c.h, _how(plan, c), plan.name_of(c.device))
        for c in plan.door.cutouts
    )
    rows.extend(
        (
            "entry wall",
            e.x,
            e.z,
            e.diameter,
            0.0,
            0.0,
            f"through, for {e.fitting}",
            e.cable,
        )
        for e in plan.entries
    )
    for wall in plan.walls:
        rows.extend(
            (f"{wall.side} wall", c.x, c.y, c.diameter, c.w, c.h, _how(plan, c), plan.name_of(c.device))
            for c in wall.cutouts
        )
    for station in plan.stations:
        sheet = f"station {station.location}"
        rows.extend(
            (sheet, round(c.x, 1), round(c.y, 1), c.diameter, c.w, c.h, _how(plan, c), plan.name_of(c.device))
            for c in station.cutouts
        )
        rows.extend(
            (
                f"{sheet}, bottom",
                round(g.x, 1),
                round(g.z, 1),
                g.diameter,
                0.0,
                0.0,
                f"through, for {g.fitting}",
                g.cable,
            )
            for g in station.glands
        )
    return rows


def _how(plan: Plan, cutout: Cutout) -> str:
    """Return how a hole of a door or lid is made: what is held by its own nut has a notch, a stud its thread, a frame its clips."""
    part = plan.parts.get(cutout.device)
    if part is not None and part.rating("hole_mm") and "thread" in part.traits:
        return f"through, for {part.traits['thread']}"
    if part is not None and "ip" in part.traits and not cutout.diameter:
        return "through, its frame clips in"
    if part is not None and part.mounting is Mounting.DOOR and cutout.diameter:
        return "through, notch upward"
    return "through, tap its fixings"


def _holes(plan: Plan) -> list[Sheet]:
    columns = (
        Column(heading="Sheet", width=42), Column(heading="x", width=20), Column(heading="y", width=20),
        Column(heading="Size", width=28), Column(heading="How", width=48), Column(heading="For", width=26),
    )  # fmt: skip
    rows = [
        (
            Cell(text=sheet), Cell(text=f"{x:g}"), Cell(text=f"{y:g}"),
            Cell(text=f"ø {d:g}" if d else f"{w:g} x {h:g}"), Cell(text=how), Cell(text=what, bold=True),
        )
        for sheet, x, y, d, w, h, how, what in hole_rows(plan)
    ]  # fmt: skip
    return _noted(table_pages("Hole schedule", "Workshop", columns, rows, abreast=2))


def _noted(sheets: list[Sheet]) -> list[Sheet]:
    """Return sheets with a line on where their places are measured from."""
    for sheet in sheets:
        sheet.pen.text(LEFT + 2, BOTTOM - 2, _DATUM, size=2.7, tone=Tone.QUIET)
    return sheets


def _cuts(plan: Plan) -> list[Sheet]:
    """Return the bars of each profile to scale, each piece with its code and length."""
    bars: dict[tuple[str, int], list[Cut]] = {}
    for cut in plan.cuts:
        bars.setdefault((cut.profile, cut.bar), []).append(cut)
    per_page = int((TOP - BOTTOM - 8) // _BAR_PITCH)
    entries = list(bars.items())
    waste = waste_mm(plan.job, plan.cuts)
    left_over = ", ".join(f"{profile} {mm / 1000:.2f} m" for profile, mm in waste.items())
    pages = []
    for start in range(0, max(1, len(entries)), per_page):
        pen = Pen()
        draw_heading(pen, f"Cut list: bars of {plan.job.practice.stock:g} mm, cuts of {plan.job.practice.kerf:g} mm")
        for place, ((profile, number), pieces) in enumerate(entries[start : start + per_page]):
            _draw_bar(pen, plan, TOP - 6 - place * _BAR_PITCH, f"{profile}, bar {number}", pieces)
        words = fit_text(
            f"Left over, cuts and all: {left_over}. Write the code on each piece as it is cut.", RIGHT - LEFT - 4, 2.7
        )
        pen.text(LEFT + 2, BOTTOM - 2, words, size=2.7, tone=Tone.QUIET)
        pages.append(Sheet(title="Cut list", chapter="Workshop", pen=pen))
    return pages


def _draw_bar(pen: Pen, plan: Plan, top: float, name: str, pieces: Sequence[Cut]) -> None:
    label = 62.0
    stock = max(plan.job.practice.stock, sum(p.length for p in pieces) + plan.job.practice.kerf * (len(pieces) - 1))
    scale = (RIGHT - LEFT - label - 6) / stock
    x, y = LEFT + label, top - _BAR_HEIGHT
    pen.text(LEFT + 2, y + 2.5, fit_text(name, label - 4, 3.0), size=3.0)
    pen.rect(x, y, stock * scale, _BAR_HEIGHT, fill=Tone.STEEL, tone=Tone.QUIET, width=0.2)
    for piece in pieces:
        wide = piece.length * scale
        pen.rect(x, y, wide, _BAR_HEIGHT, fill=Tone.PAPER, width=0.35, ref=piece.code)
        middle = x + wide / 2
        if wide > 9:
            pen.text(
                middle,
                y + 4.4,
                fit_text(piece.code, wide - 1, 2.7, is_bold=True),
                size=2.7,
                anchor=Anchor.MIDDLE,
                bold=True,
            )
            pen.text(middle, y + 1.2, fit_text(f"{piece.length:g}", wide - 1, 2.5), size=2.5, anchor=Anchor.MIDDLE)
        else:
            pen.text(x, y - 3.4, f"{piece.code} {piece.length:g}", size=2.5)
        x += wide + plan.job.practice.kerf * scale


def _measures(plan: Plan) -> list[Sheet]:
    """Return the sheet on which each cut-out is measured three times before it is cut."""
    blank = Cell(text="............")
    columns = (
        Column(heading="Sheet", width=28), Column(heading="For", width=26, ), Column(heading="Size", width=42),
        Column(heading="x planned", width=24), Column(heading="y planned", width=24), Column(heading="within", width=18),
        *(Column(heading=heading, width=33) for heading in ("1st x", "1st y", "2nd x", "2nd y", "3rd x", "3rd y")),
    )  # fmt: skip
    rows = [
        (
            Cell(text=p.where), Cell(text=plan.tags.get(p.ref, p.ref.removeprefix("cable:")), bold=True), Cell(text=p.size),
            Cell(text=f"{p.x:g}"), Cell(text=f"{p.y:g}"), Cell(text=f"± {p.tolerance:g}"), *([blank] * 6),
        )
        for p in list_cutouts(plan)
    ]  # fmt: skip
    return _noted(table_pages("Measure three times, cut once", "Workshop", columns, rows))
