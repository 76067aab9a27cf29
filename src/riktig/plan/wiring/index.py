"""Owns what is asked of a circuit and its wires again and again, by where it is. Must not decide anything."""

from collections import defaultdict
from collections.abc import Hashable, Iterable, Mapping
from typing import TypeVar

from riktig.job.ids import WireId
from riktig.plan.circuit.uses import Use
from riktig.plan.circuit.zones import device_of
from riktig.plan.net.numbers import Potential
from riktig.plan.net.strips import Clamp
from riktig.plan.wiring.conductors import Conductor

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


def gather(pairs: Iterable[tuple[K, V]]) -> dict[K, tuple[V, ...]]:
    """Return all values of each key, in their order."""
    found: defaultdict[K, list[V]] = defaultdict(list)
    for key, value in pairs:
        found[key].append(value)
    return {key: tuple(values) for key, values in found.items()}


def by_terminal(potentials: tuple[Potential, ...]) -> dict[str, Potential]:
    """Return the potential of each device terminal in use; strip terminals and clamps of bars are none."""
    return {terminal: potential for potential in potentials for terminal in potential.net.terminals}


def by_clamp(clamps: tuple[Clamp, ...]) -> dict[str, Clamp]:
    """Return the strip terminals by their ids."""
    return {clamp.id: clamp for clamp in clamps}


def landed_at(conductors: tuple[Conductor, ...]) -> dict[str, tuple[Conductor, ...]]:
    """Return the conductors and other joins at each terminal, strip terminal and clamp of a bar, in working order."""
    return gather((end, conductor) for conductor in conductors for end in (conductor.a, conductor.b))


def landed_on_device(conductors: tuple[Conductor, ...]) -> dict[str, tuple[Conductor, ...]]:
    """Return the conductors and other joins of each device, strip or bar, each once, in working order."""
    return gather((device, c) for c in conductors for device in dict.fromkeys((device_of(c.a), device_of(c.b))))


def with_new(
    index: Mapping[str, tuple[Conductor, ...]], new: Mapping[WireId, Conductor], *, is_by_device: bool
) -> dict[str, tuple[Conductor, ...]]:
    """Return such an index with some conductors replaced by others between the same terminals."""
    ends = {end for conductor in new.values() for end in (conductor.a, conductor.b)}
    keys = {device_of(end) for end in ends} if is_by_device else ends
    return {**index, **{key: tuple(new.get(c.id, c) for c in index[key]) for key in keys}}


def by_device(uses: tuple[Use, ...]) -> dict[str, tuple[Use, ...]]:
    """Return the mentions of each device in the circuit, in drawing order."""
    return gather((use.device, use) for use in uses)
