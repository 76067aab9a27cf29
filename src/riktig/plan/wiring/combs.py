"""Owns what joins devices that stand beside each other: busbar combs over breakers, plug-in bridges over relays. Must not chain
wires.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from riktig.catalogue.model import Part
from riktig.catalogue.side_by_side import line_marks, snug_key
from riktig.job.ids import TerminalId, terminal_id
from riktig.plan.net.numbers import Potential
from riktig.plan.place.layout import PlateLayout
from riktig.units.conductor_size import ConductorSize

MOST_PHASES = 4
COMB_MM2 = (10.0, 16.0, 25.0, 35.0)
"""Sections in mm2 that busbar combs are commonly made in (common practice, no source); what needs more is wired."""
RELAY_BRIDGE = 8
"""Relays that one plug-in bridge joins; the ninth gets a fresh feed (common practice, no source)."""
_TOUCH_MM = 0.5
Slot = tuple[str, TerminalId]


@dataclass(frozen=True, slots=True, kw_only=True)
class Comb:
    """A busbar comb or a bridge: the devices it spans from left to right, and the terminals of each of its bars.

    `phases` is how many bars it has, `pins` how many teeth in all, `mm2` the section of a bar.
    """

    devices: tuple[str, ...]
    bars: tuple[tuple[TerminalId, ...], ...]
    phases: int
    is_bridge: bool = False
    mm2: float = 0.0

    @property
    def pins(self) -> int:
        """All its teeth; those of a bar on one terminal alone count too."""
        return sum(len(bar) for bar in self.bars)


def find_combs(
    layout: PlateLayout,
    parts: Mapping[str, Part],
    potentials: tuple[Potential, ...],
    sizes: Mapping[str, ConductorSize],
) -> tuple[Comb, ...]:
    """Return the combs and relay bridges that fit as the devices stand.

    A comb lies over neighbours whose line terminals, from left to right, repeat the same one to four potentials; a bridge joins one
    terminal of each neighbour.

    Args:
        layout: the plate.
        parts: part by device.
        potentials: all potentials.
        sizes: size inside the panel by number; a potential that needs more than a comb has, or than a clamp under it takes for its
            feed, is wired.
    """
    number_of = {terminal: p.number for p in potentials for terminal in p.net.terminals}
    thin = {
        terminal: number
        for terminal, number in number_of.items()
        if sizes[number].mm2 <= min(COMB_MM2[-1], _most_mm2(terminal, parts))
    }
    found: list[Comb] = []
    for devices in _rows(layout, parts):
        key = snug_key(parts[devices[0]])
        is_comb = key.startswith("comb")
        found.extend(_combs_over(devices, parts, thin) if is_comb else _bridges_over(devices, parts, number_of))
    return tuple(found)


def _most_mm2(terminal: TerminalId, parts: Mapping[str, Part]) -> float:
    """Return the largest section in mm2 that the clamp at a terminal takes."""
    device, _, mark = terminal.rpartition(":")
    spec = parts[device].terminal(mark) if device in parts else None
    return spec.clamp.mm2_max if spec is not None else 0.0


def with_sections(combs: tuple[Comb, ...], mm2_at: Mapping[str, float]) -> tuple[Comb, ...]:
    """Return the combs with the section of their bars: the next that is made for the wires that would be there.

    Args:
        combs: as found.
        mm2_at: section of the joins by the terminals at their ends; a tooth that a wire joins instead has none.
    """
    return tuple(comb if comb.is_bridge else replace(comb, mm2=_bar_mm2(comb, mm2_at)) for comb in combs)


def _bar_mm2(comb: Comb, mm2_at: Mapping[str, float]) -> float:
    asked = max((mm2_at[tooth] for bar in comb.bars for tooth in bar if tooth in mm2_at), default=0.0)
    return next((mm2 for mm2 in COMB_MM2 if mm2 >= asked), COMB_MM2[-1])


def _rows(layout: PlateLayout, parts: Mapping[str, Part]) -> Iterator[list[str]]:
    """Yield devices of one sort that touch each other, two and more, from left to right."""
    rows: dict[tuple[float, str], list[str]] = {}
    for device, box in layout.boxes.items():
        key = snug_key(parts[device]) if device in parts else ""
        if key:
            rows.setdefault((round(box.centre[1], 1), key), []).append(device)
    for members in rows.values():
        members.sort(key=lambda d: layout.boxes[d].x)
        run = [members[0]]
        for before, device in pairwise(members):
            edge = layout.boxes[before].x + layout.boxes[before].w
            if abs(layout.boxes[device].x - edge) > _TOUCH_MM:
                if len(run) > 1:
                    yield run
                run = []
            run.append(device)
        if len(run) > 1:
            yield run


def _combs_over(
    devices: Sequence[str], parts: Mapping[str, Part], number_of: Mapping[TerminalId, str]
) -> Iterator[Comb]:
    slots = [(device, terminal_id(device, mark)) for device in devices for mark in line_marks(parts[device])]
    start = 0
    while start < len(slots):
        best = max((_comb_from(slots, start, phases, number_of) for phases in range(1, MOST_PHASES + 1)), key=_gain)
        if _gain(best) < 1:
            device = slots[start][0]
            start += sum(d == device for d, _ in slots)
            continue
        yield best
        start += best.pins


def _gain(comb: Comb) -> int:
    """Return how many wires a comb makes needless."""
    return comb.pins - comb.phases


def _comb_from(slots: Sequence[Slot], start: int, phases: int, number_of: Mapping[TerminalId, str]) -> Comb:
    """Return the longest comb of so many bars from a slot on; it ends with the last pole of a device."""
    numbers = [number_of.get(terminal) for _, terminal in slots[start:]]
    pattern = numbers[:phases]
    end = 0
    if None not in pattern and len(set(pattern)) == phases:
        while end < len(numbers) and numbers[end] == pattern[end % phases]:
            end += 1
    while 0 < end < len(numbers) and slots[start + end][0] == slots[start + end - 1][0]:
        end -= 1
    used = slots[start : start + end]
    bars = tuple(tuple(terminal for _, terminal in used[bar::phases]) for bar in range(min(phases, end)))
    return Comb(devices=tuple(dict.fromkeys(device for device, _ in used)), bars=bars, phases=phases if end else 0)


def _bridges_over(
    devices: Sequence[str], parts: Mapping[str, Part], number_of: Mapping[TerminalId, str]
) -> Iterator[Comb]:
    for mark in (terminal.mark for terminal in parts[devices[0]].terminals):
        run: list[TerminalId] = []
        for device in (*devices, ""):
            terminal = terminal_id(device, mark)
            number = number_of.get(terminal)
            goes_on = run and number is not None and number == number_of[run[-1]] and len(run) < RELAY_BRIDGE
            if run and not goes_on:
                if len(run) > 1:
                    owners = tuple(t.rpartition(":")[0] for t in run)
                    yield Comb(devices=owners, bars=(tuple(run),), phases=1, is_bridge=True)
                run = []
            if number is not None:
                run.append(terminal)
