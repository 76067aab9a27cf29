"""Owns what a conductor carries where it lies, and the smallest one that carries a current. Must not know circuits."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from math import exp, inf, log

from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.standards import iec_60204_1, nec, ul_508a
from riktig.standards.tables import Source, own_digests
from riktig.units.conductor_size import AWG_SIZES, ConductorSize, awg_area_mm2, from_awg, from_mm2
from riktig.units.numbers import format_number

INSIDE = "b1"
"""Single conductors in the panel's ducts, as IEC 60204-1 calls the method; cables lie as `b2`, `c` or `e`."""
METHODS = {"conduit": "b2", "wall": "c", "tray": "e"}
_LARGEST_C60_A = 100.0
"""Circuits of more than so many A may use the 75 degC column whatever terminals are marked: NEC 110.14(C)(1)."""
"""Temperature in degC that terminals in North American panels are marked for (common practice, no source)."""
_LEAST_IEC = {True: 1.5, False: 1.0}
_LEAST_UL = {True: "14", False: "16"}
_CP_LEAST = "least section by common practice"
_CABLE_CONDUCTORS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Laid:
    """Where a conductor lies: `method`, air around it in degC, loaded circuits together; `to_load` tells that it is laid outside to what is
    no motor. `groups` are circuits, as the ledger names them, that lie together with more than these in the panel, with how many.
    `terminal_c`: for how many degC terminals are marked.
    """

    is_iec: bool
    metric: bool
    method: str
    air_c: float
    grouped: int
    to_load: bool = False
    groups: tuple[tuple[str, int], ...] = ()
    terminal_c: float = 75.0

    def of(self, *names: str) -> "Laid":
        """Return how the conductors of circuits lie that share them: together with the most of any."""
        more = max((count for name, count in self.groups if name in names), default=0)
        return replace(self, grouped=max(self.grouped, more), groups=())

    @property
    def is_inside(self) -> bool:
        return self.method == INSIDE


def laid_inside(job: Job, choices: Choices) -> Laid:
    """Return how conductors lie in the panel: air as declared, warmer than the ambient; circuits as declared, or as many more as the ledger
    has of the ducts where the shop sizes by these, and never more than there are.

    Args:
        job: its practice, enclosure, starters, ways and devices.
        choices: how many circuits lie together, as the ledger has it.
    """
    enclosure, is_iec = job.enclosure, job.practice.standard == "iec"
    air = enclosure.ambient + enclosure.inside_rise if is_iec else enclosure.ambient
    loads = {device.name for device in job.devices if device.kind in {"motor", "load", "heater"}}
    there = len({starter.name for starter in job.starters} | loads) + len(job.ways)
    laid = Laid(
        is_iec=is_iec, metric=is_metric(job), method=INSIDE, air_c=air, grouped=1, terminal_c=job.practice.terminal_c
    )
    if not is_iec:
        return laid
    groups = choices.items() if job.practice.grouping == "laid" else ()
    together = tuple((name, min(choice.value, there)) for name, choice in groups)
    return replace(laid, grouped=min(job.practice.grouped, max(there, 1)), groups=together)


def laid_outside(job: Job, place: str, *, to_load: bool = False) -> Laid:
    """Return how the cables of a location lie, in the ambient air."""
    found = job.location(place)
    method = METHODS[found.laid] if found is not None else METHODS["conduit"]
    return Laid(
        is_iec=job.practice.standard == "iec", metric=is_metric(job), method=method, air_c=job.enclosure.ambient,
        grouped=found.grouped if found is not None else 1, to_load=to_load, terminal_c=job.practice.terminal_c,
    )  # fmt: skip


def is_metric(job: Job) -> bool:
    """Return whether conductors are bought in mm2; else by AWG."""
    return (job.practice.conductors or ("mm2" if job.practice.standard == "iec" else "awg")) == "mm2"


def _listed(laid: Laid) -> tuple[tuple[ConductorSize, float], ...]:
    return _list_sizes(laid.is_iec, laid.metric, laid.method, laid.terminal_c, own_digests())


@cache
def _list_sizes(
    is_iec: bool, metric: bool, method: str, terminal_c: float, tables: tuple[str, ...]
) -> tuple[tuple[ConductorSize, float], ...]:
    """Return sizes with what the table gives, smaller first, in A at 40 degC (IEC) or 30 degC (NEC 310.16).

    `tables` only tells one set of own tables from another.
    """
    if is_iec:
        metric_pairs = [(m, iec_60204_1.ampacity_a(m, method)) for m in iec_60204_1.listed_sections_mm2()]
        known = [(m, a) for m, a in metric_pairs if a is not None]
        if metric:
            return tuple((from_mm2(m), a) for m, a in known)
        areas = [(from_awg(awg), _between(known, awg_area_mm2(awg))) for awg in AWG_SIZES]
        return tuple((size, round(a, 1)) for size, a in areas if a is not None)
    gauges = [(from_awg(awg), _gauge_a(awg, method, terminal_c) or nec.control_conductor_a(awg)) for awg in AWG_SIZES]
    listed = [(size, a) for size, a in gauges if a is not None]
    if not metric:
        return tuple(listed)
    found = []
    for mm2 in iec_60204_1.listed_sections_mm2():
        smaller = [a for size, a in listed if size.mm2 <= mm2 * 1.03]
        if smaller:
            found.append((from_mm2(mm2), smaller[-1]))
    return tuple(found)


def _gauge_a(awg: str, method: str, terminal_c: float) -> float | None:
    """Return what a gauge carries by the column that terminals allow: of 60 degC up to 100 A where they are marked for no more.

    Source:
        NEC 110.14(C)(1), from memory.
    """
    read = ul_508a.wiring_ampacity_a if method == INSIDE else nec.ampacity_a
    cool = read(awg, nec.terminal_column(0, terminal_c))
    return cool if cool is None or cool <= _LARGEST_C60_A else read(awg, "c75")


def _between(pairs: list[tuple[float, float]], area: float) -> float | None:
    """Return what an area carries between two listed ones: straight lines between the logarithms."""
    for (s0, a0), (s1, a1) in zip(pairs, pairs[1:], strict=False):
        if s0 <= area <= s1:
            return exp(log(a0) + (log(a1) - log(a0)) * (log(area) - log(s0)) / (log(s1) - log(s0)))
    return None


def sizes(laid: Laid) -> tuple[ConductorSize, ...]:
    """Return all sizes for a place, smaller first."""
    return tuple(size for size, _ in _listed(laid))


def factor_of(laid: Laid) -> tuple[float, str]:
    """Return what the table's value is multiplied by, and how that comes about.

    Source:
        IEC 60204-1:2016 Tables D.1 and D.2. UL 508A Table 28.1 holds up to 40 degC; beyond, the ratio of the factors of NEC
        Table 310.15(B)(1) is taken on the safe side, common practice. Field wiring: NEC 310.15(B)(1) and (C)(1).
    """
    if laid.is_iec:
        warm = iec_60204_1.ambient_factor(laid.air_c) or 0.0
        group = iec_60204_1.grouping_factor(laid.grouped, laid.method)
        together = f" · {group:g} ({laid.grouped} circuits together)" if laid.grouped > 1 else ""
        return warm * group, f"{warm:g} ({_air_words(laid, warm)}){together}"
    warm = nec.ambient_factor(laid.air_c) or 0.0
    if laid.is_inside:
        standard = nec.ambient_factor(ul_508a.SURROUNDINGS_C) or 1.0
        factor = min(1.0, warm / standard)
        return factor, f"{factor:.3g} ({laid.air_c:g} °C around the panel)" if factor < 1.0 else "1 (up to 40 °C)"
    shared = nec.shared_raceway_factor(_CABLE_CONDUCTORS * laid.grouped)
    together = f" · {shared:g} ({_CABLE_CONDUCTORS * laid.grouped} conductors together)" if laid.grouped > 1 else ""
    return warm * shared, f"{warm:g} ({_air_words(laid, warm)}){together}"


def _air_words(laid: Laid, warm: float) -> str:
    return f"air {laid.air_c:g} °C" if warm else f"air {laid.air_c:g} °C is beyond the table: PVC carries nothing there"


def source_of(laid: Laid, mm2: float = 0.0) -> str:
    """Return what the ampacity of a size is taken from."""
    found: list[Source | str]
    if laid.is_iec:
        base = iec_60204_1.SOURCE_BEYOND if mm2 > 120 else iec_60204_1.SOURCE_AMPACITY
        found = [base, iec_60204_1.SOURCE_FACTORS]
    else:
        outside = nec.SOURCE_LOAD_CONDUCTOR if laid.to_load else nec.SOURCE_CONDUCTOR
        found = [ul_508a.SOURCE_WIRING if laid.is_inside else outside]
    return "; ".join(str(source) for source in (*found, _CP_LEAST))


def table_a(size: ConductorSize, laid: Laid) -> float | None:
    """Return what the table gives for a size in A, None if it is not listed."""
    return next((amps for listed, amps in _listed(laid) if listed == size), None)


def carries_a(size: ConductorSize, laid: Laid) -> float | None:
    """Return what a size carries in its place in A, None if the table has no such size."""
    amps = table_a(size, laid)
    return None if amps is None else _carried(size, amps, laid)


def _carried(size: ConductorSize, table: float, laid: Laid) -> float:
    return min(table * factor_of(laid)[0], _most_behind_its_device(size, laid))


def _most_behind_its_device(size: ConductorSize, laid: Laid) -> float:
    """Return what the device ahead of a small conductor to a load may be rated for at most, in A.

    Source:
        NEC 240.4(D), from memory; motors are excepted, 240.4(G).
    """
    limit = nec.small_conductor_limit_a(size.awg) if laid.to_load and not laid.is_iec else None
    return limit if limit is not None else inf


def least_size(laid: Laid, *, is_power: bool) -> ConductorSize:
    """Return the smallest size that is used at all.

    Source:
        Common practice; above the least of IEC 60204-1:2016 Table 5, and NFPA 79 12.6, from memory.
    """
    if laid.is_iec:
        least = from_mm2(_LEAST_IEC[is_power])
        return least if laid.metric else from_awg({True: "14", False: "16"}[is_power])
    return from_mm2({True: 2.5, False: 1.5}[is_power]) if laid.metric else from_awg(_LEAST_UL[is_power])


def fitting_sizes(amps: float, laid: Laid, *, is_power: bool) -> Iterator[ConductorSize]:
    """Yield the sizes that carry a current in their place, smaller first."""
    least = least_size(laid, is_power=is_power).mm2 - 1e-6
    for size, table in _listed(laid):
        if size.mm2 >= least and _carried(size, table, laid) >= amps - 1e-9:
            yield size


def choose_size(amps: float, laid: Laid, *, is_power: bool) -> ConductorSize | None:
    """Return the smallest size that carries a current in its place, None if none does."""
    return next(fitting_sizes(amps, laid, is_power=is_power), None)


def largest_size(laid: Laid) -> ConductorSize:
    """Return the largest size listed."""
    return _listed(laid)[-1][0]


def carry_words(size: ConductorSize, laid: Laid, needed: float) -> str:
    """Return the formula of what a size carries, beside what is needed."""
    table = table_a(size, laid)
    if table is None:
        return f"{size.label()} is not listed, needed {format_number(needed)} A"
    factor, words = factor_of(laid)
    carried, most = table * factor, _most_behind_its_device(size, laid)
    limit = f", behind {most:g} A at most" if most < carried else ""
    return (
        f"{size.label()}: {table:g} A · {words} = {format_number(carried)} A{limit}, needed {format_number(needed)} A"
    )
