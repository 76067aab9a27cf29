"""Owns the cables to the field: names, cores, screens, glands and conduits. Must not know the ducts."""

from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt

from riktig.job.ledger import Choices
from riktig.plan.net.runs import Run, Runs, Screen
from riktig.plan.wiring.conductors import Conductor
from riktig.standards import cable_entries, nec
from riktig.standards.cable_entries import Gland
from riktig.standards.wire_diameters import outer_diameter_mm
from riktig.units.conductor_size import ConductorSize


@dataclass(frozen=True, slots=True, kw_only=True)
class Conduit:
    """An EMT: its trade size in inches, and how much of it is filled, in percent."""

    trade_size: str
    fill_percent: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Cable:
    """A cable: the numbers of its cores in use (earth as PE), spare cores, length in m; `drop` is its run, `screen` how its screen
    is treated, None where it has none; `origin` is the isolator in the field that it begins at, "" for the panel, `is_to_isolator`:
    it ends at one. In North America the conduit that takes its cores as single conductors, None where a size is not listed or none
    is large enough; elsewhere the gland, None where none is large enough. `diameter_mm` is how thick it is, of single conductors in
    conduit that of a round of the same area.
    """

    name: str
    drop: str
    target: str
    numbers: tuple[str, ...]
    spare: int
    size_label: str
    length_m: float
    conduit: Conduit | None = None
    gland: Gland | None = None
    screen: Screen | None = None
    diameter_mm: float = 0.0
    origin: str = ""
    is_to_isolator: bool = False

    @property
    def begin(self) -> str:
        """Where it begins, as people call it: the panel, or the tag of an isolator."""
        return self.origin or "panel"

    @property
    def boxes(self) -> int:
        """How many of its ends come into the panel or into the box of an isolator, which take a gland each."""
        return 1 + self.is_to_isolator

    @property
    def screen_words(self) -> tuple[str, str]:
        """What is done with its screen where it begins, and at its other end; nothing where it has none."""
        if self.screen is None:
            return "", ""
        return (
            _IN_BOX if self.origin else self.screen.at_panel,
            _IN_BOX if self.is_to_isolator and self.screen is Screen.BOTH else self.screen.at_far_end,
        )

    @property
    def cores(self) -> int:
        """All its cores, spare ones among them."""
        return len(self.numbers) + self.spare

    @property
    def fitting(self) -> str:
        """The thread of its gland or the trade size of its conduit, "" where neither is known."""
        if self.gland is not None:
            return self.gland.thread
        return f'conduit {self.conduit.trade_size}"' if self.conduit is not None else ""

    @property
    def hole_mm(self) -> float | None:
        """The hole in the enclosure for its gland or conduit, None where neither is known."""
        if self.gland is not None:
            return self.gland.hole_mm
        return cable_entries.knockout_mm(self.conduit.trade_size) if self.conduit is not None else None


_IN_BOX = "clamped all round in the metal box of the isolator, and so carried through it"


def cable_ref(name: str) -> str:
    """Return what a selection calls a cable."""
    return f"cable:{name}"


def allocate_cables(runs: Runs, kept: Choices) -> dict[str, str]:
    """Return run -> cable name (W1, W2 ...); a cable keeps its name."""
    wanted = [run.key for run in runs.all]
    result = {key: kept[key].value for key in wanted if key in kept}
    used = {c.value for c in kept.values()}
    number = 0
    for key in wanted:
        while key not in result:
            number += 1
            if f"W{number}" not in used:
                result[key] = f"W{number}"
                used.add(f"W{number}")
    return {key: result[key] for key in wanted}


def build_cables(
    conductors: tuple[Conductor, ...], runs: Runs, names: Mapping[str, str], targets: Mapping[str, str], earth: str
) -> tuple[Cable, ...]:
    """Return all cables in the order of their runs.

    Args:
        conductors: all conductors.
        runs: the cable runs.
        names: cable name by run.
        targets: what stands at the far end, by place.
        earth: the number of the earth potential.
    """
    isolators = frozenset(run.origin for run in runs.all if run.origin)
    lying: defaultdict[str, list[Conductor]] = defaultdict(list)
    for conductor in conductors:
        lying[conductor.location].append(conductor)
    return tuple(_build(run, names[run.key], targets, lying[names[run.key]], earth, isolators) for run in runs.all)


def _build(
    run: Run, name: str, targets: Mapping[str, str], cores: list[Conductor], earth: str, isolators: frozenset[str]
) -> Cable:
    place = {number: at for at, number in enumerate(run.numbers)}
    cores = sorted(cores, key=lambda c: place.get(c.number, -1))
    size = cores[0].size if cores else None
    is_metric = size is not None and size.metric
    return Cable(
        name=name,
        drop=run.key,
        target=targets[run.zone],
        origin=targets[run.origin] if run.origin else "",
        is_to_isolator=run.zone in isolators,
        numbers=tuple("PE" if c.number == earth else c.number for c in cores),
        spare=run.spare,
        size_label=size.label() if size is not None else "",
        length_m=cores[0].length_mm / 1000 if cores else 0.0,
        conduit=None if is_metric else _conduit_for(cores, run.spare),
        gland=_gland_for(size, len(cores) + run.spare, is_screened=run.screen is not None)
        if size is not None and is_metric
        else None,
        screen=run.screen,
        diameter_mm=_diameter(size, len(cores) + run.spare, run) if size is not None else 0.0,
    )


def _diameter(size: ConductorSize, cores: int, run: Run) -> float:
    if not size.metric:
        return outer_diameter_mm(size.mm2) * sqrt(cores)
    return cable_entries.cable_diameter_mm(cores, size.mm2, is_screened=run.screen is not None)


def _gland_for(size: ConductorSize, cores: int, *, is_screened: bool) -> Gland | None:
    return cable_entries.gland_for(cable_entries.cable_diameter_mm(cores, size.mm2, is_screened=is_screened))


def _conduit_for(cores: list[Conductor], spare: int) -> Conduit | None:
    """Return the smallest conduit for the cores pulled as single conductors, earth and spare ones counted.

    Source:
        NEC Chapter 9 Tables 1, 4 and 5, from memory; equipment grounding conductors count: Note 3.
    """
    counts = Counter(core.size.awg for core in cores if not core.size.metric)
    if not cores or counts.total() < len(cores) or not counts.keys() <= nec.conduit_conductors():
        return None
    counts[cores[0].size.awg] += spare
    pairs = tuple(counts.items())
    size = nec.conduit_trade_size(pairs)
    return Conduit(trade_size=size, fill_percent=nec.conduit_fill_percent(pairs, size)) if size is not None else None
