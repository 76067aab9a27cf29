"""Owns where figures begin and end: busbars, earth, and arrows with the places where conductors come from and go on."""

from os.path import commonprefix

from riktig.drawings.circuit.context import PlanContext, Port, Ports, Standing
from riktig.drawings.circuit.geometry import SheetGeometry
from riktig.drawings.circuit.pieces import SheetBuses, end_id, start_id
from riktig.drawings.circuit.writer import ROW, SMALL, Writer
from riktig.drawings.display import Anchor, Layer, Pen, Tone
from riktig.drawings.shapes import earth_shape
from riktig.drawings.text_width import text_width

TAP, TAP_STEP = 2.6, 2.6
SHORT_TAIL_MM, LONG_TAIL_MM = 11.0, 14.0
"""How far conductors go on to their arrows at the end of a power path: as long as their numbers."""
ROW_ROOM_MM = 16.4
"""What is written beside a single arrow is no longer."""
REFERENCES_BEFORE_MM = 3.8
"""References at the start of a rung begin so far before its number, above the arrow."""
LONG_START_MM = 16.0
"""A number at the start of a rung that is longer stands above the terminal mark behind it."""
Row = tuple[str, str, str | None]
"""Text, number and link of one reference."""


class EndDrawer:
    """Draws the beginnings, ties and ends of figures of one sheet."""

    def __init__(
        self, context: PlanContext, pen: Pen, geometry: SheetGeometry, buses: SheetBuses, writer: Writer
    ) -> None:
        self._context = context
        self._pen = pen
        self._geo = geometry
        self._buses = buses
        self._writer = writer

    def start(self, standing: Standing, axes: tuple[float, ...], numbers: tuple[str, ...]) -> Ports:
        """Draw where a figure begins: at busbars, or at arrows that say where its conductors come from."""
        ports, arrows = [], []
        for n, (v, number) in enumerate(zip(axes, numbers, strict=True)):
            bus = self._buses.heads.get(number)
            if bus is not None:
                at = self._geo.head(bus.level)
                self._writer.wire(number, (v, at), (v, self._geo.start))
                self._writer.dot(number, v, at)
                ports.append(Port(v=v, u=self._geo.start, number=number))
                continue
            top = self._geo.start - (12 if self._geo.is_rung else 7)
            if number == "PE":
                self._earth_above(v, self._geo.start)
            else:
                self._writer.wire(number, (v, top), (v, self._geo.start))
                self._writer.arrow(number, v, top, comes=True, link=self._goal(start_id(standing.figure, n)))
                self._writer.target(start_id(standing.figure, n), v, top)
                arrows.append((n, v, number))
            ports.append(Port(v=v, u=self._geo.start, number=number, is_named=len(axes) == 1))
        self._start_labels(standing, arrows, axes)
        return tuple(ports)

    def _start_labels(self, standing: Standing, arrows: list[tuple[int, float, str]], axes: tuple[float, ...]) -> None:
        ids = [(start_id(standing.figure, n), number) for n, _, number in arrows]
        rows = self.rows(ids, is_single=len(axes) == 1)
        u0 = self._geo.start
        if self._geo.is_rung and rows:
            v = axes[0]
            u = u0 - 11.4
            is_long = text_width(rows[0][0], SMALL) > LONG_START_MM
            self.write(v - (4.6 if is_long else 1.2), u, rows[0])
            for n, row in enumerate(rows[1:]):
                if is_long:
                    self.write(v + 3.8 + ROW * n, u, row)
                else:
                    self.write(v - 4.6, u - REFERENCES_BEFORE_MM, row)
                    u += text_width(row[0], SMALL) + 1.6
        elif rows:
            u = u0 - 7.4 if len(axes) == 1 else u0 - 9.0
            for row in rows:
                self.write(axes[-1] + 2.2, u, row)
                u += ROW

    def _goal(self, piece: str) -> str | None:
        """Return where the arrow of a piece leads: to the next piece of its potential, from the last one back to the first."""
        near = self._context.pieces.neighbours(piece)
        other = near.behind or near.before
        return other.id if other is not None else None

    def rows(self, ids: list[tuple[str, str]], *, is_single: bool, with_number: bool = True) -> list[Row]:
        """Return what is written at arrows, as (text, number, link): number, then where it comes from and where it goes on. Of several
        that differ each has in front what its number does not share with the others.
        """
        marks: list[Row] = []
        for piece, number in ids:
            near = self._context.pieces.neighbours(piece)
            for sign, other in (("←", near.before), ("→", near.behind)):
                if other is not None:
                    marks.append((f"{sign}{other.place.label}", number, other.id))
        if is_single:
            return [*self._number_row(ids), *marks] if with_number else marks
        by_number = {number: [text for text, n, _ in marks if n == number] for _, number in ids}
        if len({tuple(texts) for texts in by_number.values()}) <= 1:
            first = ids[0][1] if ids else ""
            return [row for row in marks if row[1] == first]
        shared = len(commonprefix(list(by_number)))
        return [(f"{number[shared:] or number}{text}", number, link) for text, number, link in marks]

    def _number_row(self, ids: list[tuple[str, str]]) -> list[Row]:
        """Return the number at a single arrow, with the control supply that it is where there is room; none where there is no arrow."""
        if not ids:
            return []
        number = ids[0][1]
        words = self._context.numbers.words(number)
        is_short = text_width(words, SMALL) <= ROW_ROOM_MM
        return [(words if is_short else self._writer.short_number(number, ROW_ROOM_MM), number, None)]

    def write(self, v: float, u: float, row: Row, anchor: Anchor = Anchor.LEFT) -> None:
        """Write one reference."""
        text, number, link = row
        layer = Layer.NUMBER if link is None else Layer.REFERENCE
        self._writer.text(v, u, text, layer=layer, ref=f"net:{number}", anchor=anchor, tone=Tone.DONE, link=link)

    def stub(self, piece: str, port: Port, ports: Ports, u: float, length: float, row: int) -> None:
        """Draw the arrow of a tie."""
        is_single = len(ports) == 1
        below_taps = u + TAP + TAP_STEP * len(ports) + 2.4 + ROW * row
        at = u + 5.0 if self._geo.is_rung else u + 0.7 * length if is_single else below_taps
        v = ports[-1].v + 2.6
        self._writer.wire(port.number, (port.v, at), (v, at))
        self._writer.dot(port.number, port.v, at)
        self._writer.arrow(port.number, v, at, is_across=True, link=self._goal(piece))
        self._writer.target(piece, port.v, at)
        rows = self.rows([(piece, port.number)], is_single=True, with_number=False)
        for n, line in enumerate(rows):
            if self._geo.is_rung:
                self.write(v + 2.2 + ROW * n, at + 2.0, line)
            elif is_single:
                shift = 1.2 if len(rows) == 1 else -0.5
                self.write(v + 3.2, at + shift + ROW * n, line)
            else:
                self.write(v + 3.2 + n * (7 * 2.3), at + 1.2, line)

    def end(self, standing: Standing, name: str, ports: Ports) -> None:
        """Draw the ends of a branch: to busbars at the foot, to earth, or with arrows; `name` is that of the end in its figure."""
        count = len(ports)
        if len({port.number for port in ports}) < count:
            ports = self._joined(ports)
        arrows = []
        for n, port in enumerate(ports):
            bus = self._buses.feet.get(port.number)
            if bus is not None and not self._geo.is_power:
                level = self._geo.foot(bus.level)
                self._writer.wire(port.number, (port.v, port.u), (port.v, level))
                self._writer.dot(port.number, port.v, level)
            elif port.number == "PE":
                self._earth_below(port)
            else:
                arrows.append((end_id(standing.figure, name, n), port))
        self.end_arrows(arrows, ports, is_joined=len(ports) < count)

    def _joined(self, ports: Ports) -> Ports:
        """Draw a bar across conductors that meet at the end of a branch, such as a star point; return one port for each number."""
        level = max(port.u for port in ports) + TAP
        found: dict[str, Ports] = {}
        for port in ports:
            found[port.number] = (*found.get(port.number, ()), port)
        for number, same in found.items():
            if len(same) == 1:
                continue
            for port in same:
                self._writer.wire(number, (port.v, port.u), (port.v, level))
            self._writer.wire(number, (same[0].v, level), (same[-1].v, level))
            for port in same[1:-1]:
                self._writer.dot(number, port.v, level)
            self.write(same[-1].v + 1.6, level + 0.6, (self._writer.short_number(number, ROW_ROOM_MM), number, None))
        return tuple(same[0].moved(level) if len(same) > 1 else same[0] for same in found.values())

    def end_arrows(self, arrows: list[tuple[str, Port]], ports: Ports, *, is_joined: bool = False) -> None:
        """Draw arrows at ends, by the id of their piece, with where they go on; a joint that goes nowhere has none."""
        geo, writer = self._geo, self._writer
        live = []
        longest = max((text_width(port.number, SMALL) for _, port in arrows), default=0.0)
        tail = min(max(SHORT_TAIL_MM, longest + 1.4), LONG_TAIL_MM)
        for piece, port in arrows:
            near = self._context.pieces.neighbours(piece)
            if is_joined and near.before is None and near.behind is None:
                continue
            tip = max(port.u, geo.end) + 4 if not geo.is_power else port.u + tail
            writer.wire(port.number, (port.v, port.u), (port.v, tip))
            if is_joined:
                writer.dot(port.number, port.v, port.u)
            writer.arrow(port.number, port.v, tip, link=self._goal(piece))
            writer.target(piece, port.v, tip)
            live.append((piece, port.number, tip))
        if not live:
            return
        rows = self.rows([(piece, number) for piece, number, _ in live], is_single=len(ports) == 1)
        tip = live[0][2]
        if geo.is_rung:
            for n, row in enumerate(rows):
                self.write(ports[0].v - 1.7 - ROW * n, tip + 4, row, Anchor.RIGHT)
        elif len(ports) == 1:
            for n, row in enumerate(rows):
                self.write(ports[0].v + 2.2, tip - 1.2 + ROW * n, row)
        else:
            self._wide_end_rows(live, ports, tip)

    def _wide_end_rows(self, live: list[tuple[str, str, float]], ports: Ports, tip: float) -> None:
        """Write the numbers along several conductors that end, and beside them where they go on."""
        begin = max(port.u for port in ports)
        self._writer.numbers_abreast(tuple(p.number for p in ports), tuple(p.v for p in ports), tip, begin)
        rows = self.rows([(piece, number) for piece, number, _ in live], is_single=False)
        first = tip - 1.2 - ROW * max(len(rows) - 2, 0)
        for n, row in enumerate(rows):
            self.write(ports[-1].v + 2.2, first + ROW * n, row)

    def _earth_below(self, port: Port) -> None:
        at = port.u + 3.0
        self._writer.wire("PE", (port.v, port.u), (port.v, at))
        x, y = self._geo.at(port.v, at)
        self._pen.symbol(earth_shape(self._context.standard, is_turned=self._geo.is_rung), x, y, ref="net:PE")

    def _earth_above(self, v: float, u: float) -> None:
        """Draw an earth at the start of a path: to the side, so that it stands upright."""
        self._writer.wire("PE", (v, u), (v, u - 6), (v + 4, u - 6), (v + 4, u - 4))
        x, y = self._geo.at(v + 4, u - 4)
        self._pen.symbol(earth_shape(self._context.standard, is_turned=self._geo.is_rung), x, y, ref="net:PE")
