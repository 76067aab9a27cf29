"""Owns what a derived function test is, and what it says of what it does not reach. Must not derive anything."""

from dataclasses import dataclass
from typing import Any

from riktig.job.scripts import Script
from riktig.live.coverage import Coverage
from riktig.plan.circuit.zones import device_of
from riktig.plan.wiring.conductors import Conductor


@dataclass(frozen=True, slots=True, kw_only=True)
class Derived:
    """A function test: its steps, of each for what it is there, and what it reaches."""

    script: Script
    why: tuple[str, ...]
    coverage: Coverage


def why_left(coverage: Coverage, device: str) -> str:
    """Return why nothing of a test reaches a contact or conductor at a device."""
    return _WHY.get(
        _kind(coverage, device), "nothing that was tried brings it about: think of a way, or measure it dead"
    )


def is_excused(coverage: Coverage, device: str) -> bool:
    """Return whether nobody asks a function test for what is left at a device."""
    return _kind(coverage, device) in _WHY


def _kind(coverage: Coverage, device: str) -> str:
    """Return the kind of a device, of what protects a surge arrester that of the arrester."""
    index = coverage.plan.circuit.index
    owner = index.get(index[device].owner or "") if device in index else None
    return "surge" if owner is not None and owner.kind == "surge" else index[device].kind if device in index else ""


_WHY = {
    "surge": "a surge arrester leads nothing in a sound panel: continuity proves its leads",
    "plc": "an input or signal draws next to nothing: measure its volts",
    "drive": "a signal draws next to nothing: measure its volts",
}


def as_document(derived: Derived) -> dict[str, Any]:
    """Return a function test as JSON: steps with what each is for, and what it reaches of contacts and conductors."""
    coverage, label = derived.coverage, derived.coverage.plan.terminal_label
    unmoved, idle = coverage.unmoved, coverage.idle
    return {
        "title": derived.script.title,
        "steps": [
            {"do": list(step.do), "expect": list(step.expect), "never": list(step.never), "for": why}
            for step, why in zip(derived.script.steps, derived.why, strict=True)
        ],
        "contacts": {
            "all": len(coverage.contacts), "moved": len(coverage.contacts) - len(unmoved),
            "never": [
                {"from": label(a), "to": label(b), "because": why_left(coverage, device_of(a))}
                for a, b in (coverage.contacts[name] for name in unmoved)
            ],
        },
        "conductors": {
            "all": len(coverage.conductors), "carried": len(coverage.conductors) - len(idle),
            "never": [
                {"number": wire.number, "from": label(wire.a), "to": label(wire.b), "because": _why_idle(coverage, wire)} for wire in idle
            ],
        },
    }  # fmt: skip


def _why_idle(coverage: Coverage, wire: Conductor) -> str:
    devices = [device_of(end) for end in (wire.a, wire.b) if device_of(end) in coverage.plan.circuit.index]
    known = [why_left(coverage, device) for device in devices if _kind(coverage, device) in _WHY]
    return known[0] if known else why_left(coverage, devices[0]) if devices else "it leads to nothing that can be on"
