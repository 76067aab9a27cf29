"""Owns leading the conductors of one figure: branches, forks, ties and exchanges. Must not choose places.

Conductors are drawn along (v, u) of the sheet's geometry. A port is the open end of one conductor.
"""

from riktig.catalogue.model import ElementKind
from riktig.drawings.circuit.context import PlanContext, Port, Ports, Standing
from riktig.drawings.circuit.ends import TAP, TAP_STEP, EndDrawer
from riktig.drawings.circuit.geometry import MOST_POWER_CELL, SheetGeometry
from riktig.drawings.circuit.pieces import SheetBuses, end_id, is_incoming, start_id, tie_id
from riktig.drawings.circuit.spots import SpotDrawer
from riktig.drawings.circuit.writer import ROW, Writer
from riktig.drawings.display import Layer, Pen, Tone
from riktig.plan.sheets.figures import (
    EXCHANGE_CELLS,
    FORK_CELLS,
    POWER_FORK_CELLS,
    TIE_CELLS,
    Branch,
    Fork,
    Spot,
    Step,
    Tie,
    branch_cells,
    fork_lanes,
    side_lanes,
    steps_cells,
)

POST, POST_RUNG = 3.2, 12.0
"""Room behind a symbol for a strip terminal."""
CONSUMERS = frozenset({
    ElementKind.SOUNDER, ElementKind.COIL, ElementKind.LAMP, ElementKind.LOAD, ElementKind.PRIMARY, ElementKind.INPUT,
    ElementKind.ENABLE, ElementKind.ANALOG_IN,
})  # fmt: skip
"""What stands at the foot of a control sheet, and what follows it."""


class FigureDrawer:
    """Draws figures of one sheet."""

    def __init__(self, context: PlanContext, pen: Pen, geometry: SheetGeometry, buses: SheetBuses) -> None:
        self.context = context
        self.geometry = geometry
        self._buses = buses
        self.writer = Writer(pen, geometry, context.plan.job.practice.number_prefix)
        self.ends = EndDrawer(context, pen, geometry, buses, self.writer)
        self.spots = SpotDrawer(context, pen, geometry, self.writer)

    def draw(self, standing: Standing) -> None:
        """Draw a figure in its lane."""
        if is_incoming(standing.figure):
            self._draw_incoming(standing)
            return
        geo, figure = self.geometry, standing.figure
        cell = geo.cell
        if figure.is_power:
            cells = branch_cells(figure.trunk, is_power=True)
            cell = min(MOST_POWER_CELL, max(geo.cell, (geo.end - geo.start) / max(cells, 1)))
        ports = self.ends.start(
            standing, geo.axes(standing.place.lane, figure.trunk.width), self.context.numbers.at_joint(figure.start)
        )
        walk = _Walk(self, standing, cell)
        walk.branch(figure.trunk, standing.place.lane, geo.start, ports)

    def _draw_incoming(self, standing: Standing) -> None:
        """Draw the way in above the busbars: what comes in, the switch, and down to the bars."""
        geo, writer = self.geometry, self.writer
        figure, place = standing.figure, standing.place
        axes = geo.axes(place.lane, figure.trunk.width)
        spot = figure.trunk.steps[0]
        assert isinstance(spot, Spot) and figure.trunk.end is not None
        top = 3.0
        numbers = self.context.numbers.at_joint(figure.start)
        ports = []
        for n, (v, number) in enumerate(zip(axes, numbers, strict=True)):
            writer.wire(number, (v, top - 4), (v, top))
            writer.arrow(number, v, top - 4, comes=True)
            writer.target(start_id(figure, n), v, top - 4)
            shown = number.removeprefix("in.")
            writer.text(v + 0.9, top - 1.2, shown, layer=Layer.NUMBER, ref=f"net:{number}", tone=Tone.DONE)
            ports.append(Port(v=v, u=top, number=number))
        rows = self.ends.rows([(start_id(figure, n), number) for n, number in enumerate(numbers)], is_single=False)
        for n, row in enumerate(rows):
            self.ends.write(axes[-1] + 6.0 + 24.0 * (n // 3), top + 10.0 + ROW * (n % 3), row)
        out = self.spots.draw(spot, tuple(ports), place.lane, top, self.context.numbers.at_joint(figure.trunk.end))
        arrows = []
        for n, port in enumerate(out):
            bus = self._buses.heads.get(port.number)
            if bus is not None:
                writer.wire(port.number, (port.v, port.u), (port.v, geo.head(bus.level)))
                writer.dot(port.number, port.v, geo.head(bus.level))
            else:
                below = geo.head(max(geo.heads, 1) - 1) + 1.0
                writer.wire(port.number, (port.v, port.u), (port.v, below))
                arrows.append((end_id(figure, "end0", n), port.moved(below)))
        self.ends.end_arrows(arrows, tuple(port for _, port in arrows))


class _Walk:
    """Leads the conductors of one figure from its start to its ends; `cell` is the length of a cell in mm."""

    def __init__(self, drawer: FigureDrawer, standing: Standing, cell: float) -> None:
        self._context, self._geo, self._writer = drawer.context, drawer.geometry, drawer.writer
        self._ends, self._spots = drawer.ends, drawer.spots
        self._standing = standing
        self._cell = cell

    def branch(self, branch: Branch, lane: int, u: float, ports: Ports) -> None:
        """Draw a branch with all that hangs from it."""
        waiting = list(side_lanes(branch, lane))
        own = lane - self._standing.place.lane
        tail = self._tail(branch)
        for index, step in enumerate(branch.steps):
            if tail and index == len(branch.steps) - tail[0]:
                u = max(u, self._geo.end - tail[1] * self._cell)
            if isinstance(step, Tie):
                mine = [pair for pair in waiting if any(pair[0] is side for side in step.sides)]
                ports, u = self._tie(step, ports, u, mine)
            else:
                ports, u = self._step(step, lane, u, ports, branch.width)
        if branch.end is not None:
            self._ends.end(self._standing, f"end{own}", ports)

    def _tail(self, branch: Branch) -> tuple[int, float] | None:
        """Return how many steps from the last consumer on, and their cells: they stand at the foot of a control sheet."""
        if self._geo.is_power:
            return None
        for index in range(len(branch.steps) - 1, -1, -1):
            step = branch.steps[index]
            use = self._context.use_of(step) if isinstance(step, Spot) else None
            if use is not None and self._context.wording.element(use) in CONSUMERS:
                return len(branch.steps) - index, steps_cells(branch.steps[index:], is_power=False)
        return None

    def _steps(self, steps: tuple[Step, ...], lane: int, u: float, ports: Ports, width: int) -> tuple[Ports, float]:
        for step in steps:
            if isinstance(step, Tie):
                ports, u = self._tie(step, ports, u, [])
            else:
                ports, u = self._step(step, lane, u, ports, width)
        return ports, u

    def _step(self, step: Spot | Fork, lane: int, u: float, ports: Ports, width: int) -> tuple[Ports, float]:
        if isinstance(step, Fork):
            return self._fork(step, lane, u, ports, width)
        post = POST_RUNG if self._geo.is_rung else POST
        pin = u + self._cell - self._spots.span(step) - post
        out = self._spots.draw(step, ports, lane, pin, self._context.exits(step))
        end = u + self._cell
        if step.ref.order is not None and out:
            out = self._exchange(out, step.ref.order, end)
            end += EXCHANGE_CELLS * self._cell
        return out, end

    def _fork(self, fork: Fork, lane: int, u: float, ports: Ports, width: int) -> tuple[Ports, float]:
        """Draw branches side by side: tapped above, joined below, one conductor under the other; a load leads nothing on to be joined."""
        channel = (POWER_FORK_CELLS if self._geo.is_power else FORK_CELLS) / 2 * self._cell
        cells = max(steps_cells(branch, is_power=self._geo.is_power) for branch in fork.branches)
        bottom = u + channel + cells * self._cell
        lanes = [at for _, at in fork_lanes(fork, width, lane)]
        ports, heads = self._taps(ports, u, lanes[1:], width)
        trunk = self._geo.axes(lane, width)
        out: Ports = ()
        last: Ports = ()
        for index, branch in enumerate(fork.branches):
            start = ports if index == 0 else heads[index - 1]
            ends, _ = self._steps(branch, lanes[index], u + channel, start, width)
            if not ends:
                continue
            if index == 0:
                out = last = tuple(port.moved(bottom + channel) for port in ends)
                for port, goal in zip(ends, out, strict=True):
                    self._writer.wire(port.number, (port.v, port.u), (goal.v, goal.u))
                continue
            below = tuple(
                Port(v=v, u=bottom + channel, number=port.number) for v, port in zip(trunk, ends, strict=False)
            )
            for i, (port, goal) in enumerate(zip(ends, last or below, strict=False)):
                level = bottom + TAP + TAP_STEP * i
                self._writer.wire(port.number, (port.v, port.u), (port.v, level), (goal.v, level))
                if last:
                    self._writer.dot(port.number, goal.v, level)
                else:
                    self._writer.wire(port.number, (goal.v, level), (goal.v, goal.u))
            out, last = out or below, ends
        return out, bottom + channel

    def _taps(self, ports: Ports, u: float, lanes: list[int], width: int) -> tuple[Ports, list[Ports]]:
        """Draw conductors off to other lanes, each row from lane to lane; return the trunk behind it, and their heads by lane."""
        heads: list[Ports] = []
        before = ports
        for lane in lanes:
            row = []
            for i, (port, v) in enumerate(zip(before, self._geo.axes(lane, width), strict=True)):
                level = u + TAP + TAP_STEP * i
                self._writer.wire(port.number, (port.v, level), (v, level))
                self._writer.dot(port.number, port.v, level)
                row.append(Port(v=v, u=level, number=port.number))
            heads.append(tuple(row))
            before = heads[-1]
        if not lanes:
            return ports, heads
        behind = tuple(port.moved(u + TAP + TAP_STEP * i) for i, port in enumerate(ports))
        for port, goal in zip(ports, behind, strict=True):
            self._writer.wire(port.number, (port.v, port.u), (goal.v, goal.u))
        return behind, heads

    def _tie(self, tie: Tie, ports: Ports, u: float, sides: list[tuple[Branch, int]]) -> tuple[Ports, float]:
        """Draw a named potential in the course of a branch: what hangs from it, and arrows where it goes on elsewhere."""
        length = (POWER_FORK_CELLS if self._geo.is_power else TIE_CELLS) * self._cell
        sides = sorted(sides, key=lambda pair: pair[1])
        ports, heads = self._taps(ports, u, [lane for _, lane in sides], len(ports))
        for (side, lane), head in zip(sides, heads, strict=True):
            self.branch(side, lane, u + length, head)
        row = 0
        for n, port in enumerate(ports):
            piece = tie_id(tie, n)
            near = self._context.pieces.neighbours(piece)
            if near.before or near.behind:
                self._ends.stub(piece, port, ports, u, length, row)
                row += 1
        out = tuple(port.moved(u + length) for port in ports)
        for port, goal in zip(ports, out, strict=True):
            self._writer.wire(port.number, (port.v, port.u), (goal.v, goal.u))
        return tuple(Port(v=p.v, u=p.u, number=p.number) for p in out), u + length

    def _exchange(self, ports: Ports, order: tuple[int, ...], end: float) -> Ports:
        """Draw conductors that change places, one after the other, so that each crossing is clear."""
        length, steps = 6.0, max(len(order) - 1, 1)
        goal = end + EXCHANGE_CELLS * self._cell
        out = []
        for place, source in enumerate(order):
            port, target = ports[source - 1], ports[place]
            begin = end + (length - 1.0) * place / steps
            self._writer.wire(
                port.number, (port.v, port.u), (port.v, begin), (target.v, begin + length), (target.v, goal)
            )
            out.append(Port(v=target.v, u=goal, number=port.number))
        return tuple(out)
