"""Owns the dead panel as a meter meets it: what reads as joined, what stands between, and what is parted for a measurement. Must not know
steps.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from heapq import heappop, heappush
from math import inf

from riktig.live.built import AS_PLANNED, Built
from riktig.live.resistance import CLAMP_OHM, DeadNetwork, Resistor, element_resistors, wire_resistors
from riktig.plan.basis.union import UnionFind
from riktig.plan.plan import Plan

JOINED_OHM = 2.0
"""What reads less cannot be told from a wire: contacts that are closed at rest, overloads (common practice, no source)."""


class DeadPanel:
    """The dead panel of a Plan: overloads tripped, emergency stops pressed in, field motors off their terminals; of it any panel can be
    asked that was built with faults.

    Args:
        plan: the Plan.
    """

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        motors = {d.id for d in plan.circuit.devices if d.kind == "motor"}
        self._with_motors = tuple(element_resistors(plan))
        self.elements = tuple(r for r in self._with_motors if r.of not in motors)
        """What conducts inside the devices, motors left out."""
        self._low = tuple(r for r in self.elements if r.ohms <= JOINED_OHM)
        self._near: defaultdict[str, list[tuple[str, float, str]]] = defaultdict(list)
        for one in (*wire_resistors(plan), *self._low):
            self._near[one.a].append((one.b, one.ohms, one.of))
            self._near[one.b].append((one.a, one.ohms, one.of))

    def network(self, built: Built = AS_PLANNED, *, has_motors: bool = False) -> DeadNetwork:
        """Return what a meter reads of a panel as it was built."""
        if built.turned:
            elements: Iterable[Resistor] = element_resistors(self.plan, built)
        else:
            elements = self._with_motors if has_motors else self.elements
        return DeadNetwork((*wire_resistors(self.plan, built), *elements))

    def clusters(self, built: Built = AS_PLANNED) -> Mapping[str, str]:
        """Return terminal -> one that stands for all that read as joined with it, in a panel as it was built."""
        joined = UnionFind[str]()
        for one in (*wire_resistors(self.plan, built), *self._low):
            joined.join(one.a, one.b)
        for pair in built.turned:
            joined.join(*pair)
        return {end: joined.find(end) for end in self._near}

    def beside(self, node: str, built: Built) -> Iterator[tuple[str, float]]:
        """Yield what reads as joined with a terminal directly, with the ohms between, in a panel as it was built."""
        for other, ohms, of in self._near.get(node, ()):
            if of in built.ends or (built.turned and built.is_turned(node, other)):
                continue
            yield other, ohms
        for ends in (*(ends for ends in built.ends.values() if ends is not None), *built.extra):
            if node in ends:
                yield ends[1] if ends[0] == node else ends[0], CLAMP_OHM
        for a, b in built.turned:
            if node in (a, b) and b not in {other for other, _, _ in self._near.get(a, ())}:
                yield b if node == a else a, CLAMP_OHM

    def least_ohms(self, a: Sequence[str], b: Sequence[str], built: Built, most: float = inf) -> float:
        """Return the ohms of the shortest way that reads as joined between two sides, infinite where there is none within `most`."""
        ends = set(b)
        return next((ohms for node, ohms in self.ways(a, built, most) if node in ends), inf)

    def within(self, node: str, built: Built, most: float) -> Iterator[str]:
        """Yield the terminals that a terminal reaches within so many ohms, in a panel as it was built."""
        yield from (other for other, _ in self.ways((node,), built, most))

    def ways(self, a: Sequence[str], built: Built, most: float = inf) -> Iterator[tuple[str, float]]:
        """Yield terminals with the ohms of the shortest way to each, nearest first."""
        waiting, known, done = [(0.0, node) for node in a], dict.fromkeys(a, 0.0), set[str]()
        while waiting:
            ohms, node = heappop(waiting)
            if node in done:
                continue
            done.add(node)
            yield node, ohms
            for other, own in self.beside(node, built):
                if ohms + own <= most and ohms + own < known.get(other, inf):
                    known[other] = ohms + own
                    heappush(waiting, (ohms + own, other))
