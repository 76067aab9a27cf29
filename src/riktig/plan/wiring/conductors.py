"""Owns every conductor: ends, size, colour, route, length, marks, stage and batch. Must not decide who joins whom."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import ceil
from typing import Any

from riktig.job.ids import TerminalId, WireId
from riktig.job.model import Job
from riktig.job.practice import Standard
from riktig.job.stated import Colours
from riktig.pipeline.rows import by_row
from riktig.plan.circuit.model import DOOR, PLATE
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.numbers import Potential, natural_key
from riktig.plan.net.runs import Band, Runs, zone_of_run
from riktig.plan.net.signals import Signals
from riktig.plan.place.routes import DuctNetwork, Leg
from riktig.plan.sizes.sections import Sections
from riktig.plan.wiring.geometry import LANDING_MM, TAIL_MM, Geometry, direct_mm
from riktig.plan.wiring.links import HINGE, Link
from riktig.standards.colours import ConductorFunction, conductor_colour
from riktig.units.conductor_size import ConductorSize

LOCAL_MM = 2000.0
"""A cable from an isolator to the motor beside it (common practice, no source)."""
HINGE_LOOP_MM = 250.0
BOX_PITCH_MM = 60.0
_STAGES = (
    "incoming", "distribution", "feeds", "earth", "control", "signals", "field", "door",
)  # fmt: skip
STAGE_TITLES = {
    "incoming": "Incoming mains",
    "distribution": "Distribution and neutrals",
    "feeds": "Feeds and motor circuits",
    "earth": "Earth",
    "control": "Control",
    "signals": "Signals, screened",
    "field": "Field side",
    "door": "Door loom",
}
"""Stages in working order; field side and door come last so that they lie on top (common practice, no source)."""


_FUNCTIONS = {function: place for place, function in enumerate(ConductorFunction)}
"""Where the colour of each function stands in the palette of a job."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """A direct join of two terminals. `id` is the unordered pair of terminal ids and an ordinal.

    `kind` is wire, core, bridge, comb or link; `location` plate, door, hinge, a location, or the cable's name. Lengths in mm;
    a link, bridge or comb has none. `legs` is its way through the ducts; `screened` are the numbers of a signal that lie with it under
    one screen, "" where it has none.
    """

    id: WireId
    number: str
    kind: str
    a: TerminalId
    b: TerminalId
    location: str
    size: ConductorSize
    colour: str
    length_mm: float
    legs: tuple[Leg, ...]
    stage: str
    batch: str
    screened: str = ""

    @property
    def is_wired(self) -> bool:
        """Whether it is cut and landed: a wire or a core."""
        return self.kind in {"wire", "core"}

    @property
    def is_inside_one(self) -> bool:
        """Whether it is a join inside one bar, block or rail, of which nobody makes anything."""
        return self.kind == "link" and device_of(self.a) == device_of(self.b)

    @property
    def laid_mm(self) -> float:
        """Its length once it is landed, without the dressing at its ends, in mm."""
        return max(self.length_mm - 2 * (LANDING_MM if self.way == "direct" else TAIL_MM), 0.0)

    @property
    def route(self) -> tuple[str, ...]:
        """The duct codes in order."""
        return tuple(leg.duct for leg in self.legs)

    @property
    def way(self) -> str:
        """How it goes, as people read it: the ducts in order, straight from one device to the next, or the place where it lies."""
        if self.legs:
            return f"through {' '.join(self.route)}"
        return "direct" if self.kind == "wire" and self.location == PLATE else self.location


@dataclass(frozen=True, slots=True)
class Ways:
    """Where terminals are, the ducts between them, and by number those that wires of a potential keep out of."""

    geometry: Geometry
    network: DuctNetwork
    shunned: Mapping[str, frozenset[str]]

    def lengths(self, number: str, zone: str, terminals: list[TerminalId]) -> Any:
        """Return the mm to cut between each two terminals of a potential in a zone, n x n, None where places are not known (in boxes)."""
        return self.geometry.lengths(zone, list(terminals), self.network, self.shunned.get(number, frozenset()))


def size_links(
    links: tuple[Link, ...], sections: Sections, runs: Runs, taps: Mapping[str, ConductorSize]
) -> tuple[ConductorSize, ...]:
    """Return the size of each link.

    Args:
        links: who is joined to whom.
        sections: sizes by potential and drop.
        runs: which run a potential takes to a place; a jumper there is of the size of the cable's cores.
        taps: size by the key of the link, where it is not that of its potential.
    """
    found = []
    for link in links:
        run = _drop_of(link)
        if run is None and link.where not in {PLATE, DOOR, HINGE}:
            run = runs.key_for(link.where, link.number)
        core = sections.core_of(run) if run is not None else None
        found.append(core if core is not None else taps.get(link.key, sections.inside[link.number]))
    return tuple(found)


def build_conductors(
    job: Job,
    links: tuple[Link, ...],
    sizes: tuple[ConductorSize, ...],
    potentials: tuple[Potential, ...],
    ways: Ways,
    cables: Mapping[str, str],
    signals: Signals,
) -> tuple[Conductor, ...]:
    """Return all conductors in working order: by stage, batch, then number.

    Args:
        job: its supply, practice, locations and excepted circuits.
        links: who is joined to whom.
        sizes: the size of each link.
        potentials: all potentials.
        ways: where terminals are, and the ducts.
        cables: cable name by run.
        signals: what is led in screened pairs.
    """
    screened = _screened(links, signals)
    by_number = {p.number: p for p in potentials}
    distances = {place.name: place.distance for place in job.locations}
    excepted = frozenset(circuit.name for circuit in job.excepted)
    grounded = job.supply.grounded_line
    palette = tuple(colour_in(job.colours, function, job.practice.standard) for function in ConductorFunction)
    ordinals: Counter[str] = Counter()
    made: list[tuple[tuple[int, str, tuple[Any, ...]], Conductor]] = []
    for link, size in zip(links, sizes, strict=True):
        key, drop = link.key, _drop_of(link)
        ordinals[key] += 1
        colour = (excepted, palette, grounded)
        ends = _ends_of(link, ways, distances)
        cable = cables[drop] if drop is not None else None
        within = (cable, screened.get(key, ""))
        row = _row((key, ordinals[key]), link, size, by_number[link.number], colour, ends, within)
        made.append(row)
    made.sort(key=lambda row: row[0])
    return tuple(conductor for _, conductor in made)


def colour_in(house: Colours, function: ConductorFunction, standard: Standard) -> str:
    """Return the insulation colour of a conductor: that of the house, else as the standard says."""
    own: str | None = getattr(house, function.name.lower())
    return own or conductor_colour(function, standard)


def _screened(links: tuple[Link, ...], signals: Signals) -> dict[str, str]:
    """Return by the key of each link that is a signal in the panel the numbers that lie with it under one screen."""
    together: dict[frozenset[str], list[Link]] = {}
    for link in links:
        if link.is_wired and link.where in {PLATE, HINGE} and signals.is_led(link.number, link.a, link.b):
            together.setdefault(frozenset((device_of(link.a), device_of(link.b))), []).append(link)
    return {
        link.key: " ".join(sorted({one.number for one in members}, key=natural_key))
        for members in together.values()
        for link in members
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class _Ends:
    """What the way of a link depends on: where its ends are, in which row each stands, and the ducts; in a cable its
    length in mm. `middles` are where along their ducts the things are that its ends belong to, `shunned` ducts that it keeps out of.
    """

    places: tuple[Any, ...]
    rows: tuple[int | None, int | None]
    network: DuctNetwork | None
    cable_mm: float = 0.0
    middles: tuple[float, float] | None = None
    shunned: frozenset[str] = frozenset()


def _ends_of(link: Link, ways: Ways, distances: Mapping[str, float]) -> _Ends:
    geometry, rows = ways.geometry, ways.geometry.plate.row_of
    drop = _drop_of(link)
    if drop is not None:
        if drop.endswith(f"~{Band.LOCAL.value}"):
            return _Ends(places=(), rows=(None, None), network=None, cable_mm=LOCAL_MM)
        place = zone_of_run(drop).split("/")[0]
        return _Ends(places=(), rows=(None, None), network=None, cable_mm=1000.0 * distances.get(place, 20.0))
    shunned = ways.shunned.get(link.number, frozenset())
    standing = rows.get(device_of(link.a)), rows.get(device_of(link.b))
    if link.where == PLATE and link.is_wired:
        at_a, at_b = geometry.access(link.a), geometry.access(link.b)
        if geometry.is_direct(link, at_a, at_b):
            corners = geometry.corners(link.a, link.b, at_a, at_b)
            return _Ends(places=(at_a, at_b, *corners), rows=standing, network=None)
        middles = (geometry.middle(link.a, at_a), geometry.middle(link.b, at_b))
        return _Ends(places=(at_a, at_b), rows=standing, network=ways.network, middles=middles, shunned=shunned)
    if link.where == HINGE and link.is_wired:
        hinge = geometry.hinge
        places = (geometry.access(link.a), hinge, geometry.from_hinge(link.b, hinge[1]))
        return _Ends(places=places, rows=standing, network=ways.network, shunned=shunned)
    if link.where == DOOR and link.is_wired:
        return _Ends(places=(geometry.door_point(link.a), geometry.door_point(link.b)), rows=standing, network=None)
    return _Ends(places=(), rows=standing, network=None)


@by_row
def _row(
    name: tuple[str, int],
    link: Link,
    size: ConductorSize,
    potential: Potential,
    colour: tuple[frozenset[str], tuple[str, ...], str | None],
    ends: _Ends,
    within: tuple[str | None, str],
) -> tuple[tuple[int, str, tuple[Any, ...]], Conductor]:
    """Return a conductor, before it what orders it: stage, batch, number; `within` are its cable, and the numbers
    under one screen in the panel.
    """
    (key, ordinal), (cable, screened) = name, within
    excepted, palette, grounded = colour
    stage = "signals" if screened and link.where == PLATE else _stage_of(link, potential)
    batch = f"{stage} screened {screened}" if screened else _batch_of(link, stage, ends.rows, cable)
    legs, length = _measure(link, ends)
    conductor = Conductor(
        id=WireId(f"{key} {ordinal}"), number=link.number, a=link.a, b=link.b, kind=_kind_of(link), location=cable or link.where, size=size,
        colour=palette[_FUNCTIONS[_function_of(link, potential, excepted, grounded)]], length_mm=length, legs=legs, stage=stage,
        batch=batch, screened=screened,
    )  # fmt: skip
    return (_STAGES.index(stage), batch, natural_key(link.number)), conductor


def _drop_of(link: Link) -> str | None:
    """Return the run of a link in a cable, None of another."""
    return link.where.removeprefix("cable:") if link.where.startswith("cable:") else None


def _kind_of(link: Link) -> str:
    is_core = link.is_wired and link.where.startswith("cable:")
    return "core" if is_core else link.means.value


def _function_of(link: Link, potential: Potential, excepted: frozenset[str], grounded: str | None) -> ConductorFunction:
    """Return what a conductor is for: one that leads a line from ahead of the switch to an excepted circuit is excepted, its neutral or
    grounded return too; a line that is grounded at its source is one all the way.
    """
    function = potential.net.function
    owners = {owner for end in (link.a, link.b) if (owner := device_of(end).rpartition(".")[0])}
    if function is ConductorFunction.EXCEPTED and any(f"@{name}_2" in potential.net.names for name in excepted):
        return ConductorFunction.EXCEPTED_RETURN
    if function is ConductorFunction.NEUTRAL and owners & excepted:
        return ConductorFunction.EXCEPTED_NEUTRAL
    if function is not ConductorFunction.POWER:
        return function
    lines = {name.removeprefix("in.") for name in potential.net.names if not name.startswith("@")}
    if grounded is not None and (grounded in lines or (not lines and potential.net.phase == grounded)):
        return ConductorFunction.GROUNDED_LINE
    return ConductorFunction.EXCEPTED if owners & excepted else function


def _measure(link: Link, ends: _Ends) -> tuple[tuple[Leg, ...], float]:
    """Return the way through the ducts, none outside the plate, and the length to cut in mm."""
    if not link.is_wired:
        return (), 0.0
    if link.where.startswith("cable:"):
        return (), _round_up(ends.cable_mm)
    if link.where == DOOR:
        (ax, ay), (bx, by) = ends.places
        return (), _round_up(abs(ax - bx) + abs(ay - by) + 2 * TAIL_MM)
    if link.where not in {PLATE, HINGE}:
        return (), _round_up(BOX_PITCH_MM + 2 * TAIL_MM)
    if ends.network is None:
        a, b, *corners = ends.places
        return (), _round_up(direct_mm(a, b, corners) + 2 * LANDING_MM)
    if link.where == PLATE:
        a, b = ends.places
        route, beyond = ends.network.route((a.duct, a.at), (b.duct, b.at), ends.middles, ends.shunned), b.tail
    else:
        a, hinge, across = ends.places
        route, beyond = ends.network.route((a.duct, a.at), hinge, None, ends.shunned), HINGE_LOOP_MM + across
    return route.legs, _round_up(route.length + a.tail + beyond + 2 * TAIL_MM)


def measure_again(conductors: tuple[Conductor, ...], ways: Ways, moved: frozenset[str] | None) -> tuple[Conductor, ...]:
    """Return the same conductors with their ways and lengths on another plate or door; cores stay as long as their cables.

    Args:
        conductors: all of them.
        ways: where their ends are now, and the ducts now.
        moved: the devices that moved while the ducts stayed, None where anything may have.
    """
    made = []
    for c in conductors:
        is_touched = moved is None or device_of(c.a) in moved or device_of(c.b) in moved
        if is_touched and c.kind == "wire" and c.location in {PLATE, DOOR, HINGE}:
            link = Link(a=c.a, b=c.b, number=c.number, where=c.location)
            legs, length = _measure(link, _ends_of(link, ways, {}))
            if (length, legs) != (c.length_mm, c.legs):
                c = replace(c, length_mm=length, legs=legs)  # noqa: PLW2901 the same conductor, measured again
        made.append(c)
    return tuple(made)


def led_round(
    conductors: tuple[Conductor, ...], ways: Ways, shunned: Mapping[str, frozenset[str]]
) -> tuple[Conductor, ...]:
    """Return the same conductors where some keep out of other uprights, or of none any more.

    Args:
        conductors: all of them, as they go by `ways`.
        ways: where their ends are, the ducts, and what potentials keep out of.
        shunned: what potentials keep out of now.
    """
    led = Ways(ways.geometry, ways.network, shunned)
    changed = {number for number in {*shunned, *ways.shunned} if shunned.get(number) != ways.shunned.get(number)}
    return tuple(measure_again((c,), led, None)[0] if c.number in changed else c for c in conductors)


def _round_up(mm: float) -> float:
    return float(ceil(mm / 10) * 10)


def _stage_of(link: Link, potential: Potential) -> str:
    function = potential.net.function
    if link.where.startswith("cable:"):
        return "field"
    if link.where in {HINGE, DOOR}:
        return "door"
    if link.where != PLATE:
        return "field"
    if function is ConductorFunction.EARTH:
        return "earth"
    if any(name.startswith("in.") for name in potential.net.names) and potential.number.startswith("in."):
        return "incoming"
    if potential.net.is_line and function in {ConductorFunction.POWER, ConductorFunction.NEUTRAL}:
        return "distribution"
    return "feeds" if function in {ConductorFunction.POWER, ConductorFunction.NEUTRAL} else "control"


def _batch_of(link: Link, stage: str, rows: tuple[int | None, int | None], cable: str | None) -> str:
    """Return the bundle a conductor is cut and laid with: same stage, same two rows."""
    if cable is not None:
        return f"{stage} {cable}"
    elsewhere = link.where if link.where != HINGE else "door"
    first, second = sorted(f"row {row + 1}" if row is not None else elsewhere for row in rows)
    return f"{stage} {first} - {second}"
