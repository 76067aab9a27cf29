"""Owns what a person and the field can do to each thing of a panel in a test, and how it is taken back. Must not try anything."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from riktig.catalogue.model import ElementKind
from riktig.live.controllers import Controller
from riktig.live.converters import Drive, SoftStarter
from riktig.live.gear import Gear
from riktig.live.names import Names
from riktig.live.operators import Operated, Selector
from riktig.live.protection import Breaker, Fuse, Overload
from riktig.live.simulation import Simulation


class Sort(StrEnum):
    """What a move is for: what may start something comes before what stops it."""

    START = "start"
    STOP = "stop"
    SUPPLY = "supply"


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """Something to do and how it is taken back, in words of scripts; the device that it is done to, and whose that is."""

    sort: Sort
    device: str
    owner: str
    do: tuple[str, ...]
    back: tuple[str, ...]
    is_by_hand: bool = False
    """Whether a finger holds it: a signal of the field that is mimicked stays until it is taken away."""


def moves_of(simulation: Simulation, names: Names) -> tuple[Move, ...]:
    """Return what can be done, in the order of the circuit: starting, stopping, supplies and lines last."""
    found = [move for gear in simulation.gears.values() for move in _moves(gear, names)]
    found += list(_levels(simulation, names))
    found += list(_lines(simulation))
    return tuple(sorted(found, key=lambda move: list(Sort).index(move.sort)))


def _moves(gear: Gear, names: Names) -> Iterator[Move]:
    tag, device = names.tag(gear.id), gear.device
    owner = device.owner or gear.id

    def move(sort: Sort, do: str, back: str) -> Move:
        return Move(
            sort=sort, device=gear.id, owner=owner, do=(do,) if do else (), back=(back,) if back else (),
            is_by_hand=device.kind in _BY_HAND,
        )  # fmt: skip

    breaks = all(element.kind is ElementKind.NC for element in gear.part.elements if element.kind in _CONTACTS)
    if isinstance(gear, Selector):
        choices = [*gear.choices, *(["off"] if "off" not in gear.choices else [])]
        springs = gear.part.traits.get("return") == "spring"
        for choice in choices:
            yield move(Sort.START, f"turn {tag} {choice}", f"release {tag}" if springs and choice != "off" else "")
    elif isinstance(gear, Operated) and device.kind in {"pushbutton", "emergency-stop"}:
        sort = Sort.STOP if breaks or device.kind == "emergency-stop" else Sort.START
        yield move(sort, f"press {tag}", f"release {tag}")
    elif isinstance(gear, Operated) and "level_m" not in device.settings:
        words = ("open", "close") if gear.is_moved else ("close", "open")
        is_stop = gear.is_moved or breaks
        yield move(Sort.STOP if is_stop else Sort.START, f"{words[0]} {tag}", f"{words[1]} {tag}")
        if not is_stop:
            yield move(Sort.STOP, f"{words[1]} {tag}", f"{words[0]} {tag}")
    elif isinstance(gear, Overload | Drive | SoftStarter):
        yield move(Sort.STOP, f"trip {tag}", f"reset {tag}")
    elif isinstance(gear, Breaker):
        yield move(Sort.SUPPLY, f"trip {tag}", f"close {tag}")
    elif isinstance(gear, Fuse) or device.kind == "disconnect":
        yield move(Sort.SUPPLY, f"open {tag}", f"close {tag}")
    elif isinstance(gear, Controller):
        for mark in gear.digital_outputs:
            yield move(Sort.START, f"set {tag} {mark} on", f"set {tag} {mark} off")
        for mark in gear.analogue_outputs:
            yield move(Sort.START, f"set {tag} {mark} {_FULL_V:g}", f"set {tag} {mark} 0")


_BY_HAND = frozenset({"pushbutton", "selector", "emergency-stop"})
_CONTACTS = frozenset({ElementKind.NO, ElementKind.NC, ElementKind.CO})


def _levels(simulation: Simulation, names: Names) -> Iterator[Move]:
    """Yield the levels, from empty to full and down again, past each float."""
    for level in simulation.plan.job.levels:
        heights = sorted(height for _, height in names.floats(level.name))
        for metres in (*(h + _PAST_M for h in heights), *(h - _PAST_M for h in reversed(heights))):
            do = (f"level {level.name} {metres:g}",)
            yield Move(sort=Sort.START, device=level.name, owner=level.name, do=do, back=())


_PAST_M, _FULL_V = 0.05, 10.0


def _lines(simulation: Simulation) -> Iterator[Move]:
    """Yield the loss of a line where something watches them."""
    if not any(gear.device.kind == "phase-relay" for gear in simulation.gears.values()):
        return
    feed = simulation.ways_in[0]
    for line in [name for name in feed.terminals if name not in {"N", "PE"}]:
        yield Move(
            sort=Sort.SUPPLY, device=f"the loss of {line}", owner=feed.id, do=(f"lose {line}",), back=(f"mend {line}",)
        )
