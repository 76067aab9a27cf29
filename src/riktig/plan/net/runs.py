"""Owns the cable runs to the field: which conductors share a cable, by voltage band and screen. Must not know strips or lengths."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from riktig.catalogue.model import ElementKind, Part
from riktig.job.model import Job
from riktig.plan.circuit.incoming import led_in
from riktig.plan.circuit.model import PLATE, Circuit
from riktig.plan.circuit.zones import by_zone, device_of, is_drop, mark_of, zones_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.signals import OF_MAINS, Signals
from riktig.standards.colours import ConductorFunction

STANDARD_CORES = (2, 3, 4, 5, 7, 12, 18, 25, 34, 50)
PAIR_CORES = (2, 4, 8, 12, 16, 20, 24, 32, 40)
SPARE_SHARE = 0.1
_FEW_CORES = 5
ELV_AC_V, ELV_DC_V = 50.0, 120.0
_OF_ELECTRONICS = frozenset({ElementKind.SENSOR, ElementKind.INPUT, ElementKind.ENABLE, ElementKind.SOURCE})


class Band(StrEnum):
    """What may share a cable: mains (band II), control beside a screened or thick motor cable, extra-low voltage (band I), signals.

    Source:
        IEC 60364-5-52, 528.1: band I and band II not in one cable unless all of it is insulated for the higher; limits of
        extra-low voltage 50 V AC and 120 V DC: IEC 60364-4-41, 414.1; from memory. Signals by themselves, and the contact of a large
        isolator, which takes no thick core, and what goes on from an isolator to its motor: common practice, no source.
    """

    MAINS = "mains"
    CONTROL = "control"
    ELV = "elv"
    SIGNAL = "signal"
    LOCAL = "local"


_RANK = tuple(Band)
_THICK_FROM_A = 25.0
"""Cores to an isolator of more than this are thicker than its auxiliary contact takes."""
_WORDS = {
    Band.CONTROL: "control",
    Band.ELV: "extra-low voltage",
    Band.SIGNAL: "signals",
    Band.LOCAL: "from its isolator",
}


class Screen(StrEnum):
    """How the screen of a cable is treated at its ends.

    Source:
        Motor cable of a drive: all round at both ends; signal pairs: at the panel end alone; common practice, no source.
    """

    BOTH = "both ends"
    PANEL = "panel end"

    @property
    def at_panel(self) -> str:
        """What is done with it in the panel."""
        return (
            "bared and clamped all round to the plate beside the drive"
            if self is Screen.BOTH
            else "clamped to earth where the cable enters, and led on to where its cores land"
        )

    @property
    def at_far_end(self) -> str:
        """What is done with it at the far end."""
        return (
            "all round in the metal gland of the motor's box"
            if self is Screen.BOTH
            else "cut back and insulated, joined to nothing"
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """A cable that the circuit wants, between the panel, or the isolator at `origin`, and the place `zone`.

    `key` is what the ledger calls it: the zone, behind it the band where that is not mains. `numbers` are the potentials that it
    carries, earth last. `is_direct`: its cores land on a device in the panel, not on a strip; `is_control`: it carries more than power.
    """

    key: str
    zone: str
    band: Band
    numbers: tuple[str, ...]
    screen: Screen | None = None
    is_direct: bool = False
    is_control: bool = True
    origin: str = ""

    @property
    def spare(self) -> int:
        """How many cores more the next standard cable has: in control cables of more than five at least 10 %; none where no
        standard cable is large enough.

        Source:
            Common practice, no source; numbers of cores as cables are commonly made.
        """
        used = len(self.numbers)
        wanted = used * (1 + SPARE_SHARE) if self.is_control and used > _FEW_CORES else used
        sizes = PAIR_CORES if self.band is Band.SIGNAL else STANDARD_CORES
        return next((n for n in sizes if n >= wanted), used) - used


def zone_of_run(key: str) -> str:
    """Return the place at the far end of a run."""
    return key.partition("~")[0]


def run_words(key: str) -> str:
    """Return a run as people read it: the place, and the band where that is not mains."""
    zone, _, band = key.partition("~")
    return f"{zone} {_WORDS[Band(band)]}" if band else zone


class Runs:
    """All runs, which of them a potential takes to a place, and what is led as signals."""

    def __init__(self, runs: tuple[Run, ...], signals: Signals | None = None) -> None:
        self.all, self.signals = runs, signals or Signals()
        self._key = {(run.zone, number): run.key for run in runs for number in run.numbers}
        self._of: dict[str, list[Run]] = {}
        for run in runs:
            for number in run.numbers:
                self._of.setdefault(number, []).append(run)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Runs) and (self.all, self.signals) == (other.all, other.signals)

    __hash__ = None  # type: ignore[assignment]

    def key_for(self, zone: str, number: str) -> str:
        """Return the run that a potential takes to a zone; the zone's own where it takes none."""
        return self._key.get((zone, number), zone)

    def of(self, number: str) -> tuple[Run, ...]:
        """Return the runs that a potential takes."""
        return tuple(self._of.get(number, ()))

    def local(self, number: str) -> list[Run]:
        """Return the runs of a potential that begin at an isolator in the field."""
        return [run for run in self._of.get(number, ()) if run.origin]

    def direct(self, number: str) -> list[Run]:
        """Return the runs that land a potential on a device in the panel."""
        return [run for run in self._of.get(number, ()) if run.is_direct]


def find_runs(
    job: Job, circuit: Circuit, parts: Mapping[str, Part], potentials: tuple[Potential, ...], signals: Signals
) -> Runs:
    """Return the runs in the order of their zones in the drawing, bands apart; earth goes in the first of its zone, from the panel too
    where an isolator on the way takes none.
    """
    zones = zones_of(circuit)
    wanted: dict[str, dict[Band, list[Potential]]] = {}
    earths: dict[str, str] = {}
    fed_by_drives = set()
    signals_of: dict[str, str] = {}
    coming_in = led_in(job)
    isolators = {
        zones[d.id]: d.id for d in circuit.devices if d.kind == "disconnect" and d.id in parts and is_drop(zones[d.id])
    }
    local = _local_runs(potentials, zones, isolators)
    of_local = {number for _, numbers in local.values() for number in numbers}
    for potential in potentials:
        if potential.number in of_local:
            continue
        parted = by_zone(potential.net.terminals, zones)
        is_earth = potential.net.function is ConductorFunction.EARTH
        for zone in filter(is_drop, parted):
            if is_earth:
                earths[zone] = potential.number
            elif len(parted) > 1 or potential.number in coming_in:
                is_signal = potential.number in signals.numbers or (zone, potential.number) in signals.outside
                band = Band.SIGNAL if is_signal else band_of(potential, job, parts)
                wanted.setdefault(zone, {}).setdefault(band, []).append(potential)
        if len(parted) == 2 and _is_drive_output(parted.get(PLATE, []), parts):
            fed_by_drives.add(potential.number)
        landed = {device_of(terminal) for terminal in parted.get(PLATE, ())}
        if len(parted) == 2 and len(landed) == 1:
            signals_of[potential.number] = landed.pop()
    for zone in wanted.keys() & _shared_zones(job, circuit, zones):
        if Band.MAINS in wanted[zone]:
            wanted[zone][Band.MAINS] += wanted[zone].pop(Band.ELV, [])
    order = {zone: place for place, zone in enumerate(dict.fromkeys(zones.values()))}
    thick = {zone for zone, device in isolators.items() if parts[device].rating("amps") > _THICK_FROM_A}
    runs: list[Run] = []
    for zone in sorted({*wanted, *earths, *local}, key=lambda z: order[z]):
        earth = earths.get(zone)
        led_on = zone in local and local[zone][0] in earths
        if zone in wanted or zone not in local or (earth is not None and not led_on):
            beside = None if led_on else earth
            found = _runs_of(zone, wanted.get(zone, {}), beside, fed_by_drives, is_thick=zone in thick)
            runs.extend(_landed_direct(run, signals_of) for run in found)
        if zone in local:
            origin, numbers = local[zone]
            is_screened = any(run.zone == origin and run.screen is Screen.BOTH for run in runs)
            runs.append(
                Run(
                    key=f"{zone}~{Band.LOCAL.value}", zone=zone, band=Band.LOCAL, origin=origin, is_control=False,
                    numbers=(*numbers, *([earth] if earth is not None and led_on else [])), screen=Screen.BOTH if is_screened else None,
                )
            )  # fmt: skip
    return Runs(tuple(runs), signals)


def _shared_zones(job: Job, circuit: Circuit, zones: Mapping[str, str]) -> set[str]:
    """Return the zones to which extra-low voltage goes in one cable with mains and control, as the job says of their places."""
    shared = {place.name for place in job.locations if place.bands == "shared"}
    return {zones[device.id] for device in circuit.devices if device.location in shared} if shared else set()


def _local_runs(
    potentials: tuple[Potential, ...], zones: Mapping[str, str], isolators: Mapping[str, str]
) -> dict[str, tuple[str, list[str]]]:
    """Return by place what comes to it from an isolator in the field: that isolator's place, and the potentials between the two."""
    found: dict[str, tuple[str, list[str]]] = {}
    for potential in potentials:
        parted = by_zone(potential.net.terminals, dict(zones))
        ends = [zone for zone in parted if is_drop(zone)]
        if potential.net.function not in OF_MAINS or len(ends) != 2 or len(parted) != 2:
            continue
        origin = next((zone for zone in ends if zone in isolators), None)
        if origin is not None:
            target = next(zone for zone in ends if zone != origin)
            place = found.setdefault(target, (origin, []))
            if place[0] == origin:
                place[1].append(potential.number)
    return found


def _runs_of(
    zone: str, by_band: Mapping[Band, list[Potential]], earth: str | None, fed_by_drives: set[str], *, is_thick: bool
) -> Iterator[Run]:
    parted = {band: list(members) for band, members in by_band.items()}
    is_direct = any(p.number in fed_by_drives for p in parted.get(Band.MAINS, ()))
    mains = parted.get(Band.MAINS, [])
    if is_direct:
        power = [p for p in mains if p.number in fed_by_drives]
    else:
        power = [p for p in mains if not is_thick or p.net.function in OF_MAINS]
    if power and len(power) < len(mains):
        parted |= {Band.MAINS: power, Band.CONTROL: [p for p in mains if p not in power]}
    if not parted:
        parted = {Band.MAINS: []}
    for place, band in enumerate(sorted(parted, key=_RANK.index)):
        members = parted[band]
        numbers = [p.number for p in members] + ([earth] if earth is not None and place == 0 else [])
        is_motor = is_direct and band is Band.MAINS
        yield Run(
            key=zone if band is Band.MAINS else f"{zone}~{band.value}",
            zone=zone,
            band=band,
            numbers=tuple(numbers),
            screen=Screen.BOTH if is_motor else Screen.PANEL if band is Band.SIGNAL else None,
            is_direct=is_motor,
            is_control=any(p.net.function not in OF_MAINS for p in members),
        )


def _landed_direct(run: Run, signals_of: Mapping[str, str]) -> Run:
    """Return a run of signals as one that lands on its device, so that the screen goes with it past the power in the ducts, where all of
    it belongs to one device in the panel (common practice, no source); others as they are.

    Args:
        run: a run from the panel.
        signals_of: the device on the plate of each potential that is at one alone there.
    """
    ends = {signals_of.get(number) for number in run.numbers}
    if run.band is not Band.SIGNAL or len(ends) != 1 or None in ends:
        return run
    return replace(run, is_direct=True)


def band_of(potential: Potential, job: Job, parts: Mapping[str, Part]) -> Band:
    """Return whether a potential is at the voltage of the mains or at extra-low voltage."""
    kinds = {kind for t in potential.net.terminals for kind in _kinds_at(t, parts)}
    if potential.net.function in OF_MAINS:
        return Band.MAINS
    control = job.control(potential.net.supply) if potential.net.supply is not None else None
    if ElementKind.SENSOR in kinds or (control is None and kinds & _OF_ELECTRONICS):
        return Band.ELV
    if control is None:
        is_low = potential.net.function in {ConductorFunction.CONTROL_DC, ConductorFunction.CONTROL_DC_RETURN}
        return Band.ELV if is_low else Band.MAINS
    volts = control.volts or (24.0 if control.is_dc else job.supply.volts)
    return Band.ELV if volts <= (ELV_DC_V if control.is_dc else ELV_AC_V) else Band.MAINS


def _is_drive_output(terminals: Sequence[str], parts: Mapping[str, Part]) -> bool:
    """Return whether terminals on the plate are the outgoing side of one drive."""
    return len(terminals) == 1 and any(
        element.kind is ElementKind.CONVERTER and mark_of(terminals[0]) == element.marks[-1]
        for element in parts[device_of(terminals[0])].elements
        if parts[device_of(terminals[0])].kind == "drive"
    )


def _kinds_at(terminal: str, parts: Mapping[str, Part]) -> Iterator[ElementKind]:
    """Yield what sorts of element end at a terminal."""
    part, mark = parts.get(device_of(terminal)), mark_of(terminal)
    if part is not None:
        yield from (element.kind for element in part.elements if mark in element.marks)
