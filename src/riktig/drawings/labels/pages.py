"""Owns labels laid on pages at true size, medium by medium, with crop marks and a bar of 100 mm. Must not fit texts.

A page is of the paper that templates are printed on; 1 mm of it is 1 mm. Each label's items carry its key, so that a screen knows which
one it is; what is stuck on what is the label's own matter.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

from riktig.catalogue.media import Medium
from riktig.drawings.display import Anchor, Drawing, Layer, Pen, Tone
from riktig.drawings.labels.fitting import CODE_MM, EDGE_MM, LINE, SHOCK, SIGN_MM, Fitted
from riktig.drawings.text_width import ASCENT, DESCENT

PAPERS_MM = {"a4": (210.0, 297.0), "a3": (297.0, 420.0), "letter": (215.9, 279.4), "tabloid": (279.4, 431.8)}
MARGIN_MM = 12.0
GAP_MM = 4.0
_HEAD_MM, _FOOT_MM = 14.0, 12.0
_CROP_MM = 1.6
_FORMS = ("sleeve", "characters", "strip", "tape", "wrap", "plate", "sheet")


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """A label on a page: where its lower left corner is, in mm from that of the page."""

    fitted: Fitted
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelPage:
    """A page of labels of one medium, `page` counted from 0."""

    medium: Medium
    page: int
    drawing: Drawing
    placed: tuple[Placed, ...]


def by_medium(labels: Sequence[Fitted]) -> dict[Medium, list[Fitted]]:
    """Return medium -> its labels in order, small media before large ones; what no medium takes is left out."""
    found: dict[Medium, list[Fitted]] = {}
    for label in labels:
        if label.medium is not None:
            found.setdefault(label.medium, []).append(label)
    return dict(sorted(found.items(), key=lambda pair: (_FORMS.index(pair[0].form), pair[0].height, pair[0].width)))


def label_pages(labels: Sequence[Fitted], paper: str, job: str) -> tuple[LabelPage, ...]:
    """Return the pages of all labels, medium by medium.

    Args:
        labels: as they come out.
        paper: a4, a3, letter or tabloid.
        job: what stands at the head of each page.
    """
    pages = []
    for medium, members in by_medium(labels).items():
        sheets = list(_flow(members, *PAPERS_MM[paper]))
        pages += [_page(medium, sheets, n, PAPERS_MM[paper], job) for n in range(len(sheets))]
    return tuple(pages)


def label_page(
    medium: Medium, labels: Sequence[Fitted], paper: str, job: str, page: int
) -> tuple[LabelPage | None, int]:
    """Return one page of the labels of a medium, the last where there are fewer, and how many there are; None where there is none."""
    sheets = list(_flow(labels, *PAPERS_MM[paper]))
    if not sheets:
        return None, 0
    return _page(medium, sheets, min(max(page, 0), len(sheets) - 1), PAPERS_MM[paper], job), len(sheets)


def _flow(labels: Sequence[Fitted], width: float, height: float) -> Iterator[tuple[Placed, ...]]:
    """Yield the labels of page after page, row by row from the upper left; what is longer than a page gets a page as it is."""
    left, top, low = MARGIN_MM, height - MARGIN_MM - _HEAD_MM, MARGIN_MM + _FOOT_MM
    placed: list[Placed] = []
    x, y, row = left, top, 0.0
    for label in labels:
        if x > left and x + label.width_mm > width - MARGIN_MM:
            x, y, row = left, y - row - GAP_MM, 0.0
        if placed and y - label.height_mm < low:
            yield tuple(placed)
            placed, x, y, row = [], left, top, 0.0
        placed.append(Placed(fitted=label, x=x, y=y - label.height_mm))
        x, row = x + label.width_mm + GAP_MM, max(row, label.height_mm)
    if placed:
        yield tuple(placed)


def _page(
    medium: Medium, sheets: Sequence[tuple[Placed, ...]], page: int, size: tuple[float, float], job: str
) -> LabelPage:
    placed, title, number = sheets[page], f"{job}, {medium.title}", f"{page + 1} of {len(sheets)}"
    pen = Pen()
    width, height = size
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    pen.text(MARGIN_MM, height - MARGIN_MM - 4, title, size=3.2, bold=True, layer=Layer.NOTE)
    words = f"{medium.code}, {medium.material}, page {number}"
    pen.text(MARGIN_MM, height - MARGIN_MM - 9, words, size=2.5, tone=Tone.QUIET, layer=Layer.NOTE)
    _bar(pen)
    for one in placed:
        _crop(pen, one)
        draw_label(pen, one.fitted, one.x, one.y)
    name = f"labels-{medium.code}-{page + 1}"
    drawing = Drawing(name=name, title=title, width=width, height=height, items=tuple(pen.items))
    return LabelPage(medium=medium, page=page, drawing=drawing, placed=placed)


def _bar(pen: Pen) -> None:
    """Draw 100 mm, by which whoever prints sees that it came out at true size."""
    y = MARGIN_MM
    pen.line((MARGIN_MM, y), (MARGIN_MM + 100, y), width=0.3, layer=Layer.NOTE)
    for n in range(11):
        pen.line(
            (MARGIN_MM + 10 * n, y), (MARGIN_MM + 10 * n, y + (3 if n % 5 == 0 else 1.5)), width=0.2, layer=Layer.NOTE
        )
    words = "100 mm: print at 100 %, then measure this bar"
    pen.text(MARGIN_MM + 104, y + 0.4, words, size=2.4, tone=Tone.QUIET, layer=Layer.NOTE)


def _crop(pen: Pen, one: Placed) -> None:
    """Draw marks outside the corners of a label, where it is cut."""
    left, low, right, top = one.x, one.y, one.x + one.fitted.width_mm, one.y + one.fitted.height_mm
    for x, out in ((left, -_CROP_MM), (right, _CROP_MM)):
        for y in (low, top):
            pen.line((x + out / 4, y), (x + out, y), width=0.1, tone=Tone.QUIET, layer=Layer.OUTLINE)
    for y, out in ((low, -_CROP_MM), (top, _CROP_MM)):
        for x in (left, right):
            pen.line((x, y + out / 4), (x, y + out), width=0.1, tone=Tone.QUIET, layer=Layer.OUTLINE)


def draw_label(pen: Pen, label: Fitted, x: float, y: float) -> None:
    """Draw one label at true size with its lower left corner at a point: its edge, its lines in the middle, its code on the right."""
    ref = label.sticker.key
    pen.rect(x, y, label.width_mm, label.height_mm, fill=Tone.WHITE, tone=Tone.QUIET, width=0.15, radius=0.4, ref=ref)
    sign = SIGN_MM + EDGE_MM if label.sticker.key.startswith(SHOCK) else 0.0
    if label.medium is not None and label.medium.signs:
        _draw_signs(pen, label, x, y)
        return
    room = label.width_mm - (CODE_MM + EDGE_MM if label.has_code else 0.0) - sign
    letter = label.letter_mm
    block = (ASCENT + DESCENT + LINE * (len(label.lines) - 1)) * letter
    is_list = "\n" in label.sticker.text
    left, centre = x + sign + (2 * EDGE_MM if is_list else room / 2), y + label.height_mm / 2
    anchor = Anchor.LEFT if is_list else Anchor.MIDDLE
    for n, line in enumerate(label.lines):
        down = block / 2 - ASCENT * letter - n * LINE * letter
        at = (x + label.width_mm / 2 - down, centre) if label.is_turned else (left, centre + down)
        pen.text(
            *at, line, size=letter, anchor=anchor, bold=True, upright=label.is_turned, ref=ref, tone=Tone.BLACK, layer=Layer.TAG
        )  # fmt: skip
    if sign:
        _draw_flash(pen, ref, x + EDGE_MM, y + (label.height_mm - SIGN_MM) / 2)
    if label.has_code:
        _draw_code(pen, label, x + label.width_mm - CODE_MM - EDGE_MM, y + (label.height_mm - CODE_MM) / 2)


def _draw_signs(pen: Pen, label: Fitted, x: float, y: float) -> None:
    """Draw the single characters of a marker side by side, each with its edge."""
    assert label.medium is not None
    step, ref = label.medium.step, label.sticker.key
    for n, sign in enumerate(label.lines[0]):
        if n:
            pen.line((x + n * step, y), (x + n * step, y + label.height_mm), width=0.15, tone=Tone.QUIET, ref=ref)
        pen.text(
            x + (n + 0.5) * step, y + label.height_mm / 2 + (DESCENT - ASCENT) / 2 * label.letter_mm, sign, size=label.letter_mm,
            anchor=Anchor.MIDDLE, bold=True, ref=ref, tone=Tone.BLACK, layer=Layer.TAG,
        )  # fmt: skip


_FLASH = (
    (0.53, 0.74), (0.40, 0.44), (0.53, 0.47), (0.44, 0.20), (0.40, 0.28), (0.45, 0.09), (0.57, 0.22), (0.49, 0.20), (0.62, 0.53),
    (0.49, 0.50), (0.59, 0.72), (0.53, 0.74),
)  # fmt: skip
"""The flash of the sign, in shares of its side: drawn after IEC 60417-5036 and ISO 7010 W012, from memory."""


def _draw_flash(pen: Pen, ref: str, x: float, y: float) -> None:
    """Draw the sign of electric shock hazard: a flash in a triangle."""
    side = SIGN_MM
    pen.line((x, y), (x + side, y), (x + side / 2, y + side * 0.87), (x, y), width=0.9, tone=Tone.BLACK, ref=ref)
    pen.line(*((x + u * side, y + v * side * 0.95) for u, v in _FLASH), width=0.7, tone=Tone.BLACK, ref=ref)


def _draw_code(pen: Pen, label: Fitted, x: float, y: float) -> None:
    rows = code_rows(label.sticker.link)
    side = CODE_MM / len(rows)
    for r, row in enumerate(rows):
        begin = 0
        while begin < len(row):
            end = begin
            while end < len(row) and row[end] == row[begin]:
                end += 1
            if row[begin]:
                pen.rect(
                    x + begin * side, y + CODE_MM - (r + 1) * side, (end - begin) * side, side, fill=Tone.BLACK, tone=Tone.NONE,
                    ref=label.sticker.key,
                )  # fmt: skip
            begin = end


@lru_cache(maxsize=512)
def code_rows(link: str) -> tuple[tuple[bool, ...], ...]:
    """Return the modules of a code, rows from the top, True: dark.

    Source:
        ISO/IEC 18004 (QR), error correction M, drawn by segno.
    """
    import segno

    return tuple(tuple(bool(module) for module in row) for row in segno.make(link, error="m", micro=False).matrix)
