"""Owns that no upright duct is fuller than is wanted while another one has room: which circuits go round the other side.

A circuit goes by the upright that is shorter, and all its conductors go one way. Where that one is too full, those go by another that need
least more wire for what they free; a tap ahead of its protection stays as short
as it must be (common practice, no source). Power and extra-low voltage share an upright only where there is no room otherwise, or a tap
would be too long. Must not know how a way is found.
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from math import ceil, floor

from riktig.plan.circuit.model import is_bar
from riktig.plan.circuit.zones import device_of
from riktig.plan.place.layout import Duct
from riktig.plan.place.routes import Leg
from riktig.plan.wiring.conductors import Conductor, Ways, led_round, measure_again
from riktig.plan.wiring.duct_fill import FILL_LIMIT, FILL_TARGET, duct_loads, round_area_mm2, wire_area_mm2
from riktig.plan.wiring.entries import CableWay
from riktig.plan.wiring.taps import LONGEST_TAP_MM

_POWER_STAGES = frozenset({"incoming", "distribution", "feeds"})
_AHEAD = frozenset({"incoming", "distribution"})
_FAR_TOO_FULL = 1.2
"""Where uprights are so full on the whole, nothing is led round: they are to be larger first."""
_LEVEL_MOST = (FILL_TARGET + FILL_LIMIT) / 2
"""So full a horizontal duct may get by what is led round."""
_LEAST_GAIN = 0.01
"""A circuit that frees a smaller share of a duct stays where it is."""
_STEP_MM = 40.0
_BLOCK = "block"
"""Blocks of all lines are one to what hangs on them: their wires to one device belong to one circuit."""
_Spot = tuple[str, int]
"""The code of a duct, and which of the places along it."""


def shun_full_uprights(
    conductors: tuple[Conductor, ...], cables: tuple[CableWay, ...], ways: Ways
) -> Mapping[str, frozenset[str]]:
    """Return by number the uprights that wires of a potential keep out of: those known before as far as taps and room allow, and the full
    ones that circuits leave, where these are not far too small altogether.

    Args:
        conductors: all of them, as they go by the shortest ways.
        cables: ways of field cables through the ducts; they stay.
        ways: where terminals are, the ducts, and what potentials keep out of already.
    """
    uprights = {duct.code: duct for duct in ways.geometry.plate.ducts if duct.is_vertical}
    if len(uprights) < 2:
        return ways.shunned
    shunned = _with_short_taps(conductors, ways)
    if shunned != ways.shunned:
        conductors, ways = led_round(conductors, ways, shunned), replace(ways, shunned=shunned)
    loads = duct_loads(conductors, cables, uprights)
    if all(load.area <= FILL_TARGET * _inside(uprights[code]) for code, load in loads.items()):
        return shunned
    if sum(load.area for load in loads.values()) > _FAR_TOO_FULL * sum(map(_inside, uprights.values())):
        return shunned
    return _Balance(conductors, cables, ways).shunned(conductors)


def _with_short_taps(conductors: tuple[Conductor, ...], ways: Ways) -> Mapping[str, frozenset[str]]:
    """Return what potentials keep out of without those whose taps ahead of their protection are shorter, and too long, for it."""
    long = {c.number for c in conductors if c.stage in _AHEAD and c.legs and c.laid_mm > LONGEST_TAP_MM}
    if not long & ways.shunned.keys():
        return ways.shunned
    found = dict(ways.shunned)
    for circuit in circuits_of(conductors):
        numbers = {c.number for c in circuit}
        if long & numbers & found.keys():
            free = measure_again(circuit, replace(ways, shunned={}), None)
            if _longest_ahead(free) < _longest_ahead(circuit):
                found = {number: codes for number, codes in found.items() if number not in numbers}
    return found


def _longest_ahead(circuit: Iterable[Conductor]) -> float:
    """Return the longest of the taps of a circuit ahead of its protection, in mm."""
    return max((c.laid_mm for c in circuit if c.stage in _AHEAD), default=0.0)


def circuits_of(conductors: Iterable[Conductor]) -> list[tuple[Conductor, ...]]:
    """Return the wires in ducts by what goes one way together: the lines of one power circuit, what lies under one screen, else those of
    one potential.
    """
    wires = [c for c in conductors if c.legs]
    root: dict[str, str] = {}

    def top(number: str) -> str:
        while root.setdefault(number, number) != number:
            number = root[number]
        return number

    first: dict[tuple[str, ...], str] = {}
    for c in wires:
        if c.screened or c.stage in _POWER_STAGES:
            pair = sorted(_BLOCK if is_bar(device) else device for device in (device_of(c.a), device_of(c.b)))
            beside = first.setdefault(("screen", c.screened) if c.screened else ("lines", *pair), c.number)
            root[top(c.number)] = top(beside)
    found: defaultdict[str, list[Conductor]] = defaultdict(list)
    for c in wires:
        found[top(c.number)].append(c)
    return [tuple(members) for members in found.values()]


@dataclass(frozen=True, slots=True)
class _Move:
    """A circuit that leaves an upright, or none and goes the shortest way: by how many mm2 each place gets fuller, and how many mm of wire
    it needs more.
    """

    circuit: tuple[Conductor, ...]
    left: str
    change: Mapping[_Spot, float]
    more: float


class _Balance:
    """What lies in the ducts, looked at every 40 mm, while circuits are led round the other side."""

    def __init__(self, conductors: tuple[Conductor, ...], cables: tuple[CableWay, ...], ways: Ways) -> None:
        self._ways = ways
        self._ducts = {duct.code: duct for duct in ways.geometry.plate.ducts}
        self._uprights = [code for code, duct in self._ducts.items() if duct.is_vertical]
        self._areas: defaultdict[_Spot, float] = defaultdict(float)
        _lay(conductors, 1, self._areas)
        for way in cables:
            _spread(way.legs, round_area_mm2(way.diameter), self._areas)
        self._moves: dict[tuple[str, str], _Move | None] = {}

    def shunned(self, conductors: tuple[Conductor, ...]) -> dict[str, frozenset[str]]:
        """Return what potentials keep out of, once as many circuits were led round as serve; those that keep to a side of their own leave
        it only where a duct would be too full.
        """
        found = dict(self._ways.shunned)
        free: list[tuple[Conductor, ...]] = []
        kept: list[tuple[Conductor, ...]] = []
        for circuit in circuits_of(conductors):
            (kept if any(c.number in found for c in circuit) else free).append(circuit)
        self._lead_round(free, FILL_TARGET, found)
        self._lead_round(kept, FILL_LIMIT, found, may_be_free=True)
        return found

    def _lead_round(
        self,
        circuits: list[tuple[Conductor, ...]],
        most: float,
        found: dict[str, frozenset[str]],
        *,
        may_be_free: bool = False,
    ) -> None:
        """Lead circuits round while an upright, or a duct where they may also go by the shortest way, is fuller than it may be, and note
        what they keep out of.
        """
        while (move := self._cheapest(circuits, most, may_be_free=may_be_free)) is not None:
            for spot, change in move.change.items():
                self._areas[spot] += change
            circuits.remove(move.circuit)
            for number in {c.number for c in move.circuit}:
                found.pop(number, None)
                if move.left:
                    found[number] = frozenset({move.left})

    def _cheapest(self, circuits: list[tuple[Conductor, ...]], most: float, *, may_be_free: bool) -> _Move | None:
        """Return what frees the fullest place for least wire, None where that is no fuller than it may be or nothing serves."""
        spots = (spot for spot in self._areas if may_be_free or spot[0] in self._uprights)
        fullest = max(spots, key=self._fill, default=None)
        if fullest is None or self._fill(fullest) <= most:
            return None
        least = _LEAST_GAIN * _inside(self._ducts[fullest[0]])
        ways = [fullest[0]] if fullest[0] in self._uprights else []
        if may_be_free:
            ways.append("")
        there = [circuit for circuit in circuits if _area_at(circuit, fullest) >= least]
        moves = (self._leaving(circuit, code) for circuit in there for code in ways)
        serving = (move for move in moves if move is not None and -move.change.get(fullest, 0.0) >= least)
        cheapest = sorted(serving, key=lambda move: move.more / -move.change[fullest])
        return next((move for move in cheapest if self._allows(move, fullest)), None)

    def _leaving(self, circuit: tuple[Conductor, ...], code: str) -> _Move | None:
        """Return a circuit led round an upright, or by the shortest way, and what that changes; None where a tap would be too long."""
        key = circuit[0].number, code
        if key not in self._moves:
            self._moves[key] = self._led_round(circuit, code)
        return self._moves[key]

    def _led_round(self, circuit: tuple[Conductor, ...], code: str) -> _Move | None:
        shunned = dict.fromkeys((c.number for c in circuit), frozenset({code})) if code else {}
        around = measure_again(circuit, replace(self._ways, shunned=shunned), None)
        if _longest_ahead(around) > LONGEST_TAP_MM:
            return None
        change: defaultdict[_Spot, float] = defaultdict(float)
        _lay(circuit, -1, change)
        _lay(around, 1, change)
        return _Move(circuit, code, change, sum(c.length_mm for c in around) - sum(c.length_mm for c in circuit))

    def _fill(self, spot: _Spot) -> float:
        return self._areas[spot] / _inside(self._ducts[spot[0]])

    def _allows(self, move: _Move, fullest: _Spot) -> bool:
        """Return whether a move makes no horizontal duct too full, or fuller than it is at its fullest place; another upright may get
        nearly as full as the one that is freed.
        """
        others = [code for code in self._uprights if code != move.left]
        most = dict.fromkeys(others, self._fill(fullest)) | {move.left: FILL_TARGET}
        for spot, change in move.change.items():
            code = spot[0]
            if code not in most:
                most[code] = max(_LEVEL_MOST, *(self._fill(other) for other in self._areas if other[0] == code))
            if change > 0 and self._areas.get(spot, 0.0) + change >= most[code] * _inside(self._ducts[code]):
                return False
        return True


def _area_at(circuit: tuple[Conductor, ...], spot: _Spot) -> float:
    """Return what a circuit takes of a duct at a place, in mm2."""
    code, at = spot[0], spot[1] * _STEP_MM
    lying = (
        c
        for c in circuit
        for leg in c.legs
        if leg.duct == code and min(leg.start, leg.end) <= at <= max(leg.start, leg.end)
    )
    return sum(wire_area_mm2(c) for c in lying)


def _lay(conductors: Iterable[Conductor], sign: int, areas: defaultdict[_Spot, float]) -> None:
    for c in conductors:
        _spread(c.legs, sign * wire_area_mm2(c), areas)


def _spread(legs: Iterable[Leg], area: float, areas: defaultdict[_Spot, float]) -> None:
    """Add an area at each place that the legs pass."""
    for leg in legs:
        low, high = sorted((leg.start, leg.end))
        for k in range(ceil(low / _STEP_MM), floor(high / _STEP_MM) + 1):
            areas[leg.duct, k] += area


def _inside(duct: Duct) -> float:
    return duct.width * duct.depth
