"""Owns the lists of a set of sheets: devices, channels of controllers, and the legend of symbols."""

from collections.abc import Iterable

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Drawing, Layer, Pen, Shape, Symbol, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import TOP, Cell, Column, Sheet, draw_heading, table_pages, wrap_words
from riktig.drawings.shapes import shape_box
from riktig.plan.circuit.model import is_bar
from riktig.plan.net.numbers import natural_key
from riktig.plan.plan import Plan
from riktig.units.numbers import format_number

_CHANNELS = {
    ElementKind.INPUT: "input", ElementKind.OUTPUT: "output", ElementKind.ANALOG_IN: "analogue input",
    ElementKind.ANALOG_OUT: "analogue output",
}  # fmt: skip
_ACROSS, _DOWN = 4, 8
_CELL_W, _CELL_H = 96.0, 26.5


def draw_device_list(plan: Plan) -> list[Sheet]:
    """Return every device by tag: what it is for, part, setting, where it is mounted and where it is drawn."""
    columns = tuple(
        Column(heading=heading, width=width)
        for heading, width in (
            ("Tag", 26),
            ("For", 76),
            ("Part", 140),
            ("Order code", 62),
            ("Set to", 22),
            ("Mounted", 28),
            ("Drawn at", 30),
        )
    )  # fmt: skip
    rows = []
    for device in sorted(
        plan.circuit.devices, key=lambda d: (plan.tags[d.id].rstrip("0123456789"), natural_key(plan.tags[d.id]))
    ):
        part, place = plan.parts[device.id], plan.sheet_places.get(device.id)
        rows.append(
            (
                Cell(text=plan.tags[device.id], ref=device.id, bold=True), Cell(text=_purpose(plan, device.id)),
                Cell(text=part.title), Cell(text=part.code), Cell(text=_setting(plan, device.id)), Cell(text=device.place),
                Cell(text=place.label if place else "–", link=f"device:{device.id}" if place else None),
            )
        )  # fmt: skip
    return table_pages("Device list", "Lists", columns, rows)


def _purpose(plan: Plan, device_id: str) -> str:
    device = plan.circuit.device(device_id)
    starter = plan.job.starter(device.owner or "")
    whose = f"{starter.name} {starter.title}".strip() if starter is not None else ""
    if is_bar(device_id) or not whose or device.kind == "motor":
        return device.title or whose
    return f"{whose}: {device.title.split(',')[0]}" if device.title else whose


def _setting(plan: Plan, device_id: str) -> str:
    device = plan.circuit.device(device_id)
    if (setting := plan.setting_of(device_id)) is not None:
        return f"{format_number(setting)} A"
    seconds = device.settings.get("seconds")
    return f"{seconds:g} s" if seconds else ""


def draw_channel_lists(plan: Plan) -> list[Sheet]:
    """Return for each controller its channels with what they do, their numbers and where they are drawn; free ones too."""
    columns = tuple(
        Column(heading=heading, width=width)
        for heading, width in (
            ("Channel", 34),
            ("Sort", 42),
            ("What for", 140),
            ("Numbers", 50),
            ("Drawn at", 34),
            ("With", 84),
        )
    )
    pages: list[Sheet] = []
    titles = {path.key: path.title for path in plan.circuit.paths}
    for device in plan.circuit.devices:
        if device.kind != "plc":
            continue
        used = {}
        for use in plan.uses_of.get(device.id, ()):
            if use.key in plan.contacts:
                used[frozenset(plan.contacts[use.key].split("-"))] = use
        rows = []
        for element in plan.parts[device.id].elements:
            if element.kind not in _CHANNELS:
                continue
            taken = next((u for marks, u in used.items() if marks <= set(element.marks)), None)
            if taken is None:
                rows.append(
                    (
                        Cell(text=element.name),
                        Cell(text=_CHANNELS[element.kind]),
                        *(Cell(text=t) for t in ("free", "", "", "")),
                    )
                )
                continue
            path = taken.path
            place = plan.sheets.mentions[(path, taken.ref.column)]
            numbers = [plan.number_at(f"{device.id}:{mark}") for mark in element.marks]
            mates = [plan.tags[u.device] for u in plan.uses if u.path == path and u.device != device.id]
            rows.append(
                (
                    Cell(text=element.name, ref=device.id, bold=True), Cell(text=_CHANNELS[element.kind]), Cell(text=titles[path]),
                    Cell(text=" ".join(dict.fromkeys(n for n in numbers if n))), Cell(text=place.label, link=f"use:{taken.key}"),
                    Cell(text=" ".join(dict.fromkeys(mates))),
                )
            )  # fmt: skip
        title = f"{plan.tags[device.id]} inputs and outputs"
        pages += table_pages(title, "Controller inputs and outputs", columns, rows)
    return pages


def draw_legend(plan: Plan, sheets: Iterable[Drawing]) -> list[Sheet]:
    """Return every symbol that the sheets use, with what it stands for, and how references are read."""
    shapes: dict[str, Shape] = {}
    for sheet in sheets:
        for item in sheet.items:
            if isinstance(item, Symbol) and item.shape.title:
                shapes.setdefault(item.shape.title, item.shape)
    ordered = [shapes[title] for title in sorted(shapes, key=str.lower)]
    notes = [
        "A line that ends in an arrow goes on elsewhere: ← names the place before, → the next one, sheet.column or line of a ladder. "
        "Lines that cross are joined only where there is a dot. The number on a line is that of its wires.",
        "Beside a contact stands where its coil or main part is drawn; under a coil, or at the end of its rung, where each of its "
        "contacts is. On a ladder the line of a break contact is underlined.",
        "+ and a word is the place of mounting, where that is not the plate.",
    ]
    prefix = plan.job.practice.number_prefix
    if prefix:
        notes.append(
            f"Where there is no room for it a number stands without the prefix {prefix} that all of them carry."
        )
    pages: list[Sheet] = []
    per_page = _ACROSS * _DOWN
    for start in range(0, max(len(ordered), 1), per_page):
        pen = Pen()
        draw_heading(pen, "Symbols" if not pages else "Symbols, continued")
        for n, shape in enumerate(ordered[start : start + per_page]):
            _draw_entry(pen, shape, LEFT + 2 + (n // _DOWN) * _CELL_W, TOP - 2.0 - (n % _DOWN) * _CELL_H)
        if start == 0:
            _draw_notes(pen, notes)
        pages.append(Sheet(title="Symbols", chapter="Lists", pen=pen))
    return pages


def _draw_entry(pen: Pen, shape: Shape, x: float, top: float) -> None:
    left, bottom, right, upper = shape_box(shape)
    middle = top - (_CELL_H - 4.0) / 2
    pen.symbol(shape, x + 15.0 - (left + right) / 2, middle - (bottom + upper) / 2)
    for n, line in enumerate(wrap_words(shape.title, 58.0, 2.8)[:3]):
        pen.text(x + 32.0, middle + 1.0 - 4.2 * n, line, size=2.8, layer=Layer.NOTE)


def _draw_notes(pen: Pen, notes: list[str]) -> None:
    lines = [line for note in notes for line in wrap_words(note, 372.0, 2.6)]
    for n, line in enumerate(reversed(lines)):
        pen.text(LEFT + 2, 34.5 + 3.9 * n, line, size=2.6, tone=Tone.QUIET, layer=Layer.NOTE)
