"""Owns the schedules as tables: headings and rows, and CSV. Headings are stable, see docs/schedules.md."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from riktig.catalogue.prices import prices_now
from riktig.drawings.labels.fitting import fit_labels
from riktig.drawings.labels.media_list import media_lines
from riktig.drawings.shop_papers import hole_rows
from riktig.files.rows_in import FORMULA_STARTS
from riktig.plan.making.bom import build_bom
from riktig.plan.making.labels import build_labels
from riktig.plan.making.lots import cut_lengths, lots_of
from riktig.plan.making.reels import reels_of
from riktig.plan.making.setting import order_strings
from riktig.plan.plan import Plan
from riktig.plan.wiring.links import link_key

Row = tuple[Any, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A schedule: a row has as many values as there are headings."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[Row, ...]

    def to_csv(self) -> str:
        """Return the table as CSV with a comma and CRLF, as RFC 4180 has it; a text that a spreadsheet would run has a quote before it,
        which `rows_in` takes away.
        """
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(self.headings)
        writer.writerows([_plain(v) for v in row] for row in self.rows)
        return out.getvalue()


def with_stamp(table: Table, stamp: str) -> Table:
    """Return a table with a caution in a column of its own, as it is where there is none."""
    if not stamp:
        return table
    return Table(
        name=table.name, headings=(*table.headings, "caution"), rows=tuple((*row, stamp) for row in table.rows)
    )


def _plain(value: Any) -> Any:
    if isinstance(value, str) and value.startswith(FORMULA_STARTS):
        return f"'{value}"
    return int(value) if isinstance(value, float) and value.is_integer() else value


def wires_table(plan: Plan) -> Table:
    """Return every conductor but factory joins, in working order."""
    headings = (
        "number", "kind", "from", "to", "location", "section_mm2", "awg", "colour", "length_mm", "route", "stage", "batch",
        "end_from", "end_to", "strip_from_mm", "strip_to_mm", "remark", "cut_mm",
    )  # fmt: skip
    cut = cut_lengths(plan)
    rows = [
        (
            c.number, c.kind, plan.terminal_label(c.a), plan.terminal_label(c.b), c.location, c.size.mm2, c.size.awg,
            c.colour, c.length_mm, " ".join(c.route), c.stage, c.batch, ends[0].text, ends[1].text, ends[0].strip_mm, ends[1].strip_mm,
            plan.remark("wire", link_key(c.a, c.b)), cut.get(c.id, c.length_mm),
        )
        for c in plan.conductors
        if (ends := plan.ends_of(c)) is not None
    ]  # fmt: skip
    return Table(name="wires", headings=headings, rows=tuple(rows))


def terminals_table(plan: Plan) -> Table:
    """Return the strips, terminal by terminal, with what lands inside and outside."""
    rows = []
    position: dict[str, int] = {}
    bridges = {terminal: " ".join(run) for run in plan.bridges for terminal in run}
    for clamp in plan.clamps:
        position[clamp.strip] = position.get(clamp.strip, 0) + 1
        ends: dict[bool, list[str]] = {True: [], False: []}
        for c in plan.conductors_at.get(clamp.id, ()):
            if c.kind != "bridge":
                ends[plan.lands_outside(c, clamp)].append(plan.terminal_label(c.b if c.a == clamp.id else c.a))
        part = plan.clamp_parts[clamp.id]
        rows.append((clamp.strip, position[clamp.strip], clamp.label, clamp.number, " ".join(ends[False]),
                     " ".join(ends[True]), clamp.drop, part.code, part.torque_nm, bridges.get(clamp.id, ""),
                     plan.remark("clamp", clamp.key)))  # fmt: skip
    headings = (
        "strip",
        "position",
        "label",
        "potential",
        "inside",
        "outside",
        "goes_to",
        "part",
        "torque_nm",
        "bridge",
        "remark",
    )
    return Table(name="terminals", headings=headings, rows=tuple(rows))


def labels_table(plan: Plan) -> Table:
    """Return every label with its count."""
    rows = tuple((x.kind, x.text, x.count, x.size) for x in build_labels(plan))
    return Table(name="labels", headings=("kind", "text", "count", "size_mm"), rows=rows)


def bom_table(plan: Plan) -> Table:
    """Return what to buy."""
    lines = (*build_bom(plan), *media_lines(fit_labels(plan)))
    rows = tuple((x.code, x.title, x.quantity, x.unit, " ".join(x.tags), x.bought) for x in lines)
    return Table(name="bom", headings=("code", "title", "quantity", "unit", "tags", "bought"), rows=rows)


def cuts_table(plan: Plan) -> Table:
    """Return the pieces to cut, bar by bar."""
    rows = tuple((c.code, c.what, c.profile, c.length, c.bar) for c in plan.cuts)
    return Table(name="cuts", headings=("code", "what", "profile", "length_mm", "bar"), rows=rows)


def drill_table(plan: Plan) -> Table:
    """Return every hole: of plate, door, entry wall and stations, each measured from the datum of its own sheet; width and height of
    what is not round.
    """
    rows: list[Row] = [
        (where, x, y, d or "", how, what, w or "", h or "") for where, x, y, d, w, h, how, what in hole_rows(plan)
    ]
    headings = ("where", "x_mm", "y_mm", "diameter_mm", "fix", "for", "width_mm", "height_mm")
    return Table(name="drill", headings=headings, rows=tuple(rows))


def cables_table(plan: Plan) -> Table:
    """Return the cables to the field, with the numbers of their cores in order."""
    rows = tuple(
        (
            cable.name, cable.begin, cable.target, cable.cores, cable.spare, cable.size_label, cable.length_m,
            " ".join(cable.numbers), cable.conduit.trade_size if cable.conduit is not None else "",
            round(cable.conduit.fill_percent, 1) if cable.conduit is not None else "", cable.drop,
            cable.screen.value if cable.screen is not None else "", cable.gland.cable_mm if cable.gland is not None else "",
            cable.gland.thread if cable.gland is not None else "", cable.hole_mm or "", plan.remark("cable", cable.drop),
        )
        for cable in plan.cables
    )  # fmt: skip
    headings = (
        "name",
        "from",
        "to",
        "cores",
        "spare",
        "size",
        "length_m",
        "numbers",
        "conduit_in",
        "conduit_fill_percent",
        "run",
        "screen",
        "diameter_mm",
        "gland",
        "hole_mm",
        "remark",
    )
    return Table(name="cables", headings=headings, rows=rows)


def lots_table(plan: Plan) -> Table:
    """Return the lots in the order in which they are cut and laid, with their markers in the order in which they are set."""
    headings = (
        "lot", "stage", "zones", "section_mm2", "awg", "colour", "cut_mm", "wires", "numbers", "markers", "characters", "wasted_mm",
    )  # fmt: skip
    rows: list[Row] = []
    standing = ""
    for one in lots_of(plan):
        b = one.bundle
        for lot in one.lots:
            setting = order_strings([text for wire in lot.wires for text in plan.markers_of(wire) if text], standing)
            standing = setting.strings[-1] if setting.strings else standing
            rows.append((
                len(rows) + 1, b.stage.value, b.zones, b.size.mm2, b.size.awg, b.colour, lot.length_mm, len(lot.wires),
                " ".join(wire.number for wire in lot.wires), " ".join(setting.strings), setting.changes, lot.waste_mm,
            ))  # fmt: skip
    return Table(name="lots", headings=headings, rows=tuple(rows))


def reels_table(plan: Plan) -> Table:
    """Return what is taken of each sort of wire, what is left on its reels, and what it costs by the shop's prices."""
    prices = prices_now()
    rows = tuple(
        (load.size.mm2, load.size.awg, load.colour, load.conductor_class, load.wires, round(load.needed_m, 2), round(load.cut_m, 2),
         load.reels, prices.reel_m, " ".join(f"{left:.1f}" for left in load.left_m), round(load.money, 2), prices.money)
        for load in reels_of(plan)
    )  # fmt: skip
    headings = (
        "section_mm2", "awg", "colour", "class", "wires", "needed_m", "cut_m", "reels", "reel_m", "left_m", "price", "money",
    )  # fmt: skip
    return Table(name="reels", headings=headings, rows=rows)


BUILDERS = {
    "wires": wires_table,
    "terminals": terminals_table,
    "labels": labels_table,
    "bom": bom_table,
    "cuts": cuts_table,
    "drill": drill_table,
    "cables": cables_table,
    "lots": lots_table,
    "reels": reels_table,
}


def all_tables(plan: Plan, names: Sequence[str] = tuple(BUILDERS)) -> list[Table]:
    """Return the schedules of these names."""
    return [BUILDERS[name](plan) for name in names]
