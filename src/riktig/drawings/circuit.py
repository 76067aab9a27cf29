"""Owns the drawn sheets of the circuit, power first, then control. Must not decide what is on which sheet."""

from collections.abc import Mapping

from riktig.drawings.circuit_symbols import CONSUMERS, POLE_PITCH, Ports, SymbolWriter
from riktig.drawings.display import Anchor, Drawing, Pen, Point, Tone
from riktig.drawings.frame import draw_frame
from riktig.drawings.symbols import SPAN, STROKE
from riktig.job.paths import Group, Item, Nodes, Ref
from riktig.plan.circuit import CircuitPath
from riktig.plan.contacts import Use
from riktig.plan.plan import Plan
from riktig.plan.sheets import LEFT, RIGHT, SHEET_HEIGHT, SHEET_WIDTH, PathPlace, column_of, lane_width, measure

POWER_BUS = {"L1": 252.0, "L2": 246.0, "L3": 240.0, "N": 234.0}
POWER_TOP, POWER_PITCH = 218.0, 42.0
RUNG_BUS_TOP, RUNG_BUS_BOTTOM = 262.0, 62.0
RUNG_TOP, RUNG_BOTTOM, RUNG_PITCH = 250.0, 68.0, 32.0
TITLE_Y = 272.0


def draw_sheets(plan: Plan) -> tuple[Drawing, ...]:
    """Return every sheet of the circuit, A3 across, sizes in mm."""
    if not plan.circuit.paths:
        return ()
    sheets: dict[int, list[CircuitPath]] = {}
    for path in plan.circuit.paths:
        sheets.setdefault(plan.path_places[path.key].sheet, []).append(path)
    drawer = _Drawer(plan)
    return tuple(drawer.sheet(number, paths, len(sheets)) for number, paths in sorted(sheets.items()))


class _Drawer:
    """Draws paths by walking their items; ports are the open ends of the conductors drawn so far."""

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._uses: Mapping[tuple[str, int], Use] = {(u.key.split("|", 1)[0], u.ref.column): u for u in plan.uses}
        self._number_of = {t: p.number for p in plan.potentials for t in p.net.terminals}
        self._named = {name: p.number for p in plan.potentials for name in p.net.names}
        self._met: dict[str, list[tuple[str, int, int]]] = {}
        for path in plan.circuit.paths:
            place = plan.path_places[path.key]
            for nodes in (path.items[0], path.items[-1]):
                if isinstance(nodes, Nodes):
                    for name in nodes.names:
                        self._met.setdefault(self._number(name), []).append((path.key, place.sheet, column_of(place.x)))
        self._pen = Pen()
        self._symbols = SymbolWriter(plan, self._pen)
        self._pitch = RUNG_PITCH
        self._path = plan.circuit.paths[0]
        self._bus: dict[str, float] = {}
        self._nets: dict[Point, str] = {}

    def _number(self, name: str) -> str:
        return self._named.get(name, name)

    def sheet(self, number: int, paths: list[CircuitPath], total: int) -> Drawing:
        self._pen = Pen()
        self._symbols.begin(self._pen)
        is_power = paths[0].is_power
        title = "Power circuit" if is_power else "Control circuit"
        draw_frame(self._pen, self._plan.job, title, number, total)
        if is_power:
            self._draw_power_bus(paths)
        else:
            self._draw_control_bus(paths)
        last_title = ""
        for path in paths:
            self._path = path
            place = self._plan.path_places[path.key]
            levels = max(place.levels, 1)
            if is_power:
                self._pitch = min(POWER_PITCH, (POWER_TOP - 60) / levels)
            else:
                self._pitch = min(RUNG_PITCH, (RUNG_TOP - RUNG_BOTTOM) / levels)
            if path.title != last_title and path.key != "incoming":
                same = [plan_path for plan_path in paths if plan_path.title == path.title]
                lanes = sum(self._plan.path_places[p.key].lanes for p in same)
                self._pen.line(
                    (place.x - 7.5, TITLE_Y - 1.5), (place.x - 7.5, TITLE_Y + 4.5), width=0.25, tone=Tone.QUIET
                )
                self._pen.text(place.x - 6, TITLE_Y, self._fit(path.title, lanes), size=3, bold=True)
                last_title = path.title
            self._draw_path(path, place)
        return Drawing(
            name=f"sheet-{number}", title=title, width=SHEET_WIDTH, height=SHEET_HEIGHT, items=tuple(self._pen.items)
        )

    def _fit(self, text: str, lanes: int) -> str:
        most = int(lanes * lane_width(self._path) / 2.15)
        return text if len(text) <= most else text[: most - 1] + "…"

    def _draw_power_bus(self, paths: list[CircuitPath]) -> None:
        used = {n for p in paths for item in p.items if isinstance(item, Nodes) for n in item.names}
        self._bus = {line: y for line, y in POWER_BUS.items() if line in used and line in self._named}
        feeds = [p for p in paths if p.key == "incoming"]
        start = LEFT + 4.0
        for i, (line, y) in enumerate(self._bus.items()):
            x = self._plan.path_places["incoming"].x + i * POLE_PITCH if feeds else start
            ref = f"net:{self._number(line)}"
            self._pen.line((x, y), (RIGHT - 4, y), width=0.5, ref=ref)
            self._pen.text(RIGHT - 5, y + 1, line, size=3, bold=True, anchor=Anchor.RIGHT, tone=Tone.DONE, ref=ref)

    def _draw_control_bus(self, paths: list[CircuitPath]) -> None:
        starts = [item.names[0] for p in paths if isinstance(item := p.items[0], Nodes)]
        ends = [item.names[0] for p in paths if isinstance(item := p.items[-1], Nodes)]
        top = next((n for n in starts if n.endswith("+")), None)
        bottom = next((n for n in ends if n.endswith("-")), None)
        self._bus = {}
        for name, y in ((top, RUNG_BUS_TOP), (bottom, RUNG_BUS_BOTTOM)):
            if name is not None:
                number = self._number(name)
                self._bus[number] = y
                ref = f"net:{number}"
                self._pen.line((LEFT + 4, y), (RIGHT - 4, y), width=0.5, ref=ref)
                text = number if number == name else f"{number}  {name}"
                self._pen.text(LEFT + 4, y + 1.2, text, size=3, bold=True, tone=Tone.DONE, ref=ref)
                self._pen.text(
                    RIGHT - 4, y + 1.2, self._elsewhere(number), size=2.6, anchor=Anchor.RIGHT, tone=Tone.QUIET
                )

    def _elsewhere(self, number: str, *, but: str = "") -> str:
        """Return where else a potential is met, as `sheet.column`."""
        found = [f"{s}.{c}" for key, s, c in self._met.get(number, []) if key != but]
        return " ".join(list(dict.fromkeys(found))[:3])

    def _draw_path(self, path: CircuitPath, place: PathPlace) -> None:
        x = place.x
        if path.key == "incoming":
            self._draw_incoming(path, x)
            return
        items = path.items
        first, rest = items[0], items[1:]
        top = POWER_TOP if path.is_power else RUNG_TOP
        ports: Ports = ()
        if isinstance(first, Nodes):
            ports = tuple((x + i * POLE_PITCH, top) for i in range(len(first.names)))
            for name, port in zip(first.names, ports, strict=True):
                self._draw_start(name, port)
        tail = self._tail_levels(rest) if not path.is_power else 0
        y = top
        for index, item in enumerate(rest):
            if tail and self._levels(rest[index:]) == tail:
                y = min(y, RUNG_BOTTOM + tail * self._pitch)
                tail = 0
            if isinstance(item, Nodes):
                self._draw_nodes(item, ports, is_last=index == len(rest) - 1)
                continue
            ports, y = self._draw_item(item, x, y, ports)

    @staticmethod
    def _levels(items: tuple[Item, ...]) -> int:
        return measure(items)[1]

    def _tail_levels(self, items: tuple[Item, ...]) -> int:
        """Return the levels from the last consumer on: it stands in the bottom row of its sheet."""
        for index in range(len(items) - 1, -1, -1):
            item = items[index]
            if isinstance(item, Ref) and self._symbols.element(self._use(item)) in CONSUMERS:
                return self._levels(items[index:])
        return 0

    def _use(self, ref: Ref) -> Use:
        return self._uses[(self._path.key, ref.column)]

    def _draw_incoming(self, path: CircuitPath, x: float) -> None:
        nodes, ref = path.items[0], path.items[1]
        assert isinstance(nodes, Nodes) and isinstance(ref, Ref)
        use = self._use(ref)
        count = len(nodes.names)
        top = 272.0
        for i, name in enumerate(nodes.names):
            px = x + i * POLE_PITCH
            self._pen.text(px, top + 1.5, name.removeprefix("in."), size=2.6, anchor=Anchor.MIDDLE, tone=Tone.DONE)
            line = name.removeprefix("in.")
            number = f"net:{self._number(line)}"
            self._pen.line((px, top - SPAN), (px, self._bus.get(line, top - SPAN)), width=STROKE, ref=number)
        self._symbols.draw_poles(use, x, top, count)

    def _draw_start(self, name: str, port: Point) -> None:
        number = self._number(name)
        key = name if self._path.is_power else number
        ref = f"net:{number}"
        if key in self._bus:
            self._pen.line((port[0], self._bus[key]), port, width=STROKE, ref=ref)
            self._pen.circle(port[0], self._bus[key], 0.8, fill=Tone.INK, ref=ref)
            return
        top = port[1] + 8
        self._pen.line((port[0], top), port, width=STROKE, ref=ref)
        self._draw_arrow(port[0], top, name, number, is_up=True)

    def _draw_arrow(self, x: float, y: float, name: str, number: str, *, is_up: bool, is_upright: bool = False) -> None:
        """Draw where a conductor comes from or goes on: its number, name and sheet.column."""
        sign = 1 if is_up else -1
        ref = f"net:{number}"
        if number == "PE":
            for k, half in enumerate((3.0, 2.0, 1.0)):
                self._pen.line((x - half, y + sign * k), (x + half, y + sign * k), width=STROKE, ref=ref)
            return
        self._pen.line((x - 1.2, y), (x, y + sign * 2), (x + 1.2, y), (x - 1.2, y), width=STROKE, ref=ref)
        text = number if name in (number, "") or name.startswith("@") else f"{number} {name}"
        where = self._elsewhere(number, but=self._path.key)
        label = f"{text} / {where.split()[0]}" if where else text
        if is_upright:
            start = y - 4.0 - 1.55 * len(label)
            self._pen.text(x + 0.9, start, label, size=2.5, tone=Tone.DONE, mono=True, upright=True, ref=ref)
            return
        self._pen.text(x + 2, y + (0.8 if is_up else -2.6), label, size=2.5, tone=Tone.DONE, mono=True, ref=ref)

    def _draw_nodes(self, nodes: Nodes, ports: Ports, *, is_last: bool) -> None:
        for name, (x, y) in zip(nodes.names, ports, strict=False):
            number = self._number(name)
            key = name if self._path.is_power else number
            if not is_last:
                self._pen.line((x, y), (x, y - 8), width=STROKE, ref=f"net:{number}")
                self._pen.circle(x, y - 8, 0.8, fill=Tone.INK, ref=f"net:{number}")
                if len(ports) == 1:
                    self._pen.text(x - 1.6, y - 8.8, name, size=2.5, anchor=Anchor.RIGHT, tone=Tone.DONE, mono=True)
            elif key in self._bus and not self._path.is_power:
                self._pen.line((x, y), (x, self._bus[key]), width=STROKE, ref=f"net:{number}")
                self._pen.circle(x, self._bus[key], 0.8, fill=Tone.INK, ref=f"net:{number}")
            else:
                self._pen.line((x, y), (x, y - 5), width=STROKE, ref=f"net:{number}")
                self._draw_arrow(x, y - 5, name, number, is_up=False, is_upright=len(ports) > 1)

    def _draw_item(self, item: Item, x: float, y: float, ports: Ports) -> tuple[Ports, float]:
        if isinstance(item, Ref):
            return self._draw_ref(item, x, y, ports), y - self._pitch
        if isinstance(item, Group):
            return self._draw_group(item, x, y, ports)
        self._draw_nodes(item, ports, is_last=False)
        return ports, y

    def _draw_group(self, group: Group, x: float, y: float, ports: Ports) -> tuple[Ports, float]:
        """Draw branches side by side: taps above, joints below, one conductor under the other."""
        bottom = y - max(measure(branch)[1] for branch in group.branches) * self._pitch
        out: Ports = ()
        lane = x
        for index, branch in enumerate(group.branches):
            heads = ports if index == 0 else self._tap(ports, lane, y)
            ends, level = heads, y
            for item in branch:
                ends, level = self._draw_item(item, lane, level, ends)
            if index == 0:
                out = tuple((px, bottom) for px, _ in ends)
                for end, port in zip(ends, out, strict=True):
                    self._pen.line(end, port, width=STROKE, ref=self._ref_at(end))
            else:
                self._rejoin(ends, out, bottom)
            lane += measure(branch)[0] * lane_width(self._path)
        return out, bottom - (2.0 if len(out) == 1 else 0.0)

    def _tap(self, ports: Ports, lane: float, y: float) -> Ports:
        heads = []
        for i, (px, py) in enumerate(ports):
            level = y + 3.0 + 2.6 * i
            head = (lane + i * POLE_PITCH, y)
            ref = self._ref_at((px, py))
            self._pen.line((px, level), (head[0], level), head, width=STROKE, ref=ref)
            self._pen.circle(px, level, 0.7, fill=Tone.INK, ref=ref)
            self._nets[head] = self._nets.get((px, py), "")
            heads.append(head)
        return tuple(heads)

    def _rejoin(self, ends: Ports, out: Ports, bottom: float) -> None:
        for i, (end, port) in enumerate(zip(ends, out, strict=True)):
            level = bottom + 2.0 + 2.6 * i
            ref = self._ref_at(end)
            self._pen.line(end, (end[0], level), (port[0], level), width=STROKE, ref=ref)
            self._pen.circle(port[0], level, 0.7, fill=Tone.INK, ref=ref)

    def _ref_at(self, point: Point) -> str | None:
        number = self._nets.get(point)
        return f"net:{number}" if number else None

    def _draw_ref(self, ref: Ref, x: float, y: float, ports: Ports) -> Ports:
        use = self._use(ref)
        left, right = self._plan.netlist.ends[use.key]
        numbers = [self._number_of.get(f"{use.device}:{m}", "") for m in left]
        out_numbers = [self._number_of.get(f"{use.device}:{m}", "") for m in right]
        heads = tuple((x + i * POLE_PITCH, y) for i in range(len(left)))
        for i, (port, head) in enumerate(zip(ports, heads, strict=False)):
            self._pen.line(port, head, width=STROKE, ref=f"net:{numbers[i]}")
        self._label_numbers(use, heads, numbers)
        self._symbols.draw_body(use, x, y, len(left), has_exit=bool(right))
        ends = tuple((x + i * POLE_PITCH, y - SPAN) for i in range(len(right)))
        if right:
            self._symbols.draw_clamps(use, ends, out_numbers, is_below=True)
        if ref.order is not None and right:
            ends = self._exchange(ends, out_numbers, ref.order)
            out_numbers = [out_numbers[place - 1] for place in ref.order]
        for end, number in zip(ends, out_numbers, strict=True):
            self._nets[end] = number
        return ends

    def _exchange(self, ends: Ports, numbers: list[str], order: tuple[int, ...]) -> Ports:
        """Draw conductors that change places below a device."""
        target = tuple((ends[i][0], ends[i][1] - 12) for i in range(len(ends)))
        for place, source in enumerate(order):
            a, b = ends[source - 1], target[place]
            level = a[1] - 3 - 2.6 * place
            self._pen.line(a, (a[0], level), (b[0], level), b, width=STROKE, ref=f"net:{numbers[source - 1]}")
        return target

    def _label_numbers(self, use: Use, heads: Ports, numbers: list[str]) -> None:
        for (x, y), number in zip(heads, numbers, strict=True):
            self._nets[(x, y)] = number
            self._pen.text(x + 0.9, y + 0.8, number, size=2.5, tone=Tone.DONE, mono=True, ref=f"net:{number}")
        self._symbols.draw_clamps(use, heads, numbers, is_below=False)
