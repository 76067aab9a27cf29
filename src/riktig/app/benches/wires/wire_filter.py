"""Owns the line of choices over the list of wires: device, place, colour, section, stage. Must not know the table."""

from collections import Counter
from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout

from riktig.app.text import tr
from riktig.plan.circuit.zones import device_of
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import STAGE_TITLES, Conductor
from riktig.record.keys import WireStep
from riktig.record.progress import Progress

_FIELDS = ("device", "place", "colour", "section", "stage")


class WireFilter(QFrame):
    """Every choice narrows the list; a place says how many conductors cross to it and how many are left to land."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.boxes: dict[str, QComboBox] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for field in _FIELDS:
            box = QComboBox()
            box.setAccessibleName(f"{tr('Only wires of this')} {tr(field)}")
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(8)
            box.activated.connect(lambda _: self.changed.emit())
            self.boxes[field] = box
            row.addWidget(box, 2 if field == "place" else 1)

    def show_plan(self, plan: Plan, progress: Progress | None) -> None:
        """Offer what there is; a choice that is still there stays."""
        tags = sorted(
            {plan.tags[d] for c in plan.conductors for d in (device_of(c.a), device_of(c.b)) if d in plan.tags}
        )
        self._offer("device", {tag: tag for tag in tags})
        self._offer("place", _places(plan, progress))
        wires = [c for c in plan.conductors if c.is_wired]
        self._offer("colour", {colour: colour for colour in sorted({c.colour for c in wires})})
        sizes = {c.size.label(): c.size.mm2 for c in wires}
        self._offer("section", {label: label for label in sorted(sizes, key=lambda s: sizes[s])})
        used = {c.stage for c in plan.conductors}
        self._offer("stage", {stage: tr(title) for stage, title in STAGE_TITLES.items() if stage in used})

    def _offer(self, field: str, choices: dict[str, str]) -> None:
        box = self.boxes[field]
        chosen = box.currentData()
        box.clear()
        box.addItem(tr(f"any {field}"), None)
        for value, words in choices.items():
            box.addItem(words, value)
        box.setCurrentIndex(max(box.findData(chosen), 0))

    def test(self, plan: Plan) -> Callable[[Conductor], bool] | None:
        """Return whether a conductor is wanted, None where every one is."""
        wanted = {field: box.currentData() for field, box in self.boxes.items() if box.currentData() is not None}
        if not wanted:
            return None

        def is_wanted(wire: Conductor) -> bool:
            has = {
                "device": wanted.get("device") in {plan.tags.get(device_of(wire.a)), plan.tags.get(device_of(wire.b))},
                "place": wire.location == wanted.get("place"),
                "colour": wire.colour == wanted.get("colour"),
                "section": wire.size.label() == wanted.get("section"),
                "stage": wire.stage == wanted.get("stage"),
            }
            return all(has[field] for field in wanted)

        return is_wanted


def _places(plan: Plan, progress: Progress | None) -> dict[str, str]:
    """Return each place of conductors with how many there are and how many are not landed at both ends yet."""
    wires = [c for c in plan.conductors if c.is_wired]
    total = Counter(c.location for c in wires)
    targets = {cable.name: cable.target for cable in plan.cables}
    left: Counter[str] = Counter()
    for wire in wires:
        steps = progress.wire_steps(wire.id) if progress is not None else ()
        left[wire.location] += WireStep.OTHER_END not in steps
    return {
        place: f"{place}{f' to {targets[place]}' if place in targets else ''}: {count}, "
        + (f"{left[place]} {tr('left')}" if left[place] else f"✓ {tr('none left')}")
        for place, count in total.items()
    }
