"""Owns what all sheets beside the circuit share: the frame, a heading, and tables that fill page after page."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from itertools import zip_longest

from riktig.drawings.display import Drawing, Layer, Pen, Tone
from riktig.drawings.frame import LEFT, RIGHT, SHEET_HEIGHT, SHEET_WIDTH, draw_frame
from riktig.drawings.text_width import fit_text, text_width
from riktig.job.model import Job

TOP, BOTTOM = 272.0, 36.0
ROW_HEIGHT = 6.0
SIZE = 2.7


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A sheet before it has its number: what it is called, its chapter, and what is drawn on it."""

    title: str
    chapter: str
    pen: Pen


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """One value of a table, with what it depicts and where it leads."""

    text: str
    ref: str | None = None
    link: str | None = None
    bold: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A column of a table: heading and width in mm."""

    heading: str
    width: float


def sheet_name(sheet: int) -> str:
    """Return the name of a sheet in files."""
    return f"sheet-{sheet:03}"


def sheet_target(sheet: int) -> str:
    """Return the id of a sheet as the target of a link."""
    return f"sheet:{sheet}"


def finish(job: Job, sheet: Sheet, number: int) -> Drawing:
    """Return a sheet with its frame and number."""
    pen = Pen()
    draw_frame(pen, job, sheet.title, number, has_grid=False)
    pen.items.extend(sheet.pen.items)
    pen.target(sheet_target(number), LEFT, SHEET_HEIGHT - 10)
    return Drawing(
        name=sheet_name(number), title=f"{number}  {sheet.title}", width=SHEET_WIDTH, height=SHEET_HEIGHT,
        items=tuple(pen.items), chapter=sheet.chapter, targets=(*pen.targets, *sheet.pen.targets),
    )  # fmt: skip


def draw_table(
    pen: Pen,
    x: float,
    top: float,
    columns: Sequence[Column],
    rows: Sequence[Sequence[Cell]],
    *,
    height: float = ROW_HEIGHT,
) -> None:
    """Draw a table from its upper left corner: headings, then rows, each under a hairline. Values too long are cut."""
    width = sum(column.width for column in columns)
    at = x
    for column in columns:
        pen.text(
            at + 1.2,
            top - 4.0,
            fit_text(column.heading, column.width - 2, SIZE),
            size=SIZE,
            tone=Tone.QUIET,
            layer=Layer.NOTE,
        )
        at += column.width
    pen.line((x, top - 5.6), (x + width, top - 5.6), width=0.4)
    y = top - 5.6
    for row in rows:
        at = x
        for column, cell in zip(columns, row, strict=True):
            text = fit_text(cell.text, column.width - 2.0, SIZE, is_bold=cell.bold)
            tone = Tone.DONE if cell.link else Tone.INK
            pen.text(
                at + 1.2, y - height + 1.9, text, size=SIZE, tone=tone, bold=cell.bold, ref=cell.ref, link=cell.link,
                layer=Layer.REFERENCE if cell.link else Layer.NOTE,
            )  # fmt: skip
            at += column.width
        y -= height
        pen.line((x, y), (x + width, y), width=0.13, tone=Tone.FAINT)


def table_pages(
    title: str, chapter: str, columns: Sequence[Column], rows: Sequence[Sequence[Cell]], *, abreast: int = 1
) -> list[Sheet]:
    """Return a table as sheets; `abreast` tables stand side by side on each."""
    per_table = int((TOP - BOTTOM - 6.0) // ROW_HEIGHT)
    width = sum(column.width for column in columns)
    pages: list[Sheet] = []
    for start in range(0, max(len(rows), 1), per_table * abreast):
        pen = Pen()
        draw_heading(pen, title if not pages else f"{title}, continued")
        for n in range(abreast):
            part = rows[start + n * per_table : start + (n + 1) * per_table]
            if part:
                draw_table(pen, LEFT + 2 + n * (width + 8.0), TOP, columns, part)
        pages.append(Sheet(title=title, chapter=chapter, pen=pen))
    return pages


def draw_heading(pen: Pen, text: str) -> None:
    """Draw the heading of a sheet."""
    pen.text(
        LEFT + 2, TOP + 5.0, fit_text(text, RIGHT - LEFT - 4, 4.2, is_bold=True), size=4.2, bold=True, layer=Layer.TAG
    )


def wrap_words(text: str, room: float, size: float) -> list[str]:
    """Return a text in lines that fit the room in mm, as many as it takes."""
    lines = [""]
    for word in text.split():
        longer = f"{lines[-1]} {word}".strip()
        if text_width(longer, size) > room and lines[-1]:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines


def wrapped_rows(
    columns: Sequence[Column], texts: Sequence[str], *, bold: Collection[int] = ()
) -> Iterator[tuple[Cell, ...]]:
    """Yield as many rows of a table as the longest of some texts takes lines, the columns of some places in bold."""
    wrapped = [wrap_words(text, column.width - 5.0, SIZE) for text, column in zip(texts, columns, strict=True)]
    for parts in zip_longest(*wrapped, fillvalue=""):
        yield tuple(Cell(text=part, bold=n in bold) for n, part in enumerate(parts))
