"""Owns where a terminal is: plate, door, or a drop at the far end of a cable. Must not know geometry."""

from collections.abc import Iterable
from functools import cache

from riktig.job.ids import TerminalId
from riktig.plan.circuit.model import DOOR, PLATE, Circuit, CircuitDevice, stands_alone

INCOMING = "incoming"
"""The drop from which the supply comes in."""


def zone_of(device: CircuitDevice) -> str:
    """Return `plate`, `door`, a location (its box), or `LOCATION/DEVICE` for a device with its own cable."""
    if device.location in {PLATE, DOOR}:
        return device.location
    return f"{device.location}/{device.id}" if stands_alone(device) else device.location


def zones_of(circuit: Circuit) -> dict[str, str]:
    """Return device id -> zone in drawing order."""
    return {device.id: zone_of(device) for device in circuit.devices}


@cache
def device_of(terminal: str) -> str:
    """Return the device id of a terminal id (`M1.K:A1` -> `M1.K`)."""
    return terminal.rpartition(":")[0]


def mark_of(terminal: str) -> str:
    """Return the mark of a terminal id (`M1.K:A1` -> `A1`)."""
    return terminal.rpartition(":")[2]


def by_zone(terminals: Iterable[TerminalId], zones: dict[str, str]) -> dict[str, list[TerminalId]]:
    """Return the terminals of a potential parted by zone, order kept."""
    parted: dict[str, list[TerminalId]] = {}
    for terminal in terminals:
        parted.setdefault(zones[device_of(terminal)], []).append(terminal)
    return parted


def is_drop(zone: str) -> bool:
    """Return whether a zone lies at the far end of a cable."""
    return zone not in {PLATE, DOOR}
