"""Owns measuring before cutting: two independent entries must agree with each other and the plan. Must not store anything.

Source: measure three times, cut once: common practice, no source.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from riktig.plan.place.door import Cutout
from riktig.plan.plan import Plan
from riktig.plan.wiring.stations import Gland, Station
from riktig.record.events import Event, EventKind
from riktig.record.keys import OperationKey, Sort

TOLERANCE_MM = 1.0
"""How far a marked place may be out, where nothing else is said (common practice, no source)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedCutout:
    """A hole that spoils a door, wall, lid or plate when it is in the wrong place: `key` is its operation, `ref` what it is for, `where`
    door, entry wall, plate or station; x and y in mm of that sheet, its size in words, `tolerance` in mm.
    """

    key: OperationKey
    ref: str
    where: str
    x: float
    y: float
    size: str
    tolerance: float

    @property
    def as_planned(self) -> str:
        """What an entry was made for; a cut-out that moves is measured anew."""
        return f"{self.x:g}/{self.y:g}"


class CutoutState(StrEnum):
    """How far the measuring of a cut-out is."""

    BLANK = "not measured"
    ONCE = "measured once"
    AGREED = "agreed"
    APART = "entries disagree"
    OFF = "not as planned"


@dataclass(frozen=True, slots=True, kw_only=True)
class CutoutEntry:
    """A place that somebody measured on the sheet, in mm."""

    x: float
    y: float
    person: str
    time: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CutoutCheck:
    """A cut-out with the entries that count, the last two, and what they come to; `words` say it with the distances."""

    planned: PlannedCutout
    entries: tuple[CutoutEntry, ...]
    state: CutoutState
    words: str

    @property
    def is_open(self) -> bool:
        """Whether the hole may be cut."""
        return self.state is CutoutState.AGREED


def list_cutouts(plan: Plan) -> tuple[PlannedCutout, ...]:
    """Return what must be measured before it is cut: holes of door, walls and stations, and through holes of the plate."""
    found = [_in_sheet(c, "door") for c in plan.door.cutouts]
    for wall in plan.walls:
        found.extend(_in_sheet(c, f"{wall.side} wall") for c in wall.cutouts)
    for station in plan.stations:
        where = f"station {station.location}"
        found.extend(_in_sheet(c, where) for c in station.cutouts)
        found.extend(
            PlannedCutout(
                key=OperationKey.of(Sort.ENTRY, station_gland(station, g)), ref=f"cable:{g.cable}", where=f"{where}, bottom",
                x=round(g.x, 1), y=round(g.z, 1), size=f"ø {g.diameter:g} mm, {g.fitting}", tolerance=2 * TOLERANCE_MM,
            )
            for g in station.glands
        )  # fmt: skip
    found.extend(
        PlannedCutout(
            key=OperationKey.of(Sort.ENTRY, e.cable), ref=f"cable:{e.cable}", where="entry wall", x=e.x, y=e.z,
            size=f"ø {e.diameter:g} mm, {e.fitting}",
            tolerance=2 * TOLERANCE_MM,
        )
        for e in plan.entries
    )  # fmt: skip
    found.extend(
        PlannedCutout(
            key=OperationKey.of(Sort.HOLES, h.target),
            ref=h.target,
            where="plate",
            x=h.x,
            y=h.y,
            size=f"ø {h.diameter:g} mm",
            tolerance=TOLERANCE_MM,
        )
        for h in plan.holes
        if h.fix.startswith("through")
    )
    return tuple(found)


def _in_sheet(hole: Cutout, where: str) -> PlannedCutout:
    return PlannedCutout(
        key=OperationKey.of(Sort.CUTOUT, hole.device), ref=hole.device, where=where, x=round(hole.x, 1), y=round(hole.y, 1),
        size=f"ø {hole.diameter:g} mm" if hole.diameter else f"{hole.w:g} x {hole.h:g} mm", tolerance=hole.tolerance,
    )  # fmt: skip


def station_gland(station: Station, gland: Gland) -> str:
    """Return what the hole of a gland in the bottom of a station is called: its cable may come in elsewhere too."""
    return f"{gland.cable} at {station.location}"


def read_checks(
    planned: Iterable[PlannedCutout], events: Iterable[Event], unit: str
) -> dict[OperationKey, CutoutCheck]:
    """Return how far the measuring of each cut-out of one unit is, by its key; entries for another place do not count."""
    by_key = {p.key: p for p in planned}
    entries: dict[OperationKey, list[CutoutEntry]] = {key: [] for key in by_key}
    for event in events:
        key = OperationKey(event.subject)
        if event.unit != unit or event.kind is not EventKind.MEASURE or key not in by_key:
            continue
        if event.data.get("as") == by_key[key].as_planned:
            x, y = float(event.data["x"]), float(event.data["y"])
            entries[key].append(CutoutEntry(x=x, y=y, person=event.person, time=event.time))
    return {key: _check(by_key[key], tuple(found[-2:])) for key, found in entries.items()}


def _check(planned: PlannedCutout, entries: tuple[CutoutEntry, ...]) -> CutoutCheck:
    state, words = _judge(planned, entries)
    return CutoutCheck(planned=planned, entries=entries, state=state, words=words)


def _judge(planned: PlannedCutout, entries: tuple[CutoutEntry, ...]) -> tuple[CutoutState, str]:
    if not entries:
        return CutoutState.BLANK, "measure it twice, independently; then it may be cut"
    if len(entries) == 1:
        return CutoutState.ONCE, "measured once: measure again from the datum, best by somebody else"
    one, other = entries
    apart = max(abs(one.x - other.x), abs(one.y - other.y))
    if apart > planned.tolerance + 1e-9:
        words = f"the two entries differ by {apart:.1f} mm, {planned.tolerance:g} mm at most: measure both again"
        return CutoutState.APART, words
    off = max(abs(e.x - planned.x) for e in entries), max(abs(e.y - planned.y) for e in entries)
    if max(off) > planned.tolerance + 1e-9:
        words = f"the mark is {off[0]:.1f} mm off in x and {off[1]:.1f} mm in y, {planned.tolerance:g} mm at most: mark it anew"
        return CutoutState.OFF, words
    return CutoutState.AGREED, f"both entries agree within {planned.tolerance:g} mm: it may be cut"
