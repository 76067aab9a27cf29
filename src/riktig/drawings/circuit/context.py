"""Owns what figures of one plan look up while they are drawn. Must not draw."""

from dataclasses import dataclass

from riktig.drawings.circuit.pieces import Numbers, Pieces
from riktig.drawings.circuit.words import Wording
from riktig.drawings.shapes import SymbolSet
from riktig.plan.circuit.uses import Use
from riktig.plan.circuit.zones import is_drop, zones_of
from riktig.plan.net.runs import zone_of_run
from riktig.plan.plan import Plan
from riktig.plan.sheets.allocation import MOST_LETTERS, Place, number_letters
from riktig.plan.sheets.figures import Figure, Spot, power_cells


@dataclass(frozen=True, slots=True, kw_only=True)
class Port:
    """The open end of a conductor: where it is, its number, and where writing on it may begin."""

    v: float
    u: float
    number: str
    is_named: bool = False

    def moved(self, u: float) -> "Port":
        """Return the end further on."""
        return Port(v=self.v, u=u, number=self.number, is_named=self.is_named)


Ports = tuple[Port, ...]


class PlanContext:
    """What figures of one plan look up: uses, numbers, pieces, words, strip terminals; `aimed` are the devices whose main place has
    its target.
    """

    def __init__(self, plan: Plan, standard: SymbolSet) -> None:
        self.plan = plan
        self.standard = standard
        self.numbers = Numbers(plan)
        longest = max((len(p.number) for p in plan.potentials if not p.number.startswith("in.")), default=0)
        self.letters = min(longest, MOST_LETTERS)
        self.aimed: set[str] = set()
        self.titles = {path.key: path.title for path in plan.circuit.paths}
        self.power_cells = power_cells(number_letters(plan.job))
        self.pieces = Pieces(plan, self.numbers)
        self.wording = Wording(plan)
        self.uses = self.numbers.uses
        self._zones = zones_of(plan.circuit)
        self._clamps = {(c.number, zone_of_run(c.drop)): c.id for c in plan.clamps if c.number}

    def clamps(self, use: Use, numbers: tuple[str, ...]) -> list[str | None]:
        """Return the strip terminal between the panel and a device outside, for each conductor."""
        zone = self._zones[use.device]
        return [self._clamps.get((number, zone)) if is_drop(zone) else None for number in numbers]

    def use_of(self, spot: Spot) -> Use:
        """Return the use of a spot, the first of several."""
        return self.uses[(spot.path, spot.ref.column)]

    def exits(self, spot: Spot) -> tuple[str, ...]:
        """Return the numbers behind a spot, one for each conductor, none behind a load."""
        found: list[str] = []
        for path, ref in spot.mentions():
            use = self.uses[(path, ref.column)]
            found.extend(
                self.numbers.of_terminal(f"{use.device}:{mark}") for mark in self.plan.netlist.ends[use.key][1]
            )
        return tuple(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """A figure and the place where it stands."""

    figure: Figure
    place: Place
