"""Owns which wires are cut, marked and laid together: bundles, and the order in which a panel is wired by them. Must not part them.

A bundle is all wires of one stage that run between the same two zones and are of one section, colour and class.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from riktig.plan.answers.remembered import remembered
from riktig.plan.making.hidden import hidden_items, is_hidden
from riktig.plan.net.numbers import natural_key
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.ends import class_of
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import ConductorSize


class WorkStage(StrEnum):
    """The stages of wiring in working order: field side and door come last, so that they lie on top (common practice, no source)."""

    INCOMING = "incoming mains"
    DISTRIBUTION = "distribution"
    FEEDS = "feeds"
    EARTH = "earth"
    NETWORK = "network"
    CONTROL_AC = "AC control"
    SIGNALS = "signals"
    CONTROL_DC = "DC control"
    EXCEPTED = "excepted"
    FIELD = "field side"
    DOOR = "door loom"


_ROWS = re.compile(r"row (\d+) - row (\d+)")
_DC = frozenset({ConductorFunction.CONTROL_DC, ConductorFunction.CONTROL_DC_RETURN})
_EXCEPTED = frozenset(
    {ConductorFunction.EXCEPTED, ConductorFunction.EXCEPTED_RETURN, ConductorFunction.EXCEPTED_NEUTRAL}
)
_PLAIN = {
    "incoming": WorkStage.INCOMING, "distribution": WorkStage.DISTRIBUTION, "earth": WorkStage.EARTH, "signals": WorkStage.SIGNALS,
    "field": WorkStage.FIELD, "door": WorkStage.DOOR,
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Bundle:
    """Wires that are made together. `zones` are where they run from and to, as people say it; `conductor_class` after IEC 60228."""

    key: str
    stage: WorkStage
    zones: str
    size: ConductorSize
    colour: str
    conductor_class: str
    wires: tuple[Conductor, ...]

    @property
    def title(self) -> str:
        """What it is called: `AC control, rows 1-2, 1 mm² red`."""
        rows = _ROWS.fullmatch(self.zones)
        where = self.zones if rows is None else f"row {rows[1]}" if rows[1] == rows[2] else f"rows {rows[1]}-{rows[2]}"
        return f"{self.stage.value}, {where}, {self.size.label()} {self.colour}"


def stage_of(wire: Conductor, function: ConductorFunction) -> WorkStage:
    """Return the stage in which a wire is laid; excepted circuits and DC control have their own where they lie in the panel.

    Source:
        Common practice, no source.
    """
    stage = _PLAIN.get(wire.stage)
    if stage in {WorkStage.FIELD, WorkStage.DOOR, WorkStage.EARTH, WorkStage.SIGNALS}:
        return stage
    if function in _EXCEPTED:
        return WorkStage.EXCEPTED
    if stage is not None:
        return stage
    if wire.stage == "feeds":
        return WorkStage.FEEDS
    return WorkStage.CONTROL_DC if function in _DC else WorkStage.CONTROL_AC


@remembered("conductors", "potentials", "job.practice", hidden_items)
def bundles_of(plan: Plan) -> tuple[Bundle, ...]:
    """Return the bundles of all wires that the shop cuts, in the order in which they are laid; cores of field cables are none of them.

    Within a stage bundles with wires that a cover will hide go first, then the larger section, for it gives way least; wires of a bundle
    stand in the order of their numbers, behind those that will be hidden.
    """
    function_of = _functions(plan)
    conductor_class = class_of(plan.job.practice)
    found: dict[_Key, list[Conductor]] = {}
    for wire in plan.conductors:
        if wire.kind == "wire":
            zones = wire.batch.removeprefix(wire.stage).strip()
            key = _Key(stage_of(wire, function_of(wire)), zones, wire.size, wire.colour)
            found.setdefault(key, []).append(wire)
    hidden = {wire.id for members in found.values() for wire in members if is_hidden(plan, wire)}
    bundles = []
    for k in sorted(found, key=lambda k: _place(k, has_hidden=any(wire.id in hidden for wire in found[k]))):
        wires = sorted(found[k], key=lambda wire: (wire.id not in hidden, natural_key(wire.number), wire.id))
        bundles.append(Bundle(
            key=f"{k.stage.name.lower()}|{k.zones}|{k.size.mm2:g}|{k.colour}", stage=k.stage, zones=k.zones, size=k.size, colour=k.colour,
            conductor_class=conductor_class, wires=tuple(wires),
        ))  # fmt: skip
    return tuple(bundles)


class _Key(NamedTuple):
    """What the wires of a bundle have in common."""

    stage: WorkStage
    zones: str
    size: ConductorSize
    colour: str


_ORDER = {stage: place for place, stage in enumerate(WorkStage)}


def _place(key: _Key, *, has_hidden: bool) -> tuple[int, bool, float, str, str]:
    return _ORDER[key.stage], not has_hidden, -key.size.mm2, key.zones, key.colour


def _functions(plan: Plan) -> Callable[[Conductor], ConductorFunction]:
    by_number: Mapping[str, ConductorFunction] = {p.number: p.net.function for p in plan.potentials}
    return lambda wire: by_number[wire.number]
