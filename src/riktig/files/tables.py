"""Owns the schedules as tables: headings and rows, and CSV. Headings are stable, see docs/schedules.md."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from riktig.plan.bom import build_bom
from riktig.plan.labels import build_labels
from riktig.plan.plan import Plan

Row = tuple[Any, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A schedule: a row has as many values as there are headings."""

    name: str
    headings: tuple[str, ...]
    rows: tuple[Row, ...]

    def to_csv(self) -> str:
        """Return the table as CSV with a comma and CRLF, as RFC 4180 has it."""
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(self.headings)
        writer.writerows([_plain(v) for v in row] for row in self.rows)
        return out.getvalue()


def _plain(value: Any) -> Any:
    return int(value) if isinstance(value, float) and value.is_integer() else value


def wires_table(plan: Plan) -> Table:
    """Return every conductor but factory joins, in working order."""
    headings = (
        "number", "kind", "from", "to", "location", "section_mm2", "awg", "colour", "length_mm", "route", "stage", "batch",
    )  # fmt: skip
    rows = [
        (
            c.number, c.kind, plan.terminal_label(c.a), plan.terminal_label(c.b), c.location, c.size.mm2, c.size.awg,
            c.colour, c.length_mm, " ".join(c.route), c.stage, c.batch,
        )
        for c in plan.conductors
        if c.kind != "link"
    ]  # fmt: skip
    return Table(name="wires", headings=headings, rows=tuple(rows))


def terminals_table(plan: Plan) -> Table:
    """Return the strips, terminal by terminal, with what lands inside and outside."""
    rows = []
    position: dict[str, int] = {}
    for clamp in plan.clamps:
        position[clamp.strip] = position.get(clamp.strip, 0) + 1
        ends: dict[bool, list[str]] = {True: [], False: []}
        for c in plan.conductors:
            if clamp.id in (c.a, c.b):
                is_outside = c.kind == "core" or (c.location == "hinge" and clamp.drop == "door")
                ends[is_outside].append(plan.terminal_label(c.b if c.a == clamp.id else c.a))
        part = plan.clamp_parts[clamp.id]
        rows.append((clamp.strip, position[clamp.strip], clamp.label, clamp.number, " ".join(ends[False]),
                     " ".join(ends[True]), clamp.drop, part.code, part.torque_nm))  # fmt: skip
    headings = ("strip", "position", "label", "potential", "inside", "outside", "goes_to", "part", "torque_nm")
    return Table(name="terminals", headings=headings, rows=tuple(rows))


def labels_table(plan: Plan) -> Table:
    """Return every label with its count."""
    rows = tuple((x.kind, x.text, x.count, x.size) for x in build_labels(plan))
    return Table(name="labels", headings=("kind", "text", "count", "size_mm"), rows=rows)


def bom_table(plan: Plan) -> Table:
    """Return what to buy."""
    rows = tuple((x.code, x.title, x.quantity, x.unit, " ".join(x.tags)) for x in build_bom(plan))
    return Table(name="bom", headings=("code", "title", "quantity", "unit", "tags"), rows=rows)


def cuts_table(plan: Plan) -> Table:
    """Return the pieces to cut, bar by bar."""
    rows = tuple((c.code, c.what, c.profile, c.length, c.bar) for c in plan.cuts)
    return Table(name="cuts", headings=("code", "what", "profile", "length_mm", "bar"), rows=rows)


def drill_table(plan: Plan) -> Table:
    """Return every hole: the plate's, then the door's, each measured from its own lower left corner."""
    rows: list[Row] = [("plate", h.x, h.y, h.diameter, h.fix, plan.tags.get(h.target, h.target)) for h in plan.holes]
    rows.extend(("door", c.x, c.y, c.diameter, "through", plan.tags[c.device]) for c in plan.door.cutouts)
    headings = ("where", "x_mm", "y_mm", "diameter_mm", "fix", "for")
    return Table(name="drill", headings=headings, rows=tuple(rows))


BUILDERS = {
    "wires": wires_table,
    "terminals": terminals_table,
    "labels": labels_table,
    "bom": bom_table,
    "cuts": cuts_table,
    "drill": drill_table,
}


def all_tables(plan: Plan, names: Sequence[str] = tuple(BUILDERS)) -> list[Table]:
    """Return the schedules of these names."""
    return [BUILDERS[name](plan) for name in names]
