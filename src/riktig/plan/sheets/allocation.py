"""Owns which sheet and lane every figure of the circuit stands in. Must not draw.

Sheets are A3, 420 x 297 mm, with ten lanes: columns 0 to 9 across, or on control sheets of the ladder school lines 1 to 10 down.
Sheets below 10 are for cover, contents and overview; each kind of sheet begins at a multiple of ten, so that a job can grow.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from riktig.catalogue.model import ElementKind, Part
from riktig.job.entries import SheetPlace
from riktig.job.ledger import Choices, merge_choices
from riktig.job.model import Job
from riktig.job.paths import Ref
from riktig.job.practice import Standard
from riktig.plan.circuit.model import Circuit
from riktig.plan.circuit.uses import holds_marks
from riktig.plan.sheets.building import build_figures
from riktig.plan.sheets.figures import (
    LANES,
    Branch,
    Figure,
    Fork,
    Spot,
    Step,
    Tie,
    fork_lanes,
    side_lanes,
)

FIRST_SHEET = 10
WORKED_BY_COIL = frozenset({"contactor", "relay", "timer"})
"""Kinds of devices whose contacts follow their coil."""
MOST_LETTERS = 9
GROUPS_PER_STARTER = 4
"""Running groups of power numbers (12L1 12L2 12L3) that a starter has about."""
LEAST_SPARE = 2
SPARE_SHARE = 4
"""Of so many sheets one number is left free behind them."""
WELL_FILLED = 6
"""With so many lanes in use a sheet ends where the next owner does not fit on it whole."""


class School(StrEnum):
    """How control circuits are drawn: current paths down numbered columns, or rungs across numbered lines."""

    COLUMNS = "columns"
    RUNGS = "rungs"


class Section(StrEnum):
    """Kinds of sheets of the circuit, in their order."""

    POWER = "power"
    CONTROL = "control"
    CONTROLLER = "controller"


_SECTIONS = tuple(Section)


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A sheet, its kind, and a lane counted from 0."""

    sheet: int
    lane: int
    section: Section
    school: School

    @property
    def is_line(self) -> bool:
        """Whether the lane is a line of a ladder."""
        return self.school is School.RUNGS and self.section is not Section.POWER

    @property
    def label(self) -> str:
        """How others refer to it: sheet.column, or the number of the line with its sheet in front."""
        return str(100 * self.sheet + self.lane + 1) if self.is_line else f"{self.sheet}.{self.lane}"

    @property
    def column(self) -> int:
        """The column from 0, or the line from 1."""
        return self.lane + 1 if self.is_line else self.lane

    @property
    def words(self) -> str:
        """The place in words."""
        return f"sheet {self.sheet}, {'line' if self.is_line else 'column'} {self.column}"

    def moved(self, lanes: int) -> "Place":
        """Return the place some lanes further on."""
        return Place(sheet=self.sheet, lane=self.lane + lanes, section=self.section, school=self.school)


Mention = tuple[str, int]
"""Key of a path, and the column of a ref in it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetSet:
    """Figures with their places by key, and where each mention of a device stands."""

    figures: tuple[Figure, ...]
    places: Mapping[str, Place]
    mentions: Mapping[Mention, Place]

    def sheets(self) -> tuple[int, ...]:
        """Return the numbers of the sheets in the order in which they lie."""
        found = {(_SECTIONS.index(p.section), p.sheet) for p in self.places.values()}
        return tuple(sheet for _, sheet in sorted(found))

    def on(self, sheet: int) -> tuple[Figure, ...]:
        """Return the figures of a sheet by lane."""
        mine = [f for f in self.figures if self.places[f.key].sheet == sheet]
        return tuple(sorted(mine, key=lambda f: self.places[f.key].lane))


def school_of(job: Job) -> School:
    """Return how the control circuits of a job are drawn: as its practice says, else ladders in the North American world."""
    if job.practice.drawing is not None:
        return School(job.practice.drawing)
    return School.RUNGS if job.practice.standard is Standard.UL else School.COLUMNS


def lane_walk(branch: Branch, lane: int = 0) -> Iterator[tuple[Spot | Tie, int]]:
    """Yield every spot and tie of a branch, its forks and what hangs from it, each with its lane."""
    yield from _walk(branch.steps, branch.width, lane)
    for side, at in side_lanes(branch, lane):
        yield from lane_walk(side, at)


def _walk(steps: tuple[Step, ...], width: int, lane: int) -> Iterator[tuple[Spot | Tie, int]]:
    for step in steps:
        if isinstance(step, Fork):
            for branch, at in fork_lanes(step, width, lane):
                yield from _walk(branch, width, at)
        else:
            yield step, lane


def spot_walk(figure: Figure) -> Iterator[tuple[Spot, int]]:
    """Yield every spot of a figure with its lane."""
    return ((step, lane) for step, lane in lane_walk(figure.trunk) if isinstance(step, Spot))


def section_of(figure: Figure, circuit: Circuit) -> Section:
    """Return on which kind of sheet a figure stands; with a channel of a controller in it, on the controller's."""
    if figure.is_power:
        return Section.POWER
    for spot, _ in spot_walk(figure):
        device = circuit.index.get(spot.ref.device)
        if device is not None and device.kind == "plc":
            return Section.CONTROLLER
    return Section.CONTROL


def order_figures(circuit: Circuit, job: Job) -> tuple[Figure, ...]:
    """Return figures as a person orders them: the way in and what watches it, motors, supplies, what stays live; in control what
    enables others before it, starters, alarms.
    """
    return tuple(sorted(build_figures(circuit, number_letters(job)), key=lambda f: _rank(f, job)))


def number_letters(job: Job) -> int:
    """Return how many letters the wire numbers of power sheets are taken to have: prefix, and what the school makes of them."""
    by_place = job.practice.numbering in {"sheet-column", "line"}
    grouped = max(len(str(GROUPS_PER_STARTER * len(job.starters))), 2) + len("L1")
    return min(len(job.practice.number_prefix) + max(grouped, 5 if by_place else 0), MOST_LETTERS)


def _rank(figure: Figure, job: Job) -> int:
    owner = figure.owner or ""
    if figure.key == "incoming" or owner == "incoming":
        return 0
    if owner == "phase_lamps" or any(owner == m.name for m in (*job.phase_relays, *job.surges)):
        return 1
    if any(owner == estop.name for estop in job.estops):
        return 2
    if job.starter(owner) is not None:
        return 3
    if job.control(owner) is not None:
        return 4
    return 6 if any(owner == x.name for x in job.excepted) else 5


# -- allocation


@dataclass(slots=True)
class _Sheet:
    """A sheet as it fills: figures by key with (lane, lanes, whether held)."""

    section: Section
    taken: dict[str, tuple[int, int, bool]] = field(default_factory=dict)

    @property
    def used(self) -> int:
        return sum(lanes for _, lanes, _ in self.taken.values())

    def fits(self, lanes: int) -> bool:
        return self.used + lanes <= LANES

    def insert(self, key: str, lanes: int, after: int, *, is_held: bool = False) -> bool:
        """Put a figure at a lane or as soon behind it as there is room, moving others on that are not held; return whether it went."""
        before = dict(self.taken)
        self.taken[key] = (after, lanes, is_held)
        if self.fits(0) and self._settle(key):
            return True
        self.taken = before
        return False

    def _settle(self, newest: str) -> bool:
        """Make room: each figure stays or moves on as little as it must, and back where that runs off the sheet."""
        row = sorted(self.taken.items(), key=lambda item: (item[1][0], item[0] != newest))
        starts, at = {}, 0
        for key, (lane, lanes, is_held) in row:
            if is_held and at > lane:
                return False
            starts[key] = at = lane if is_held else max(lane, at)
            at += lanes
        limit = LANES
        for key, (_, lanes, is_held) in reversed(row):
            if starts[key] + lanes > limit:
                if is_held or limit - lanes < 0:
                    return False
                starts[key] = limit - lanes
            limit = starts[key]
        self.taken = {key: (starts[key], lanes, is_held) for key, (_, lanes, is_held) in row}
        return True


def find_sections(circuit: Circuit, figures: tuple[Figure, ...]) -> dict[str, Section]:
    """Return the kind of sheet of each figure by its key."""
    return {figure.key: section_of(figure, circuit) for figure in figures}


def allocate_sheets(
    figures: tuple[Figure, ...], sections: Mapping[str, Section], kept: Choices
) -> dict[str, SheetPlace]:
    """Return figure -> sheet and lane: what the ledger holds stays on its sheet, and in its lane while there is room.

    What is new stands behind what it follows where that sheet has room; else it goes to a new sheet, with the rest of its owner if
    that fits. What a release holds does not move.
    """
    sheets: dict[int, _Sheet] = {}
    where: dict[str, int] = {}
    _keep(figures, sections, kept, sheets, where)
    for section in _SECTIONS:
        _fill(section, [f for f in figures if sections[f.key] is section], sheets, where)
    return {
        figure.key: SheetPlace(where[figure.key], sheets[where[figure.key]].taken[figure.key][0]) for figure in figures
    }


def _keep(
    figures: tuple[Figure, ...],
    sections: Mapping[str, Section],
    kept: Choices,
    sheets: dict[int, _Sheet],
    where: dict[str, int],
) -> None:
    """Put figures where the ledger has them, the held ones first."""
    stood = {f.key: kept[f.key].value for f in figures if f.key in kept}
    order = {key: (place.sheet, place.lane) for key, place in stood.items()}
    known = [f for f in figures if f.key in order]
    for figure in sorted(known, key=lambda f: (not kept[f.key].is_held, order[f.key])):
        number, lane = order[figure.key]
        sheet = sheets.setdefault(number, _Sheet(sections[figure.key]))
        fits = sheet.section is sections[figure.key] and sheet.fits(figure.lanes)
        if fits and sheet.insert(figure.key, figure.lanes, lane, is_held=kept[figure.key].is_held):
            where[figure.key] = number


def _fill(section: Section, figures: list[Figure], sheets: dict[int, _Sheet], where: dict[str, int]) -> None:
    """Place what is new of a section, owner by owner."""
    last: str | None = None
    spill: int | None = None
    for index, figure in enumerate(figures):
        if figure.key not in where:
            number = where[last] if last is not None else None
            together = 0
            for mate in figures[index:]:
                if mate.owner != figure.owner or mate.key in where:
                    break
                together += mate.lanes
            starts_owner = last is not None and figures[index - 1].owner != figure.owner
            is_wanted_whole = starts_owner and together <= LANES
            candidates = [
                n
                for n in (number, spill)
                if n is not None
                and sheets[n].fits(together if is_wanted_whole and sheets[n].used >= WELL_FILLED else figure.lanes)
            ]
            placed = next((n for n in candidates if _put(sheets[n], figure, last)), None)
            if placed is None:
                placed = spill = _next_number(section, sheets)
                sheets[placed] = _Sheet(section)
                assert sheets[placed].insert(figure.key, figure.lanes, 0)
            where[figure.key] = placed
        last = figure.key


def _put(sheet: _Sheet, figure: Figure, last: str | None) -> bool:
    """Put a figure behind the one it follows, or where else on the sheet there is room."""
    before = sheet.taken.get(last or "")
    after = before[0] + before[1] if before is not None else max((s + n for s, n, _ in sheet.taken.values()), default=0)
    lanes = (min(after, LANES - figure.lanes), *range(LANES - figure.lanes + 1))
    return any(sheet.insert(figure.key, figure.lanes, lane) for lane in lanes)


def _next_number(section: Section, sheets: Mapping[int, _Sheet]) -> int:
    """Return the next free number of a section; a new section begins at the next ten behind those before it, with room to grow."""
    own = [n for n, sheet in sheets.items() if sheet.section is section]
    if own:
        number = max(own) + 1
        return number if number not in sheets else max(sheets) + 1
    if not sheets:
        return FIRST_SHEET
    spare = max(LEAST_SPARE, len(sheets) // SPARE_SHARE)
    return -(-(max(sheets) + 1 + spare) // 10) * 10


def read_sheets(job: Job, figures: tuple[Figure, ...], sections: Mapping[str, Section], kept: Choices) -> SheetSet:
    """Return the sheets as the ledger has them. What it does not know, as in a job that is not settled or was kept before sheets had
    places, stands where there is room.
    """
    if any(figure.key not in kept for figure in figures):
        kept = merge_choices(kept, allocate_sheets(figures, sections, kept))
    school = school_of(job)
    places: dict[str, Place] = {}
    mentions: dict[Mention, Place] = {}
    for figure in figures:
        at = kept[figure.key].value
        place = Place(sheet=at.sheet, lane=at.lane, section=sections[figure.key], school=school)
        places[figure.key] = place
        for spot, offset in spot_walk(figure):
            for path, ref in spot.mentions():
                mentions[(path, ref.column)] = place.moved(offset)
    return SheetSet(figures=figures, places=places, mentions=mentions)


def device_places(circuit: Circuit, sheets: SheetSet, parts: Mapping[str, Part]) -> dict[str, Place]:
    """Return where each device is drawn: a contactor, relay or timer at its coil, others at their main poles, then at their coil, else
    where they are first met.
    """
    found: dict[str, Place] = {}
    best: dict[str, int] = defaultdict(lambda: 9)
    for figure in sheets.figures:
        for spot, _ in spot_walk(figure):
            for path, ref in spot.mentions():
                device = ref.device
                rank = 1 if figure.is_power else 3
                if _is_coil(ref, parts[device]):
                    rank = 0 if circuit.device(device).kind in WORKED_BY_COIL else 2
                if rank < best[device]:
                    best[device] = rank
                    found[device] = sheets.mentions[(path, ref.column)]
    return found


def _is_coil(ref: Ref, part: Part) -> bool:
    """Return whether a mention is that of a coil, by its word or its marks."""
    if ref.marks is None:
        return ref.what == "coil"
    return any(e.kind is ElementKind.COIL and holds_marks(e, ref.marks) for e in part.elements)
