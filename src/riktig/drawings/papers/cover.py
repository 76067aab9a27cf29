"""Owns the cover and the contents of a set of sheets."""

from collections.abc import Sequence

from riktig.drawings.display import Drawing, Layer, Pen, Tone
from riktig.drawings.frame import LEFT, RIGHT
from riktig.drawings.papers.paper import Cell, Column, Sheet, sheet_target, table_pages, wrap_words
from riktig.drawings.shapes import SymbolSet, symbol_set
from riktig.drawings.text_width import fit_text
from riktig.job.modules import WayIn
from riktig.job.practice import Standard
from riktig.plan.answers.nameplate import SYSTEMS, protection_words
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import School, school_of
from riktig.plan.sizes.coils import control_volts
from riktig.units.numbers import format_number

CAUTIONS = (
    "Work dead: isolate, lock off and prove dead before the enclosure is opened.",
    "Capacitors of drives hold charge: wait as long as their makers say.",
    "Live tests are for competent persons only. Insulation tests destroy electronics that are left connected.",
    "Every computed size and rating is an aid: the local code and a licensed or otherwise competent person decide.",
)
_MOST_WAIVERS = 5


def draw_cover(plan: Plan) -> Sheet:
    """Return the cover: what the panel is, its supply and ratings, by which schools it is drawn, and the cautions."""
    pen, job = Pen(), plan.job
    x, y = LEFT + 26.0, 238.0
    pen.text(x, y, job.info.number, size=6.0, tone=Tone.QUIET, layer=Layer.NOTE)
    for line in wrap_words(job.info.title or "Motor starter control panel", 300.0, 9.0)[:2]:
        y -= 15.0
        pen.text(x, y, line, size=9.0, bold=True, layer=Layer.TAG)
    y -= 11.0
    pen.text(x, y, job.info.customer or "", size=5.0, layer=Layer.NOTE)
    y -= 9.0
    pen.line((x, y), (RIGHT - 26.0, y), width=0.5)
    facts = _facts(plan)
    half = (len(facts) + 1) // 2
    for n, (name, value) in enumerate(facts):
        at_x, at_y = x + (178.0 if n >= half else 0.0), y - 10.0 - 8.0 * (n % half)
        pen.text(at_x, at_y, name, size=3.0, tone=Tone.QUIET, layer=Layer.NOTE)
        pen.text(at_x + 56.0, at_y, value, size=3.2, bold=True, layer=Layer.NOTE)
    y -= 22.0 + 8.0 * half
    caution = [*CAUTIONS, *_own_cautions(plan)]
    pen.rect(x, y - 6.0 * len(caution) - 6.0, RIGHT - 26.0 - x, 6.0 * len(caution) + 9.0, width=0.5, tone=Tone.DANGER)
    for line in caution:
        y -= 6.0
        pen.text(x + 5.0, y + 1.5, line, size=3.0, layer=Layer.NOTE)
    for n, line in enumerate(_waived(plan)):
        pen.text(x, y - 14.0 - 6.0 * n, fit_text(line, RIGHT - 26.0 - x, 3.0), size=3.0, bold=not n, layer=Layer.NOTE)
    return Sheet(title="Cover", chapter="Cover and contents", pen=pen)


def _waived(plan: Plan) -> tuple[str, ...]:
    """Return what a person lets stand, for how long and why; none where nobody does."""
    waivers = plan.job.waivers
    lines = [
        f"{w.rule} of {w.subject or 'the panel'}: {w.person}, {w.date.isoformat()}"
        + (f", until {w.until.isoformat()}" if w.until is not None else "")
        + f": {w.reason}"
        for w in waivers[:_MOST_WAIVERS]
    ]
    more = [f"and {len(waivers) - _MOST_WAIVERS} more"] if len(waivers) > _MOST_WAIVERS else []
    return ("Waived findings, judged in the compliance report", *lines, *more) if waivers else ()


def _own_cautions(plan: Plan) -> tuple[str, ...]:
    """Return what stays live in this very panel."""
    names = [x.name for x in plan.job.excepted] + [x.name for x in plan.job.extra_supplies]
    return (f"With the main switch off these stay live: {', '.join(names)}.",) if names else ()


def earthing_words(supply: WayIn) -> str:
    """Return how a supply is earthed, with the line that is."""
    line = f", {supply.grounded_line} is grounded" if supply.grounded_line else ""
    return f"{supply.earthing.upper()}{line}"


def _facts(plan: Plan) -> list[tuple[str, str]]:
    job, supply, panel = plan.job, plan.job.supply, plan.panel
    is_iec = symbol_set(job) is SymbolSet.IEC
    is_ladder = school_of(job) is School.RUNGS
    controls = ", ".join(f"{c.name} {control_volts(c, job):.0f} V {'DC' if c.is_dc else 'AC'}" for c in job.controls)
    return [
        ("Supply", f"{supply.volts:g} V  {supply.hertz:g} Hz  {earthing_words(supply)}"),
        ("System", SYSTEMS[supply.system]),
        ("Full-load current", f"{format_number(panel.full_load_a)} A"),
        ("Largest motor", f"{format_number(panel.largest_motor_a)} A"),
        ("Protection of the supply", f"at most {protection_words(plan)}"),
        *((f"Protection of supply {name}", f"at most {protection_words(plan, name)}") for name in panel.further),
        ("Fault current at the panel", f"{supply.available_ka:g} kA"),
        ("Short-circuit rating", f"{panel.sccr_ka:g} kA"),
        ("Control supplies", controls or "none"),
        (
            "Enclosure",
            f"{job.enclosure.width:g} x {job.enclosure.height:g} x {job.enclosure.depth:g} mm, {job.enclosure.rating}",
        ),
        ("Standard", "UL 508A, NFPA 79" if job.practice.standard is Standard.UL else "IEC 60204-1, IEC 61439"),
        ("Symbols", "IEC 60617" if is_iec else "IEEE 315"),
        ("Control drawn as", "rungs with line numbers" if is_ladder else "current paths in columns"),
        ("Revision", job.revision or "not issued"),
    ]


def draw_contents(plan: Plan, sheets: Sequence[tuple[int, str, str]]) -> list[Sheet]:
    """Return the contents as (number, title, chapter) of every sheet, each a link to it."""
    columns = (
        Column(heading="Sheet", width=14),
        Column(heading="What is on it", width=116),
        Column(heading="Chapter", width=58),
    )
    rows = [
        (Cell(text=str(n), link=sheet_target(n), bold=True), Cell(text=title), Cell(text=chapter))
        for n, title, chapter in sheets
    ]
    return table_pages("Contents", "Cover and contents", columns, rows, abreast=2)


def listed(drawing: Drawing, number: int) -> tuple[int, str, str]:
    """Return a finished sheet as the contents list it."""
    return number, drawing.title.partition("  ")[2], drawing.chapter
