"""Owns whether a block distributes the main conductors, and how many clamps it and the earth bar have. Must not know numbers or places."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace
from math import inf

from riktig.catalogue.model import ElementKind, Part
from riktig.job.model import Job
from riktig.job.paths import Nodes, Path, Ref, nodes_of
from riktig.plan.basis.strength import PANEL_PROTECTION
from riktig.plan.circuit.model import EARTH_BAR, PLATE, Circuit, CircuitDevice, bar_for, place_of_block

MORE_CLAMPS = 3
"""The feed of a block, the wire to the door, and a spare (common practice, no source)."""
_MORE_EARTHS = 2
"""The earth that comes in, and a spare."""
FEEDING = frozenset({"Q0", PANEL_PROTECTION, "incoming.K"})
"""What leads the whole current of the panel on."""
_CONTROL_MM2 = 2.5


def feeding_of(job: Job) -> frozenset[str]:
    """Return what leads the whole current of the panel, or of a further supply, on."""
    return FEEDING | {f"{extra.name}.Q" for extra in job.extra_supplies if extra.isolated == "here"}


def with_blocks(
    circuit: Circuit, job: Job, parts: Mapping[str, Part], mains: Mapping[str, tuple[float, float]]
) -> Circuit:
    """Return the circuit with a block for each line and neutral of each supply where its practice wants them, or where the main
    conductors fit the clamps of something that they lead to no more; one ahead of the main switch too where excepted circuits begin
    there. Once there it stays, and none comes after a release.

    Args:
        circuit: without blocks.
        job: the Job.
        parts: part by device, for their clamps.
        mains: by supply, "" the main one, the section of its main conductors in mm2 and what they carry in A.

    Source:
        Main conductors go to a block and from there to each device: common practice, no source.
    """
    made: list[CircuitDevice] = []
    supplies = {"": job.supply.conductors}
    supplies |= {extra.name: tuple(f"{extra.name}.{c}" for c in extra.conductors) for extra in job.extra_supplies}
    for supply, names in supplies.items():
        mm2, amps = mains[supply]
        ahead = () if supply else _ahead(job, circuit)
        if _is_wanted(circuit, job, parts, mm2, (*names, *ahead)):
            lines = (*names, *ahead, *(() if supply else _between(job, circuit, parts)))
            made.extend(_blocks(circuit, lines, frozenset(names), mm2, amps))
    devices = (*circuit.devices, *made)
    return replace(circuit, devices=devices, index={device.id: device for device in devices}) if made else circuit


def _is_wanted(circuit: Circuit, job: Job, parts: Mapping[str, Part], mm2: float, names: tuple[str, ...]) -> bool:
    """Return whether blocks distribute main conductors of a section in mm2; `names` are the lines, and those ahead of the switch."""
    wish = job.practice.distribution
    if wish == "chain" or (wish == "block" and names[0] in job.supply.conductors):
        return wish == "block"
    is_there = bar_for(names[0]) in job.ledger.parts
    return is_there or (job.revision is None and mm2 > _least_clamp_mm2(circuit, job, parts, frozenset(names)) + 1e-9)


def _blocks(
    circuit: Circuit, names: tuple[str, ...], behind: frozenset[str], mm2: float, amps: float
) -> Iterator[CircuitDevice]:
    """Yield a block for each line; `behind` are those behind all of the way in."""
    paths = [path.items for path in circuit.paths if path.is_power]
    for name in names:
        alike = {name, *(other for pair in circuit.joins if name in pair for other in pair)}
        taps = sum(bool(alike.intersection(nodes.names)) for items in paths for nodes in nodes_of(items))
        words = name if name in behind else _PLACES[place_of_block(bar_for(name))] + re.split("[._]", name)[-1]
        least = {"clamps": float(taps + MORE_CLAMPS), "amps": amps, "mm2": mm2}
        yield CircuitDevice(id=bar_for(name), kind="busbar", location=PLATE, title=f"Distribution {words}", least=least)


def with_earth_bar(circuit: Circuit, parts: Mapping[str, Part]) -> Circuit:
    """Return the circuit with an earth bar that has a clamp for each earth terminal and bond, one for the earth that comes in, and a spare.

    Args:
        circuit: with or without blocks.
        parts: part by device, for their terminals.

    Source:
        One conductor in each clamp of the earth bar: IEC 60204-1 13.1.1, NFPA 79 13.1.1, from memory.
    """
    ends = sum(
        len(element.marks)
        for device, part in parts.items()
        for element in part.elements
        if element.kind is ElementKind.EARTH and device != EARTH_BAR
    )
    bonds = sum("PE" in nodes.names for path in circuit.paths for nodes in nodes_of(path.items))
    bar = replace(circuit.index[EARTH_BAR], least={"clamps": float(ends + bonds + _MORE_EARTHS)})
    devices = tuple(bar if device.id == EARTH_BAR else device for device in circuit.devices)
    return replace(circuit, devices=devices, index={device.id: device for device in devices})


_PLACES = {
    "in": "ahead of the main switch, 0",
    "@Q0p": "ahead of the panel's protection, P",
    "@Q0": "ahead of the main contactor, 1",
}
"""Where a block stands that is not behind all of the way in, with what its line is called there."""


def _between(job: Job, circuit: Circuit, parts: Mapping[str, Part]) -> list[str]:
    """Return the lines between main switch and main contactor that something taps where no bolt takes a thin wire beside a main one.

    Source:
        A clamp holds one section: common practice, no source.
    """
    led = [name for path in circuit.paths for nodes in nodes_of(path.items) for name in nodes.names]
    found = []
    for before, device in (("@Q0p", PANEL_PROTECTION), ("@Q0", "incoming.K")):
        part = parts.get(device)
        is_bolted = part is None or any(t.clamp.clamp == "bolt" for t in part.terminals)
        lines = [f"{before}_{line}" for line in job.supply.lines]
        found += [line for line in lines if not is_bolted and led.count(line) > _LED_THROUGH]
    return found


_LED_THROUGH = 2
"""So often the way in names a line between two of its devices."""


def _ahead(job: Job, circuit: Circuit) -> tuple[str, ...]:
    """Return the lines ahead of the main switch where excepted circuits are led from any of them."""
    led = {name for path in circuit.paths if path.is_excepted for nodes in nodes_of(path.items) for name in nodes.names}
    names = tuple(f"in.{line}" for line in job.supply.lines)
    return names if led.intersection(names) else ()


def _least_clamp_mm2(circuit: Circuit, job: Job, parts: Mapping[str, Part], names: frozenset[str]) -> float:
    """Return the largest section that every device takes which some lines lead to."""
    devices = {device for path in circuit.paths if path.is_power for device in _beside(path.items, names)}
    fed = [parts[device] for device in devices - feeding_of(job) if parts[device].terminals]
    found = [max(terminal.clamp.mm2_max for terminal in part.terminals) for part in fed]
    is_main = not names.isdisjoint(job.supply.conductors)
    if is_main and ("incoming.K" in circuit.index or any(control.kind == "direct" for control in job.controls)):
        found.append(_CONTROL_MM2)
    return min(found, default=inf)


def _beside(items: Path, names: frozenset[str]) -> Iterator[str]:
    """Yield the devices next to a node of one of these names."""
    for place, item in enumerate(items):
        if isinstance(item, Nodes) and not names.isdisjoint(item.names):
            for other in (*items[max(place - 1, 0) : place], *items[place + 1 : place + 2]):
                if isinstance(other, Ref):
                    yield other.device
