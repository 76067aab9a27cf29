"""Owns putting texts beside symbols and conductors, in both schools. Must not know the circuit's shape.

All points are (v, u) of a sheet's geometry, in mm.
"""

import re

from riktig.drawings.circuit.geometry import SheetGeometry
from riktig.drawings.circuit.words import ContactRow, Words, short_mark
from riktig.drawings.display import Anchor, Layer, Pen, Tone, bench_link
from riktig.drawings.shapes import POLE_PITCH, arrow_shape, terminal_shape
from riktig.drawings.symbols import SPAN
from riktig.drawings.text_width import fit_text, text_width, wrap_text

SMALL, TAG = 2.5, 3.0
ROW = 3.4
TAG_TAIL = 0.4
"""A tag reaches so much further below its line than small writing."""
GAP = 0.9
ADVANCE = text_width("0", SMALL)
MOST_ROWS = 9
MOST_CLAMP_LETTERS = 7
_PARTING = re.compile(r"(?<=\d)(?=[A-Za-z])|(?<=[A-Za-z])(?=\d)")


class Writer:
    """Writes on one sheet."""

    def __init__(self, pen: Pen, geometry: SheetGeometry, prefix: str = "") -> None:
        self._pen = pen
        self._geo = geometry
        self._prefix = prefix

    # -- conductors

    def wire(self, number: str, *points: tuple[float, float]) -> None:
        """Draw a conductor through points; nothing where they are one."""
        if len(set(points)) > 1:
            sheet = [self._geo.at(v, u) for v, u in points]
            self._pen.line(*sheet, width=0.35, ref=f"net:{number}", layer=Layer.WIRE)

    def dot(self, number: str, v: float, u: float) -> None:
        """Draw a joint."""
        x, y = self._geo.at(v, u)
        self._pen.circle(x, y, 0.8, width=0.1, fill=Tone.INK, ref=f"net:{number}", layer=Layer.WIRE)

    def arrow(
        self, number: str, v: float, u: float, *, comes: bool = False, is_across: bool = False, link: str | None = None
    ) -> None:
        """Draw the arrow of a potential that goes on elsewhere, along the current or across it; `link` is the target there."""
        x, y = self._geo.at(v, u)
        way = "down" if self._geo.is_rung is is_across else "right"
        self._pen.symbol(arrow_shape(f"{way} comes" if comes else way), x, y, ref=f"net:{number}", link=link)

    def target(self, name: str, v: float, u: float) -> None:
        """Note a place that links lead to."""
        self._pen.target(name, *self._geo.at(v, u))

    def text(
        self,
        v: float,
        u: float,
        text: str,
        *,
        layer: Layer,
        ref: str | None,
        anchor: Anchor = Anchor.LEFT,
        tone: Tone = Tone.INK,
        size: float = SMALL,
        bold: bool = False,
        upright: bool = False,
        link: str | None = None,
    ) -> None:
        """Write a text whose baseline starts at a point of the sheet's geometry."""
        x, y = self._geo.at(v, u)
        if link is None and layer is Layer.NUMBER and ref is not None:
            link = bench_link("wires", ref)
        self._pen.text(
            x, y, text, size=size, anchor=anchor, tone=tone, bold=bold, upright=upright, ref=ref, layer=layer,
            link=link,
        )  # fmt: skip

    def number(self, number: str, v: float, pin: float, begin: float) -> None:
        """Write the number of a conductor that runs by itself between `begin` and the pin below it."""
        ref = f"net:{number}"
        if self._geo.is_rung:
            is_short = text_width(number, SMALL) <= pin - begin - 0.8
            shown = number if is_short else self.short_number(number, pin - begin + 2.2)
            at, anchor = (pin - 0.4, Anchor.RIGHT) if is_short else (begin + 0.6, Anchor.LEFT)
            self.text(v - 4.4, at, shown, layer=Layer.NUMBER, ref=ref, anchor=anchor, tone=Tone.DONE)
        else:
            shown = self.short_number(number, v % self._geo.lane_width - 1.8)
            self.text(v - 1.5, pin - 1.0, shown, layer=Layer.NUMBER, ref=ref, anchor=Anchor.RIGHT, tone=Tone.DONE)

    def short_number(self, number: str, room: float) -> str:
        """Return a number as it fits the room in mm: without the shop's prefix where it is too long, at last cut."""
        if text_width(number, SMALL) <= room:
            return number
        return fit_text(number.removeprefix(self._prefix), room, SMALL)

    def numbers_abreast(self, numbers: tuple[str, ...], axes: tuple[float, ...], pin: float, begin: float) -> None:
        """Write the numbers of conductors side by side along them, above a pin."""
        for v, number in zip(axes, numbers, strict=True):
            shown = self.short_number(number, pin - begin - 1.0)
            self.text(v - 1.5, pin - 0.8, shown, layer=Layer.NUMBER, ref=f"net:{number}", tone=Tone.DONE, upright=True)

    # -- symbols

    def marks(
        self,
        left: tuple[str, ...],
        right: tuple[str, ...],
        axes: tuple[float, ...],
        pin: float,
        span: float,
        ref: str,
        *,
        shape: str,
    ) -> None:
        """Write the terminal marks at the pins of a symbol that begins at `pin` and is `span` long; `shape` is its name. Those of a box
        stand below it, those of a pole clear of its release.
        """
        is_motor, is_box, is_pole = shape.startswith("motor-"), shape.startswith("converter"), "-pole" in shape
        for names, is_lower in ((left, False), (right, True)):
            for v, name in zip(axes, names, strict=False):
                mark = short_mark(name)
                gap = GAP if is_motor else 1.6
                is_wide = len(axes) > 1 and text_width(mark, SMALL) > POLE_PITCH - gap - 0.4
                if self._geo.is_rung:
                    anchor = Anchor.LEFT if is_lower else Anchor.RIGHT
                    at = pin + span + (0.6 if is_pole else -1.4) if is_lower else pin + 1.4
                    self.text(v - GAP, at, mark, layer=Layer.NOTE, ref=ref, anchor=anchor, tone=Tone.QUIET)
                elif is_wide:
                    at = pin + span - 0.2 if is_lower else pin + text_width(mark, SMALL) + 0.4
                    self.text(v - GAP, at, mark, layer=Layer.NOTE, ref=ref, tone=Tone.QUIET, upright=True)
                else:
                    at = pin + span + (2.4 if is_box else -0.3) if is_lower else pin + 2.2
                    self.text(v - gap, at, mark, layer=Layer.NOTE, ref=ref, anchor=Anchor.RIGHT, tone=Tone.QUIET)

    def beside(self, words: Words, v: float, pin: float, room: float, ref: str, *, most: int = 4) -> None:
        """Write tag and words in rows to the right of a symbol in a column."""
        rows = [*wrap_text(words.rating, room, SMALL, 3)]
        if words.location:
            rows.append(fit_text(words.location, room, SMALL))
        spare = most - 1 - len(rows) - (words.place is not None)
        rows[:0] = wrap_text(words.title, room, SMALL, max(spare, 0)) if spare > 0 else []
        u = pin + 2.8
        for n, (part, size) in enumerate(_tag_rows(words.tag, room)):
            u = pin + 2.8 + n * (ROW + TAG_TAIL)
            self.text(v, u, part, layer=Layer.TAG, ref=ref, size=size, bold=True, link=_tag_link(words, ref))
            most -= n
        u += TAG_TAIL
        if words.place is not None:
            u += ROW
            self._main_place(words, v, u, ref)
        for row in rows[: most - 1 - (words.place is not None)]:
            u += ROW
            self.text(v, u, row, layer=Layer.NOTE, ref=ref, tone=Tone.QUIET)

    def _main_place(self, words: Words, v: float, u: float, ref: str) -> None:
        assert words.place is not None
        self.text(v, u, words.place.label, layer=Layer.REFERENCE, ref=ref, tone=Tone.DONE, link=f"device:{ref}")

    def around(self, words: Words, v: float, pin: float, below: float, room: float, ref: str) -> None:
        """Write the tag above a symbol on a rung and its words below it, from `below` mm under the conductor on."""
        middle = pin + SPAN / 2
        label = words.place.label if words.place is not None else ""
        gap = 1.4
        mark = text_width(label, SMALL) + gap if label else 0.0
        size = TAG if text_width(words.tag, TAG, is_bold=True) <= room - mark else SMALL
        tag = fit_text(words.tag, room - mark, size, is_bold=True)
        width = text_width(tag, size, is_bold=True)
        left = middle - (width + mark) / 2
        self.text(v - 9.6, left, tag, layer=Layer.TAG, ref=ref, size=size, bold=True, link=_tag_link(words, ref))
        if words.place is not None:
            at = left + width + gap
            self._main_place(words, v - 9.6, at, ref)
        free = int((11.2 - below) // ROW)
        tail = " ".join(word for word in (words.rating, words.location) if word)
        rows = wrap_text(words.title, room, SMALL, max(free - bool(tail), 0)) if free else []
        if tail and free:
            rows.append(fit_text(tail, room, SMALL))
        for n, row in enumerate(rows):
            at = v + below + 2.6 + ROW * n
            self.text(at, middle, row, layer=Layer.NOTE, ref=ref, anchor=Anchor.MIDDLE, tone=Tone.QUIET)

    def clamps(
        self, clamps: list[str | None], axes: tuple[float, ...], at: float, *, is_below: bool, is_wide: bool
    ) -> None:
        """Draw the strip terminals on conductors between the panel and what lies outside, with their labels."""
        for v, clamp in zip(axes, clamps, strict=False):
            if clamp is not None:
                x, y = self._geo.at(v, at)
                self._pen.symbol(terminal_shape(), x, y, ref=clamp, tag=clamp)
        named = [clamp for clamp in clamps if clamp is not None]
        if not named:
            return
        if is_wide:
            lines = _joined_clamps(named)
            for n, line in enumerate(lines):
                shift = 1.2 + ROW * n if is_below else 1.4 - ROW * (len(lines) - 1 - n)
                self.text(
                    axes[-1] + 1.8,
                    at + shift,
                    line,
                    layer=Layer.TERMINAL,
                    ref=named[0],
                    link=bench_link("terminals", named[0]),
                    tone=Tone.QUIET,
                )
        elif self._geo.is_rung:
            anchor, shift = (Anchor.LEFT, -7.7) if is_below else (Anchor.RIGHT, 7.7)
            self.text(
                axes[0] + 3.8,
                at + shift,
                named[0],
                layer=Layer.TERMINAL,
                ref=named[0],
                link=bench_link("terminals", named[0]),
                anchor=anchor,
                tone=Tone.QUIET,
            )
        else:
            self.text(
                axes[0] + 1.6,
                at + 1.25,
                named[0],
                layer=Layer.TERMINAL,
                ref=named[0],
                link=bench_link("terminals", named[0]),
                tone=Tone.QUIET,
            )

    # -- the map of contacts

    def contact_map(self, rows: tuple[ContactRow, ...], v: float, device: str) -> None:
        """Write below a coil, or at the end of its rung, where each contact is drawn."""
        if self._geo.is_rung:
            self._map_at_rung(rows, v, device)
            return
        u = self._geo.foot(0) + 5.0 + (2 * ROW if self._geo.is_power else 0.0)  # below what stands at an arrow there
        left = v - v % self._geo.lane_width + 4.0
        for row in _shortened(rows):
            self.text(left, u, row.marks, layer=Layer.NOTE, ref=device, tone=Tone.QUIET)
            label = row.place.label if row.place is not None else "" if row.marks.startswith("and ") else "–"
            self.text(
                left + 8.6 * ADVANCE, u, label, layer=Layer.REFERENCE, ref=device,
                tone=Tone.DONE if row.place is not None else Tone.QUIET, link=f"use:{row.use}" if row.use else None,
            )  # fmt: skip
            u += ROW

    def _map_at_rung(self, rows: tuple[ContactRow, ...], v: float, device: str) -> None:
        u, at = self._geo.foot(0) + 5.0, v - 3.0
        first = u
        for row in rows:
            if row.place is None:
                continue
            width = text_width(row.place.label, SMALL)
            if u + width > first + 50.0:
                u, at = first, at + 4.2
            x, y = self._geo.at(at, u)
            self.text(at, u, row.place.label, layer=Layer.REFERENCE, ref=device, tone=Tone.DONE, link=f"use:{row.use}")
            if row.is_break:
                self._pen.line(
                    (x, y - 0.7), (x + width, y - 0.7), width=0.25, tone=Tone.DONE, ref=device, layer=Layer.REFERENCE
                )
            u += width + 2.0


def _tag_link(words: Words, ref: str) -> str:
    """Return where a tag leads: to the device on the plate or door; a device elsewhere to its wires."""
    return bench_link("plate" if words.is_in_panel else "wires", ref)


def _shortened(rows: tuple[ContactRow, ...]) -> tuple[ContactRow, ...]:
    """Return as many rows as there is room for: free contacts give way first, then a last row says how many more there are."""
    if len(rows) > MOST_ROWS:
        rows = tuple(row for row in rows if row.place is not None)
    if len(rows) <= MOST_ROWS:
        return rows
    more = len(rows) - MOST_ROWS + 1
    return (*rows[: MOST_ROWS - 1], ContactRow(marks=f"and {more} more", place=None, use="", is_break=False))


def _tag_rows(tag: str, room: float) -> list[tuple[str, float]]:
    """Return a tag with its letter height: smaller where it is too long, then in two rows, parted where letters meet digits."""
    for size in (TAG, SMALL):
        if text_width(tag, size, is_bold=True) <= room:
            return [(tag, size)]
    parts = [m.start() for m in _PARTING.finditer(tag)]
    at = min(parts, key=lambda place: abs(place - len(tag) / 2), default=len(tag) // 2)
    return [(fit_text(part, room, SMALL, is_bold=True), SMALL) for part in (tag[:at], tag[at:])]


def _joined_clamps(clamps: list[str]) -> list[str]:
    """Return terminals of one strip as `X1:1 2 3`, in two lines where that is too long for one."""
    words: list[str] = []
    last = ""
    for clamp in clamps:
        strip, _, label = clamp.rpartition(":")
        words.append(label if strip == last else clamp)
        last = strip
    whole = " ".join(words)
    return [whole] if len(whole) <= MOST_CLAMP_LETTERS else [words[0], " ".join(words[1:])]
