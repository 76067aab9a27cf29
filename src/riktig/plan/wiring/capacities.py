"""Owns how many conductors each clamp still takes, and which clamps of bars and blocks are taken. Must not chain wires."""

from collections import Counter
from collections.abc import Iterable, Mapping

from riktig.catalogue.model import Part
from riktig.job.ids import TerminalId, terminal_id
from riktig.job.ledger import Choices
from riktig.plan.circuit.model import DOOR, EARTH_BAR, Circuit, is_bar
from riktig.plan.circuit.zones import device_of, mark_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.strips import Clamp
from riktig.plan.wiring.ends import takes_twin
from riktig.plan.wiring.links import HINGE, Link, Means
from riktig.standards.colours import ConductorFunction
from riktig.units.conductor_size import ConductorSize

DEFAULT_CAPACITY = 2


class Capacities:
    """How many more conductors each clamp takes. A strip terminal has an inside and an outside."""

    def __init__(self, parts: Mapping[str, Part], clamps: Iterable[Clamp], twins: frozenset[str] = frozenset()) -> None:
        self._parts = parts
        self._twins = twins
        self._clamps: dict[str, Clamp] = {clamp.id: clamp for clamp in clamps}
        self._used: Counter[tuple[str, bool]] = Counter()
        self._teeth: set[str] = set()

    def limit(self, terminal: str, *, is_outside: bool = False) -> int:
        """Return the number of conductors that a clamp takes on one side."""
        clamp = self._clamps.get(terminal)
        if clamp is not None:
            return 1 if is_outside or clamp.is_earth else DEFAULT_CAPACITY
        if is_bar(device_of(terminal)):
            return 1
        part = self._parts.get(device_of(terminal))
        spec = part.terminal(mark_of(terminal)) if part is not None else None
        most = spec.capacity if spec is not None else DEFAULT_CAPACITY
        return most + (terminal in self._twins)

    def left(self, terminal: str, *, is_outside: bool = False) -> int:
        """Return how many conductors the side still takes."""
        return self.limit(terminal, is_outside=is_outside) - self._used[(terminal, is_outside)]

    def use(self, link: Link) -> None:
        """Count a link at both of its ends; rail, bar and bridge need no clamp, a comb has one tooth in each."""
        for end in (link.a, link.b):
            if link.means is Means.COMB:
                self._used[(end, False)] += end not in self._teeth
                self._teeth.add(end)
            elif link.is_wired or (
                link.means is Means.FACTORY and not self._is_rail_or_bar(end) and not link.is_inside_one
            ):
                self._used[(end, self._is_outside(link, end))] += 1

    def _is_rail_or_bar(self, end: str) -> bool:
        return end in self._clamps or is_bar(device_of(end))

    def _is_outside(self, link: Link, end: str) -> bool:
        clamp = self._clamps.get(end)
        return clamp is not None and (link.where.startswith("cable:") or (link.where == HINGE and clamp.drop == DOOR))


def find_twins(
    potentials: tuple[Potential, ...],
    parts: Mapping[str, Part],
    sizes: Mapping[str, ConductorSize],
    conductor_class: str,
) -> frozenset[str]:
    """Return the terminals for one conductor that take two in a twin ferrule; never those of earth.

    Args:
        potentials: all potentials.
        parts: part by device.
        sizes: size inside the panel by number.
        conductor_class: what the shop wires with, IEC 60228.
    """
    found = []
    for potential in potentials:
        if potential.net.function is not ConductorFunction.EARTH:
            for terminal in potential.net.terminals:
                spec = parts[device_of(terminal)].terminal(mark_of(terminal))
                if spec is not None and takes_twin(sizes[potential.number], spec.clamp, conductor_class):
                    found.append(terminal)
    return frozenset(found)


class BarClamps:
    """Which clamp of a bar or block each conductor takes; the first of the earth bar is for the incoming earth."""

    def __init__(self, bar: str, labels: Iterable[tuple[str, str]]) -> None:
        self.bar = bar
        self.labels = dict(labels)
        self._last = max((int(label) for label in self.labels.values()), default=int(bar == EARTH_BAR))
        self.used: dict[str, TerminalId] = {}

    def clamp_for(self, terminal: str) -> TerminalId:
        """Return the terminal id of the clamp that serves `terminal`, a new one if it has none."""
        if terminal not in self.labels:
            self._last += 1
            self.labels[terminal] = str(self._last)
        clamp = terminal_id(self.bar, self.labels[terminal])
        self.used[f"{self.bar}|{terminal}"] = clamp
        return clamp

    def take(self, used: Mapping[str, TerminalId]) -> None:
        """Note which clamps are taken, `bar|terminal` -> clamp."""
        self.used.update(used)

    @property
    def in_a_row(self) -> list[TerminalId]:
        """The clamps in use from the first to the last, the one of the incoming earth included."""
        incoming = {terminal_id(self.bar, "1")} if self.bar == EARTH_BAR and self.used else set()
        return sorted({*self.used.values(), *incoming}, key=lambda clamp: int(mark_of(clamp)))


class Bars:
    """The clamps of all bars and blocks."""

    def __init__(self, circuit: Circuit, kept: Choices) -> None:
        labels: dict[str, list[tuple[str, str]]] = {d.id: [] for d in circuit.devices if is_bar(d.id)}
        for key, choice in kept.items():
            bar, _, terminal = key.partition("|")
            if bar in labels:
                labels[bar].append((terminal, str(choice.value.position)))
        self._bars = {bar: BarClamps(bar, given) for bar, given in labels.items()}

    def of(self, potential: Potential) -> BarClamps | None:
        """Return the bar or block of a potential, None if it has none."""
        bar = potential.bar(self._bars)
        return self._bars[bar] if bar is not None else None

    @property
    def earth(self) -> BarClamps:
        """The main earth bar."""
        return self._bars[EARTH_BAR]

    @property
    def used(self) -> dict[str, TerminalId]:
        """`bar|terminal` -> clamp, of all."""
        return {key: clamp for bar in self._bars.values() for key, clamp in bar.used.items()}
