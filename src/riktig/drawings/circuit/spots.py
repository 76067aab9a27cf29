"""Owns drawing the symbol of one spot with its texts, terminal marks and strip terminals. Must not lead conductors on."""

from riktig.catalogue.model import ElementKind
from riktig.drawings.circuit.context import PlanContext, Port, Ports
from riktig.drawings.circuit.geometry import SheetGeometry
from riktig.drawings.circuit.words import CONVERTERS
from riktig.drawings.circuit.writer import Writer
from riktig.drawings.display import Layer, Pen, Shape
from riktig.drawings.shapes import (
    POLE_PITCH,
    converter_shape,
    earth_shape,
    element_shape,
    motor_shape,
    primary_shape,
    shape_box,
    wide_load_shape,
)
from riktig.drawings.symbols import SPAN
from riktig.plan.circuit.uses import Use
from riktig.plan.sheets.figures import Spot

MARKS_BELOW_BOX = 3.0
"""The terminal marks of a box stand below it, and the number of a conductor below them."""
BELOW_CLAMPS = 4.4
"""Under the strip terminals of a rung words begin so far below the conductor."""


class SpotDrawer:
    """Draws spots of one sheet."""

    def __init__(self, context: PlanContext, pen: Pen, geometry: SheetGeometry, writer: Writer) -> None:
        self._context = context
        self._pen = pen
        self._geo = geometry
        self._writer = writer

    def span(self, spot: Spot) -> float:
        """Return how long the symbol of a spot is in mm."""
        use = self._context.use_of(spot)
        box = shape_box(self._shape(spot, use)[0])
        is_motor = self._context.plan.circuit.device(use.device).kind == "motor" and not self._geo.is_rung
        return max(SPAN, -box[1]) if is_motor else SPAN

    def _shape(self, spot: Spot, use: Use) -> tuple[Shape, bool]:
        """Return the shape of a spot, and whether it is one for each conductor."""
        context = self._context
        device = context.plan.circuit.device(use.device)
        left, right = context.plan.netlist.ends[use.key]
        width = len(spot.refs) if len(spot.refs) > 1 else len(left)
        if len(spot.refs) > 1 or (device.kind == "motor" and width > 1 and not right):
            return motor_shape(width, is_through=len(spot.refs) > 1), False
        element = context.wording.element(use)
        if width > 1 and not right:
            is_primary = element is ElementKind.PRIMARY and device.kind == "transformer"
            return (primary_shape(context.standard, width) if is_primary else wide_load_shape(width)), False
        if width > 1 and device.kind in CONVERTERS:
            return converter_shape(width, CONVERTERS[device.kind]), False
        if width > 1:
            through = device.kind in {"filter", "terminal", "busbar", "link"}
            element = ElementKind.THROUGH if through else ElementKind.POLE
        sort = context.wording.sort_drawn(use) if width == 1 else None
        is_fused_switch = device.id == "Q0" and device.kind == "fuse"
        kind = "disconnect" if is_fused_switch else device.kind
        return element_shape(context.standard, kind, element, sort, is_turned=self._geo.is_rung), True

    def draw(self, spot: Spot, ports: Ports, lane: int, pin: float, exits: tuple[str, ...]) -> Ports:
        """Draw the symbol of a spot with its texts and strip terminals; return the ports behind it."""
        context, geo, writer = self._context, self._geo, self._writer
        use = context.use_of(spot)
        plan = context.plan
        shape, is_each = self._shape(spot, use)
        span = self.span(spot)
        uses = [context.uses[(path, ref.column)] for path, ref in spot.mentions()]
        left = tuple(mark for u in uses for mark in plan.netlist.ends[u.key][0])
        right = tuple(mark for u in uses for mark in plan.netlist.ends[u.key][1])
        free = geo.axes(lane, max(len(left), 1))  # behind a load nothing leads on: a finding says so
        axes = tuple(port.v for port in ports) or free
        numbers = tuple(port.number for port in ports)
        for port in ports:
            writer.wire(port.number, (port.v, port.u), (port.v, pin))
        begin = max((port.u for port in ports), default=pin)
        if begin < pin - 3 and not all(port.is_named for port in ports):
            if len(ports) == 1:
                writer.number(numbers[0], axes[0], pin, begin)
            else:
                writer.numbers_abreast(numbers, axes, pin, begin)
        terminals = [*(f"{use.device}:{m}" for m in left), *(f"{use.device}:{m}" for m in right)]
        device = plan.circuit.device(use.device)
        x, y = geo.at(axes[0], pin)
        if is_each:
            for i, v in enumerate(axes):
                px, py = geo.at(v, pin)
                both = (terminals[i], *terminals[len(left) + i : len(left) + i + 1])
                self._pen.symbol(shape, px, py, terminals=both, ref=use.device, tag=plan.tags[use.device], spot=use.key)
            self._gang(axes, pin, use.device, device.kind)
        else:
            is_motor = shape.name.startswith("motor-")
            earth = self._earth_terminal(use.device) if is_motor else None
            if earth is not None:
                terminals.append(earth)
            self._pen.symbol(
                shape, x, y, terminals=tuple(terminals), ref=use.device, tag=plan.tags[use.device], spot=use.key
            )
            if earth is not None:
                self._motor_earth(shape, axes[0], pin)
        for used in uses:
            writer.target(f"use:{used.key}", axes[0], pin + span / 2)
        is_main = plan.sheet_places.get(use.device) == context.wording.place_of(use)
        if is_main and use.device not in context.aimed:
            context.aimed.add(use.device)
            writer.target(f"device:{use.device}", axes[0], pin + span / 2)
        left, right = (tuple(plan.mark_words(use.device, mark) for mark in side) for side in (left, right))
        writer.marks(left, right, axes, pin, span, use.device, shape=shape.name)
        self._clamp_marks(use, axes, numbers, exits if right else (), pin, span)
        self._texts(use, shape, axes, lane, pin)
        if not right:
            return ()
        end = pin + span + (MARKS_BELOW_BOX if "converter" in shape.name else 0.0)
        for v, number in zip(axes, exits, strict=False):
            writer.wire(number, (v, pin + span), (v, end))
        return tuple(Port(v=v, u=end, number=number) for v, number in zip(axes, exits, strict=False))

    def _texts(self, use: Use, shape: Shape, axes: tuple[float, ...], lane: int, pin: float) -> None:
        geo, wording = self._geo, self._context.wording
        words = wording.words(use)
        box = shape_box(shape)
        if geo.is_rung:
            below = max(-box[1] + 0.8, BELOW_CLAMPS if self._is_outside(use) else 0.0)
            self._writer.around(words, axes[0], pin, below, 30.0, use.device)
        else:
            reach = max(box[2], 0.0) + (axes[0] if box[2] > POLE_PITCH or len(axes) == 1 else axes[-1])
            v = reach + 1.1
            edge = (lane + (1 if len(axes) < 4 else 2)) * geo.lane_width
            is_motor = shape.name.startswith("motor-")
            shift = -3.6 if is_motor and "through" in shape.name else 0.0
            most = 4 if not geo.is_power or is_motor else 5
            self._writer.beside(words, v, pin + shift, edge - v - 0.5, use.device, most=most)
        is_main = self._context.plan.sheet_places.get(use.device) == wording.place_of(use)
        if wording.element(use) is ElementKind.COIL and is_main:
            self._writer.contact_map(wording.contact_map(use.device), axes[0], use.device)

    def _is_outside(self, use: Use) -> bool:
        marks = (mark for side in self._context.plan.netlist.ends[use.key] for mark in side)
        numbers = tuple(self._context.numbers.of_terminal(f"{use.device}:{mark}") for mark in marks)
        return any(self._context.clamps(use, numbers))

    def _clamp_marks(
        self,
        use: Use,
        axes: tuple[float, ...],
        numbers: tuple[str, ...],
        exits: tuple[str, ...],
        pin: float,
        span: float,
    ) -> None:
        is_wide = len(axes) > 1
        before = 7.5 if self._geo.is_rung else 2.0 if not is_wide else 2.4
        if is_wide and self._context.plan.circuit.device(use.device).kind == "motor":
            before = 7.6
        self._writer.clamps(self._context.clamps(use, numbers), axes, pin - before, is_below=False, is_wide=is_wide)
        if exits:
            behind = 7.5 if self._geo.is_rung else 1.7
            self._writer.clamps(
                self._context.clamps(use, exits), axes, pin + span + behind, is_below=True, is_wide=is_wide
            )

    def _gang(self, axes: tuple[float, ...], pin: float, device: str, kind: str) -> None:
        """Draw the broken line that joins the poles of one device."""
        if len(axes) > 1 and kind not in {"filter", "terminal", "busbar", "link", "resistor", "transformer"}:
            a, b = self._geo.at(axes[0] - 1.7, pin + 7.1), self._geo.at(axes[-1] - 1.7, pin + 7.1)
            self._pen.line(a, b, width=0.25, dashed=True, ref=device, layer=Layer.SYMBOL)

    def _earth_terminal(self, device: str) -> str | None:
        part = self._context.plan.parts[device]
        mark = next((e.marks[0] for e in part.elements if e.kind is ElementKind.EARTH), None)
        return f"{device}:{mark}" if mark is not None else None

    def _motor_earth(self, shape: Shape, v: float, pin: float) -> None:
        x, y = shape.pins[-1]
        at_v, at_u = v + x, pin - y
        right = v + shape_box(shape)[2] + 3.4
        self._writer.wire("PE", (at_v, at_u), (right, at_u), (right, at_u + 1.2))
        px, py = self._geo.at(right, at_u + 1.2)
        self._pen.symbol(earth_shape(self._context.standard), px, py, ref="net:PE")
