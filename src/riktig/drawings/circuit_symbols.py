"""Owns how a device looks in the circuit: symbol, tag, marks, rating, strip terminals. Must not place it."""

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Anchor, Pen, Point, Tone
from riktig.drawings.symbols import (
    SPAN,
    draw_converter,
    draw_element,
    draw_gang,
    draw_motor,
    draw_wide_load,
    draw_winding_pair,
)
from riktig.plan.contacts import Use, holds_marks
from riktig.plan.plan import Plan
from riktig.plan.runs import zone_of_run
from riktig.plan.sheets import column_of, spots_of
from riktig.plan.zones import is_drop, zones_of
from riktig.units.numbers import format_number

POLE_PITCH = 8.0
CONTACT_MAP_Y = 56.0
Ports = tuple[Point, ...]


class SymbolWriter:
    """Draws the symbol of each use with its texts."""

    def __init__(self, plan: Plan, pen: Pen) -> None:
        self._plan = plan
        self._pen = pen
        self._zones = zones_of(plan.circuit)
        self._where = {
            (path.key, ref.column): f"{place.sheet}.{column_of(x)}"
            for path in plan.circuit.paths
            for place in (plan.path_places[path.key],)
            for ref, x in spots_of(path, place)
        }
        self._clamp_of = {(c.number, zone_of_run(c.drop)): c.id for c in plan.clamps}

    def begin(self, pen: Pen) -> None:
        """Draw on another sheet from now on."""
        self._pen = pen

    def element(self, use: Use) -> ElementKind | None:
        """Return what sort of element a use is, None where the part lacks it."""
        left = self._plan.netlist.ends[use.key][0]
        right = self._plan.netlist.ends[use.key][1]
        pair = (left[0], right[0] if right else left[-1])
        part = self._plan.parts[use.device]
        return next((e.kind for e in part.elements if holds_marks(e, pair)), None)

    def draw_clamps(self, use: Use, ports: Ports, numbers: list[str], *, is_below: bool) -> None:
        """Draw the strip terminal between the panel and a device in the field."""
        zone = self._zones[use.device]
        if not is_drop(zone):
            return
        for (x, y), number in zip(ports, numbers, strict=False):
            clamp = self._clamp_of.get((number, zone))
            if clamp is not None:
                level = y - 3.2 if is_below else y + 5.6
                self._pen.circle(x, level, 0.9, fill=Tone.PAPER, ref=clamp)
                if len(ports) > 1:
                    self._pen.text(x - 0.8, level + 1.6, clamp, tone=Tone.QUIET, mono=True, upright=True, ref=clamp)
                else:
                    self._pen.text(x + 1.5, level - 1.1, clamp, tone=Tone.QUIET, mono=True, ref=clamp)

    def draw_body(self, use: Use, x: float, y: float, width: int, *, has_exit: bool) -> None:
        """Draw a use: motor, transformer, gang of poles or single element. `width` in conductors."""
        device = self._plan.circuit.device(use.device)
        element = self.element(use)
        if device.kind == "motor" and (width > 1 or element is ElementKind.WINDING) and not has_exit:
            draw_motor(self._pen, x, y, width if width > 1 else 2, POLE_PITCH, use.device)
            self._write_label(use, x + max(width, 2) * POLE_PITCH + 2, y - 8)
            self._write_marks(use, x, y)
            return
        if element is ElementKind.PRIMARY and width > 1 and device.kind == "transformer":
            draw_winding_pair(self._pen, x, y, POLE_PITCH * (width - 1), use.device)
            self._write_label(use, x + width * POLE_PITCH - 2, y - 5.5)
            self._write_marks(use, x, y)
            return
        if width > 1 and has_exit:
            self.draw_poles(use, x, y, width)
            return
        if width > 1:
            draw_wide_load(self._pen, x, y, width, POLE_PITCH, use.device)
            self._write_marks(use, x, y)
            self._write_label(use, x + width * POLE_PITCH - 2, y - 6)
            return
        sort = use.ref.what if use.position is None else use.position
        draw_element(self._pen, x, y, use.device, device.kind, element, sort=self._sort_drawn(use, sort))
        self._write_marks(use, x, y)
        self._write_label(use, x + (6.5 if element is ElementKind.COIL or device.kind == "horn" else 4.6), y - 6)
        if element is ElementKind.COIL:
            self._write_contact_map(use.device, x)

    def _sort_drawn(self, use: Use, sort: str | None) -> str | None:
        """Return the sort of a contact as drawn: half of a changeover by its marks, where those are asked for."""
        right = self._plan.netlist.ends[use.key][1]
        if use.ref.marks is not None and right and right[0][-1:] in {"2", "6"}:
            return "nc"
        return sort

    def draw_poles(self, use: Use, x: float, y: float, count: int) -> None:
        """Draw the poles of one device side by side."""
        device = self._plan.circuit.device(use.device)
        if device.kind in _CONVERTERS:
            draw_converter(self._pen, x, y, count, POLE_PITCH, _CONVERTERS[device.kind], use.device)
        else:
            sort = ElementKind.THROUGH if device.kind in {"filter", "terminal", "busbar", "link"} else ElementKind.POLE
            for i in range(count):
                draw_element(self._pen, x + i * POLE_PITCH, y, use.device, device.kind, sort)
            draw_gang(self._pen, x, y, count, POLE_PITCH, use.device)
        self._write_marks(use, x, y)
        self._write_label(use, x + count * POLE_PITCH - 3, y - 6)

    def _write_marks(self, use: Use, x: float, y: float) -> None:
        left, right = self._plan.netlist.ends[use.key]
        for i, mark in enumerate(left):
            self._pen.text(x + i * POLE_PITCH - 0.9, y - 2.7, _short_mark(mark), anchor=Anchor.RIGHT, tone=Tone.QUIET)
        for i, mark in enumerate(right):
            px = x + i * POLE_PITCH - 0.9
            self._pen.text(px, y - SPAN + 0.2, _short_mark(mark), anchor=Anchor.RIGHT, tone=Tone.QUIET)

    def _write_label(self, use: Use, x: float, y: float) -> None:
        """Write tag, what it is, and where its coil is drawn."""
        plan, device = self._plan, self._plan.circuit.device(use.device)
        self._pen.text(x, y, plan.tags[use.device], size=3, bold=True, ref=use.device)
        is_contact = use.wants_contact
        has_coil = device.kind in {"contactor", "relay", "timer"}
        words = _rating_words(plan, use.device) if use.is_feeder else device.title.split(",")[0]
        room = 7 if use.is_feeder else 10
        lines = [] if is_contact and has_coil else _wrap(words, room)[:2]
        for i, line in enumerate(lines):
            self._pen.text(x, y - 3.6 * (i + 1), line, size=2.5, tone=Tone.QUIET, ref=use.device)
        at = plan.sheet_places.get(use.device)
        if at is not None and is_contact and has_coil:
            where = f"{at[0]}.{at[1]}"
            self._pen.text(x, y - 3.6 * (len(lines) + 1), where, size=2.5, tone=Tone.DONE, mono=True, ref=use.device)

    def _write_contact_map(self, device: str, x: float) -> None:
        """Write below a coil where each contact of the device is drawn."""
        plan = self._plan
        uses = [u for u in plan.uses if u.device == device and u.key in plan.contacts]
        y = CONTACT_MAP_Y
        for use in uses[:6]:
            where = self._where[(use.key.split("|", 1)[0], use.ref.column)]
            self._pen.text(
                x - 6, y, f"{plan.contacts[use.key]}  {where}", size=2.5, tone=Tone.QUIET, mono=True, ref=device
            )
            y -= 3.7


_CONVERTERS = {"drive": ("~", "f"), "soft-starter": ("~", "~")}
CONSUMERS = {ElementKind.SOUNDER, ElementKind.COIL, ElementKind.LAMP, ElementKind.LOAD, ElementKind.PRIMARY}


def _short_mark(mark: str) -> str:
    return mark.split("/")[0].rstrip("*") if len(mark) < 8 else "?"


def _wrap(text: str, room: int) -> list[str]:
    lines = [""]
    for word in text.split(" "):
        if len(lines[-1]) + len(word) + 1 > room and lines[-1]:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return [_cut(line.replace("\u00a0", " "), room + 2) for line in lines if line]


def _cut(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _rating_words(plan: Plan, device_id: str) -> str:
    """Return rating or setting at the symbol, a number and its unit joined by a fixed space."""
    part, device = plan.parts[device_id], plan.circuit.device(device_id)
    if device.kind == "motor" and device.owner is not None and device.owner in plan.motors:
        starter = plan.job.starter(device.owner)
        assert starter is not None
        power = f"{starter.kw:g}\u00a0kW" if starter.kw is not None else f"{starter.hp:g}\u00a0hp"
        return f"{power} {format_number(plan.motors[device.owner].current)}\u00a0A"
    if device.role in {"F", "A"} and device.owner is not None and device.owner in plan.motors:
        return f"set {format_number(plan.motors[device.owner].setting)}\u00a0A"
    if device.kind == "timer":
        return f"{device.settings.get('seconds', 0):g}\u00a0s"
    if device.kind in {"transformer", "psu"}:
        return f"{part.rating('va'):g}\u00a0VA"
    curve = part.traits.get("curve", "")
    return f"{curve if len(curve) == 1 else ''} {part.rating('amps'):g}\u00a0A".strip() if part.rating("amps") else ""
