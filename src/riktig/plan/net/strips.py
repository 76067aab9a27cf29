"""Owns terminal strips: one clamp for each conductor that leaves the panel. Must not know where strips stand."""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from math import ceil

from riktig.catalogue.loader import parts_of_kind
from riktig.catalogue.model import Part
from riktig.job.entries import ClampPlace
from riktig.job.faults import Fault, JobError
from riktig.job.ids import TerminalId, terminal_id
from riktig.job.ledger import Choices, ChoiceState
from riktig.job.model import Job
from riktig.plan.circuit.incoming import led_in
from riktig.plan.circuit.model import DOOR, Circuit, is_bar
from riktig.plan.circuit.zones import INCOMING, by_zone, zones_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.runs import Band, Runs, run_words
from riktig.standards.colours import ConductorFunction

SUPPLY_STRIP, POWER_STRIP, CONTROL_STRIP, DOOR_STRIP, ELV_STRIP = "X0", "X1", "X2", "X3", "X4"
STRIP_PURPOSES = {
    SUPPLY_STRIP: "supply",
    POWER_STRIP: "motors and power",
    CONTROL_STRIP: "control",
    DOOR_STRIP: "door",
    ELV_STRIP: "extra-low voltage and signals",
}
END_STOP_MM, END_PLATE_MM = 8.0, 3.0
END_PARTS_MM = 2 * END_STOP_MM + END_PLATE_MM
"""An end stop on each side of a strip and an end plate on the open side of its last terminal."""
SPARE = "spare"


@dataclass(frozen=True, slots=True, kw_only=True)
class Clamp:
    """A strip terminal: `X1:3` joins a potential (by number) to the conductor of one drop: a cable run, the door, the supply.

    `key` is what the ledger calls it. A spare has no number; its drop is the run whose spare core lands on it, or `spare`. `part` counts
    the rails on which its strip stands, where that is wider than one.
    """

    strip: str
    label: str
    number: str
    drop: str
    is_earth: bool
    key: str = ""
    part: int = 1

    @property
    def id(self) -> TerminalId:
        """Its terminal id."""
        return terminal_id(self.strip, self.label)

    @property
    def piece(self) -> str:
        """What of its strip stands on one rail: the strip, or `X1 (2)` of one that is parted."""
        return self.strip if self.part == 1 else f"{self.strip} ({self.part})"

    @property
    def is_spare(self) -> bool:
        """Whether nothing lands on its inside."""
        return not self.number


def clamp_words(clamp: Clamp) -> str:
    """Return what a strip terminal is for, as people read it."""
    if clamp.drop == SPARE:
        return "spare"
    return f"{f'wire {clamp.number}' if clamp.number else 'spare core'} to {run_words(clamp.drop)}"


def strip_names(job: Job) -> dict[str, str]:
    """Return what each strip is called; one whose name a person gave to a device has an A behind it: X1A.

    Raises:
        JobError: that strip was released under its name.
    """
    own = {device.name for device in job.devices}
    taken = [strip for strip in STRIP_PURPOSES if strip in own]
    for strip in taken:
        held = any(c.state is ChoiceState.FROZEN and c.value.strip == strip for c in job.ledger.clamps.values())
        if held:
            message = f"'{strip}' is a terminal strip of this panel that was released: call the device otherwise"
            raise JobError([Fault(at=("device", strip), message=message)])
    return {strip: f"{strip}A" if strip in taken else strip for strip in STRIP_PURPOSES}


def purpose_of(strip: str) -> str:
    """Return what a strip is for."""
    return STRIP_PURPOSES.get(strip.removesuffix("A"), "")


def strip_of(piece: str) -> str:
    """Return the strip of a piece of one; any other name as it is."""
    return piece.partition(" (")[0]


Wanted = tuple[str, str, str]
"""Strip, drop and number of a terminal; a spare core has `spare 1` in place of a number, which no number can be."""


def wanted_clamps(
    job: Job, circuit: Circuit, potentials: tuple[Potential, ...], runs: Runs, names: Mapping[str, str]
) -> list[Wanted]:
    """Return what stands on the strips, in the order it should stand: one terminal for each conductor that leaves the panel, spare
    cores on terminals of their own, and none for the motor cables of drives.

    Source:
        Common practice, no source.
    """
    by_number = {p.number: p for p in potentials}
    zones = zones_of(circuit)
    power = {zones[d.id] for d in circuit.devices if d.kind in {"motor", "disconnect"}}
    coming_in = led_in(job)
    found: list[Wanted] = [(SUPPLY_STRIP, INCOMING, p.number) for p in potentials if p.number in coming_in]
    for run in runs.all:
        if run.is_direct or run.origin:
            continue
        strip = ELV_STRIP if run.band in {Band.ELV, Band.SIGNAL} else CONTROL_STRIP
        strip = POWER_STRIP if run.zone in power and run.band is Band.MAINS else strip
        live = [n for n in run.numbers if by_number[n].net.function is not ConductorFunction.EARTH]
        spares = [f"{SPARE} {place}" for place in range(1, run.spare + 1)]
        earths = [n for n in run.numbers if n not in live and job.practice.earth != "bar"]
        found.extend((strip, run.key, number) for number in (*live, *spares, *earths))
    if job.practice.door == "terminals":
        found.extend((DOOR_STRIP, DOOR, number) for number in _to_the_door(potentials, zones))
    return sorted(((names[strip], drop, number) for strip, drop, number in found), key=lambda f: f[0])


def _to_the_door(potentials: tuple[Potential, ...], zones: dict[str, str]) -> Iterator[str]:
    """Yield the potentials that lead on to the door; earth goes there straight."""
    for potential in potentials:
        parted = by_zone(potential.net.terminals, zones)
        if DOOR in parted and len(parted) > 1 and potential.net.function is not ConductorFunction.EARTH:
            yield potential.number


class _Row:
    """The places of one strip: which are free as spares, where it ends, whether a release holds it."""

    def __init__(self) -> None:
        self.last, self.spares, self.is_frozen, self.wanted = 0, list[int](), False, 0

    def take(self, *, is_spare_fit: bool) -> int:
        """Return the place of a new terminal: the first spare, else behind the last."""
        if is_spare_fit and self.spares:
            return self.spares.pop(self.spares.index(min(self.spares)))
        self.last += 1
        return self.last

    def spares_of(self, share: int) -> list[int]:
        """Return the places of its spares: so many are added or let go, of a strip that is held only used up."""
        places = sorted(self.spares)
        if self.is_frozen:
            return places
        missing = range(self.last + 1, self.last + 1 + share - len(places))
        return [*places, *missing][:share]


def _rows_of(kept: Choices) -> dict[str, _Row]:
    """Return the strips as the ledger has them."""
    rows: dict[str, _Row] = defaultdict(_Row)
    for key, choice in kept.items():
        place = choice.value
        row = rows[place.strip]
        row.last = max(row.last, place.position)
        row.is_frozen |= choice.state is ChoiceState.FROZEN
        if key.startswith(f"{SPARE}|"):
            row.spares.append(place.position)
    return rows


def allocate_clamps(
    job: Job, circuit: Circuit, potentials: tuple[Potential, ...], runs: Runs, names: Mapping[str, str], kept: Choices
) -> dict[str, ClampPlace]:
    """Return `drop|number` -> terminal, spares `spare|X1 9` among them.

    A terminal stays where it is, a new one takes the first spare of its strip, else stands behind the last. Spares are added up to
    the share that the practice wants, until a release holds the strip: from then on they are used up.
    """
    result: dict[str, ClampPlace] = {}
    rows = _rows_of(kept)
    earths = {p.number for p in potentials if p.net.function is ConductorFunction.EARTH}
    for strip, drop, number in wanted_clamps(job, circuit, potentials, runs, names):
        key, row = f"{drop}|{number}", rows[strip]
        row.wanted += 1
        before = kept.get(key)
        stays = before is not None and before.value.strip == strip
        result[key] = (
            before.value if before and stays else ClampPlace(strip, row.take(is_spare_fit=number not in earths))
        )
    for strip, row in rows.items():
        if row.wanted:
            is_supply = purpose_of(strip) == STRIP_PURPOSES[SUPPLY_STRIP]
            share = 0 if is_supply else ceil(row.wanted * job.practice.spare_terminals / 100 - 1e-9)
            result.update({f"{SPARE}|{strip} {place}": ClampPlace(strip, place) for place in row.spares_of(share)})
    return result


def read_clamps(potentials: tuple[Potential, ...], clamps: Choices) -> tuple[Clamp, ...]:
    """Return the clamps in the ledger, strip by strip as they stand on the rail; earth bar clamps left out."""
    earth = {p.number for p in potentials if p.net.function is ConductorFunction.EARTH}
    found = []
    for key, choice in clamps.items():
        drop, number = key.rsplit("|", 1)
        if is_bar(drop):
            continue
        place = choice.value
        number = "" if " " in number else number
        found.append(
            Clamp(
                strip=place.strip,
                label=str(place.position),
                number=number,
                drop=drop,
                is_earth=number in earth,
                key=key,
            )
        )
    return tuple(sorted(found, key=lambda c: (c.strip, int(c.label))))


def clamp_part(clamp: Clamp, mm2: float) -> Part:
    """Return the terminal that takes a conductor of `mm2`: the smallest that is large enough, else the largest."""
    kind = "earth-terminal" if clamp.is_earth else "terminal"
    parts = parts_of_kind(kind)
    return next((part for part in parts if part.rating("mm2") >= mm2), parts[-1])


def part_strips(clamps: Sequence[Clamp], mm2: Mapping[str, float], most_mm: float) -> tuple[Clamp, ...]:
    """Return the clamps with each strip parted that is wider than a rail has room for: between two cables, within one only where that is
    too wide alone (common practice, no source).
    """
    found: list[Clamp] = []
    for _, members in groupby(clamps, key=lambda c: c.strip):
        part, used = 1, END_PARTS_MM
        for _, cable in groupby(members, key=lambda c: c.drop):
            group = list(cable)
            rest = sum(clamp_part(clamp, mm2[clamp.id]).width for clamp in group)
            for clamp in group:
                wide = clamp_part(clamp, mm2[clamp.id]).width
                is_last = used + (rest if rest + END_PARTS_MM <= most_mm else wide) > most_mm
                if is_last and used > END_PARTS_MM:
                    part, used = part + 1, END_PARTS_MM
                used, rest = used + wide, rest - wide
                found.append(replace(clamp, part=part) if part > 1 else clamp)
    return tuple(found)


def strip_width_mm(clamps: list[Clamp], mm2: Mapping[str, float]) -> float:
    """Return the width of a strip with its end plate and two end stops.

    Args:
        clamps: the clamps of one strip.
        mm2: section by clamp id.
    """
    return sum(clamp_part(c, mm2[c.id]).width for c in clamps) + END_PARTS_MM
