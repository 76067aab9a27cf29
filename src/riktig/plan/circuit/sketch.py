"""Owns the circuit while it is being expanded: devices and paths in drawing order. Must not know what they mean."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TypedDict, Unpack

from riktig.job.model import Job
from riktig.job.paths import parse_path
from riktig.job.roles import RELAY_CONTACTS
from riktig.plan.circuit.model import PLATE, CircuitDevice, CircuitPath

IN_FIELD = {"use": "field"}
"""What stands by itself outside the panel, with cables of its own."""
IN_ENCLOSURE = {"use": "enclosure"}
"""What a switch or thermostat is made for that has its place in the panel itself."""


class Form(TypedDict, total=False):
    """What else may be asked of a part: as the fields of a `CircuitDevice`."""

    poles: int | None
    colour: str | None
    positions: tuple[str, ...] | None
    wants: Mapping[str, str]
    least: Mapping[str, float]
    settings: Mapping[str, float]


@dataclass(slots=True)
class Sketch:
    """A circuit under way. Starters' rungs come first, then those of modules, then a person's own."""

    job: Job
    devices: list[CircuitDevice] = field(default_factory=list)
    incoming: list[CircuitPath] = field(default_factory=list)
    power: list[CircuitPath] = field(default_factory=list)
    control: list[CircuitPath] = field(default_factory=list)
    joins: list[tuple[str, str]] = field(default_factory=list)
    taken: Counter[str] = field(default_factory=Counter)

    def add(self, owner: str, role: str, kind: str, title: str, *, at: str = PLATE, **form: Unpack[Form]) -> str:
        """Add a part of a starter or module and return its id; role "" is the module's bare name, owner "" none."""
        device_id = f"{owner}.{role}" if owner and role else owner or role
        self.devices.append(
            CircuitDevice(
                id=device_id, kind=kind, location=at, title=title, owner=owner or None, role=(role or None) if owner else None,
                **form,
            )
        )  # fmt: skip
        return device_id

    def feed(self, key: str, title: str, text: str, *, owner: str, is_excepted: bool = False) -> None:
        """Add a path of the power circuit."""
        items = parse_path(text, is_feeder=True)
        self.power.append(
            CircuitPath(key=key, title=title, items=items, is_power=True, owner=owner, is_excepted=is_excepted)
        )

    def rung(self, key: str, title: str, text: str, *, owner: str) -> None:
        """Add a path of the control circuit."""
        self.control.append(CircuitPath(key=key, title=title, items=parse_path(text), is_power=False, owner=owner))

    def repeated(self, relay: str, sort: str = "no", each: int = RELAY_CONTACTS) -> str:
        """Return a contact of the next relay in a row (`E1.K`, `E1.K_2` ...) that has one free of its `each`."""
        number = self.taken[relay] // each + 1
        self.taken[relay] += 1
        return f"{relay}{'' if number == 1 else f'_{number}'}:{sort}"


def series(*parts: str) -> str:
    """Return parts of a path in series; empty ones are left out."""
    return " > ".join(part for part in parts if part)


def parallel(*branches: str) -> str:
    """Return branches of a path in parallel; a single one stands by itself."""
    there = [branch for branch in branches if branch]
    return there[0] if len(there) == 1 else f"({' | '.join(there)})"
