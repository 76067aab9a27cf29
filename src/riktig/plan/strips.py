"""Owns terminal strips: one clamp for each conductor that leaves the panel. Must not know where strips stand."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from riktig.catalogue.loader import parts_of_kind
from riktig.catalogue.model import Part
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.circuit import DOOR, EARTH_BAR, Circuit
from riktig.plan.incoming import led_in
from riktig.plan.numbers import Potential
from riktig.plan.zones import INCOMING, by_zone, is_drop, zones_of
from riktig.standards.colours import ConductorFunction

SUPPLY_STRIP, POWER_STRIP, CONTROL_STRIP, DOOR_STRIP = "X0", "X1", "X2", "X3"
STRIP_TAGS = (SUPPLY_STRIP, POWER_STRIP, CONTROL_STRIP, DOOR_STRIP)
END_PARTS_MM = 19.0
_VALUE = re.compile(r"^(\S+):(\d+)$")


@dataclass(frozen=True, slots=True, kw_only=True)
class Clamp:
    """A strip terminal: `X1:3` joins a potential (by number) to the conductor of one drop."""

    strip: str
    label: str
    number: str
    drop: str
    is_earth: bool

    @property
    def id(self) -> str:
        """Its terminal id."""
        return f"{self.strip}:{self.label}"


def wanted_clamps(job: Job, circuit: Circuit, potentials: tuple[Potential, ...]) -> list[tuple[str, str, str]]:
    """Return (strip, drop, number) for each conductor that leaves the panel, in the order it should stand."""
    zones = zones_of(circuit)
    power = {zones[d.id] for d in circuit.devices if d.kind == "motor"}
    found: list[tuple[int, int, str, str, str]] = []
    order = {drop: place for place, drop in enumerate(dict.fromkeys(zones.values()))}
    coming_in = led_in(job)
    for potential in potentials:
        parted = by_zone(potential.net.terminals, zones)
        is_earth = potential.net.function is ConductorFunction.EARTH
        if potential.number in coming_in:
            found.append((0, -1, SUPPLY_STRIP, INCOMING, potential.number))
        for zone in parted:
            leaves = is_drop(zone) or (zone == DOOR and job.practice.door == "terminals" and not is_earth)
            if not leaves or (len(parted) == 1 and not is_earth) or (is_earth and job.practice.earth == "bar"):
                continue
            strip = POWER_STRIP if zone in power else DOOR_STRIP if zone == DOOR else CONTROL_STRIP
            place = 1_000_000 if is_earth else potential.net.met_at[0] * 500_000 + potential.net.met_at[1]
            found.append((order[zone], place, strip, zone, potential.number))
    return [(strip, drop, number) for _, _, strip, drop, number in sorted(found, key=lambda f: (f[2], f[0], f[1]))]


def allocate_clamps(job: Job, circuit: Circuit, potentials: tuple[Potential, ...], kept: Choices) -> dict[str, str]:
    """Return `drop|number` -> `X1:3`; a clamp stays where it is, a new one stands behind the last of its strip."""
    wanted = wanted_clamps(job, circuit, potentials)
    result: dict[str, str] = {}
    last: dict[str, int] = {}
    for choice in kept.values():
        match = _VALUE.match(choice.value)
        if match:
            last[match[1]] = max(last.get(match[1], 0), int(match[2]))
    for strip, drop, number in wanted:
        key = f"{drop}|{number}"
        before = kept.get(key)
        if before is not None and before.value.startswith(f"{strip}:"):
            result[key] = before.value
            continue
        last[strip] = last.get(strip, 0) + 1
        result[key] = f"{strip}:{last[strip]}"
    return result


def read_clamps(potentials: tuple[Potential, ...], clamps: Choices) -> tuple[Clamp, ...]:
    """Return the clamps in the ledger, strip by strip as they stand on the rail; earth bar clamps left out."""
    earth = {p.number for p in potentials if p.net.function is ConductorFunction.EARTH}
    found = []
    for key, choice in clamps.items():
        drop, number = key.rsplit("|", 1)
        if drop == EARTH_BAR:
            continue
        strip, label = choice.value.split(":")
        found.append(Clamp(strip=strip, label=label, number=number, drop=drop, is_earth=number in earth))
    return tuple(sorted(found, key=lambda c: (c.strip, int(c.label))))


def clamp_part(clamp: Clamp, mm2: float) -> Part:
    """Return the terminal that takes a conductor of `mm2`: the smallest that is large enough, else the largest."""
    kind = "earth-terminal" if clamp.is_earth else "terminal"
    parts = parts_of_kind(kind)
    return next((part for part in parts if part.rating("mm2") >= mm2), parts[-1])


def strip_width_mm(clamps: list[Clamp], mm2: Mapping[str, float]) -> float:
    """Return the width of a strip with its end plate and two end stops.

    Args:
        clamps: the clamps of one strip.
        mm2: section by clamp id.
    """
    return sum(clamp_part(c, mm2[c.id]).width for c in clamps) + END_PARTS_MM
