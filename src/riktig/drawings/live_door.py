"""Owns what is laid over the door while its circuit is live: lamps that are lit, buttons that are pressed, how selectors stand."""

from collections.abc import Iterator

from riktig.drawings.display import Anchor, Circle, Drawing, Item, Text, Tone
from riktig.live.currents import LiveState

_ROOM_MM = 115.0
_EARTH = "earth-stud"
"""The stud that bonds the door: nobody presses it."""
_LIT = frozenset({"lamp", "pushbutton", "beacon", "horn", "hmi", "meter"})


def door_overlay(door: Drawing, state: LiveState, kinds: dict[str, str]) -> tuple[Item, ...]:
    """Return what shows a panel's state on the front of its door; `kinds` are those of its devices by id."""
    places: dict[str, Circle] = {}
    for item in door.items:
        if isinstance(item, Circle) and item.ref in state.states and item.ref is not None:
            known = places.get(item.ref)
            places[item.ref] = item if known is None or item.r > known.r else known
    return tuple(shown for ref, at in places.items() for shown in _of_device(kinds.get(ref, ""), at, state.states[ref]))


def _of_device(kind: str, at: Circle, states: frozenset[str]) -> Iterator[Item]:
    if kind in _LIT and "on" in states:
        yield Circle(x=at.x, y=at.y, r=at.r, width=2.0, tone=Tone.ATTENTION, fill=Tone.ATTENTION)
        yield Circle(x=at.x, y=at.y, r=at.r + 6.0, width=2.5, tone=Tone.ATTENTION)
    if "operated" in states:
        yield Circle(x=at.x, y=at.y, r=at.r * 0.75, width=5.0, tone=Tone.INK)
    if kind == "selector":
        yield Text(
            x=at.x,
            y=at.y - 5.0,
            text=next(iter(states)),
            size=11.0,
            anchor=Anchor.MIDDLE,
            tone=Tone.DANGER,
            is_bold=True,
        )
    if kind == "disconnect" and "off" in states:
        yield Text(x=at.x, y=at.y - 6.0, text="off", size=14.0, anchor=Anchor.MIDDLE, tone=Tone.DANGER, is_bold=True)


def extent_of(door: Drawing, kinds: dict[str, str]) -> tuple[float, float, float, float]:
    """Return the part of a door where its devices are, as x, y, width and height in mm, with some room around."""
    at = [(i.x, i.y) for i in door.items if isinstance(i, Circle) and kinds.get(i.ref or "", _EARTH) != _EARTH]
    if not at:
        return 0.0, 0.0, door.width, door.height
    left, right = min(x for x, _ in at) - _ROOM_MM, max(x for x, _ in at) + _ROOM_MM
    low, high = min(y for _, y in at) - _ROOM_MM, max(y for _, y in at) + _ROOM_MM
    return left, low, right - left, high - low
