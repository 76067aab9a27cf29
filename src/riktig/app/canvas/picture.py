"""Owns the items of the drawing in a scene: what looks as before stays, what is new is made in turns that hold the window up for no
longer than a blink. Must not know clicks or zoom.
"""

import time

from PySide6.QtCore import QObject, QRectF, Signal
from PySide6.QtWidgets import QGraphicsScene

from riktig.app.canvas.items import DrawnItem, ItemKey, group_items
from riktig.app.theme.theme import Theme
from riktig.app.turns import Turns
from riktig.drawings.display import Drawing, Item

MOST_AT_ONCE, MOST_AT_FIRST = 60, 300
"""So many new items are made in one go, in a view that shows something and in an empty one."""
TURN_S = 0.012
GO_AT_ONCE = 40
"""So many items that are shown no more are let go of in one turn: of a large drawing that takes as long as to paint it."""
_Z_STEP = 1e-4


class Picture(QObject):
    """One drawing in a scene."""

    made = Signal()
    """All of what is shown is there."""

    def __init__(self, scene: QGraphicsScene, parent: QObject) -> None:
        super().__init__(parent)
        self._scene = scene
        self._drawn: dict[ItemKey, tuple[list[Item], DrawnItem, int]] = {}
        self._by_ref: dict[str, list[DrawnItem]] = {}
        self._marked: tuple[str, ...] = ()
        self._old: dict[ItemKey, tuple[list[Item], DrawnItem, int]] = {}
        self._waiting: list[tuple[int, ItemKey, list[Item]]] = []
        """What is still to be made, the last first."""
        self._gone: list[DrawnItem] = []
        """What is out of the scene and not let go of yet."""
        self._look: tuple[float, Theme] | None = None
        self._turns = Turns(self._go_on, self)

    def show(self, drawing: Drawing | None, theme: Theme, *, keep: bool, at_once: bool) -> None:
        """Show a drawing, None for nothing; with `keep` in the place of one of the same size and look, of which items stay; `at_once`
        where a half-made one would mislead, as a sheet that is turned to.
        """
        self.finish()
        self._old, self._drawn = self._drawn, {}
        is_first = not self._old
        if not keep:
            self._drop_old()
        if drawing is None:
            return
        self._look = drawing.height, theme
        self._scene.setSceneRect(QRectF(0, 0, drawing.width, drawing.height))
        for place, (key, members) in enumerate(group_items(drawing).items()):
            known, item, stood = self._old.get(key, (None, None, -1))
            if item is None or known != members:
                self._waiting.append((place, key, members))
                continue
            del self._old[key]
            if stood != place:
                item.setZValue(place * _Z_STEP)
            self._drawn[key] = members, item, place
        self._waiting.reverse()
        if at_once or len(self._waiting) <= (MOST_AT_FIRST if is_first else MOST_AT_ONCE):
            self.finish()
        else:
            self._turns.start()

    def finish(self) -> None:
        """Make at once what is still to be made."""
        while self._waiting:
            self._make(*self._waiting.pop())
        self._end()

    def _go_on(self) -> None:
        until = time.perf_counter() + TURN_S
        if not self._waiting:
            del self._gone[:GO_AT_ONCE]
            if not self._gone:
                self._turns.stop()
            return
        while self._waiting and time.perf_counter() < until:
            self._make(*self._waiting.pop())
        if not self._waiting:
            self._end()

    def _end(self) -> None:
        self._drop_old()
        self.mark(self._marked)
        self.made.emit()

    @property
    def is_making(self) -> bool:
        """Whether something of what is shown is still to be made."""
        return bool(self._waiting)

    def _drop_old(self) -> None:
        for _, item, _ in self._old.values():
            self._remove(item)
        self._old = {}
        if self._gone and not self._waiting:
            self._turns.start()

    def _remove(self, item: DrawnItem) -> None:
        self._scene.removeItem(item)
        for ref in _refs_of(item):
            self._by_ref[ref].remove(item)
        self._gone.append(item)

    def _make(self, place: int, key: ItemKey, members: list[Item]) -> None:
        assert self._look is not None
        ref, link, spot, _ = key
        height, theme = self._look
        item = DrawnItem(ref, members, height, theme, link=link, spot=spot)
        item.setZValue(place * _Z_STEP)
        self._scene.addItem(item)
        before = self._old.pop(key, None)
        if before is not None:
            self._remove(before[1])
        self._drawn[key] = members, item, place
        for one in _refs_of(item):
            self._by_ref.setdefault(one, []).append(item)

    def mark(self, refs: tuple[str, ...]) -> None:
        """Mark what is selected."""
        for item in {item for ref in {*self._marked, *refs} for item in self._by_ref.get(ref, ())}:
            item.set_marked(refs)
        self._marked = refs

    def items_of(self, ref: str) -> list[DrawnItem]:
        """Return what depicts a thing, what is drawn first before the others."""
        self.finish()
        return sorted(self._by_ref.get(ref, ()), key=lambda item: item.zValue())


def _refs_of(item: DrawnItem) -> set[str]:
    """Return what an item depicts, itself and what is on it."""
    return {*item.places} if item.ref is None else {item.ref, *item.places}
