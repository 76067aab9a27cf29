"""Owns what the words of a script mean in a panel: devices, terminals, potentials, lines. Must not know what is done to them."""

from collections.abc import Iterable
from difflib import get_close_matches

from riktig.live.gear import ActionError
from riktig.live.panel import names_of
from riktig.live.rig import terminals_by_name
from riktig.live.simulation import Simulation
from riktig.live.supplies import WayInGear
from riktig.plan.net.numbers import Potential


def _nearest(word: str, known: Iterable[str]) -> str:
    near = get_close_matches(word, list(known), n=1, cutoff=0.5)
    return f"; the nearest is {near[0]}" if near else ""


class Names:
    """What is called how in a panel that is simulated."""

    def __init__(self, simulation: Simulation) -> None:
        self._simulation = simulation
        plan = simulation.plan
        self._devices = {name: device for name, device in names_of(plan).items() if device in simulation.gears}
        self._terminals = terminals_by_name(plan)
        self._potentials = {name: p for p in plan.potentials for name in (*p.net.names, p.number)}
        self._lines = {
            (line if feed is simulation.ways_in[0] else f"{feed.id}.{line}"): (feed, line)
            for feed in simulation.ways_in
            for line in feed.terminals
        }

    def has_device(self, word: str) -> bool:
        """Return whether a device that does anything is called so."""
        return word in self._devices

    def device(self, word: str) -> str:
        """Return the device of that tag or name.

        Raises:
            ActionError: nothing is called so.
        """
        if word not in self._devices:
            raise ActionError(f"nothing is called {word}{_nearest(word, self._devices)}")
        return self._devices[word]

    def terminal(self, word: str) -> str:
        """Return the terminal that is written so, TAG:MARK.

        Raises:
            ActionError: there is none.
        """
        if word not in self._terminals:
            raise ActionError(f"there is no terminal {word}{_nearest(word, self._terminals)}")
        return self._terminals[word]

    def potential(self, word: str) -> Potential | None:
        """Return the potential of that number or name, None where there is none."""
        return self._potentials.get(word)

    def terminal_of(self, word: str) -> str:
        """Return a terminal of the potential of that number or name, or the terminal that is written so.

        Raises:
            ActionError: there is none.
        """
        potential = self._potentials.get(word)
        return potential.net.terminals[0] if potential is not None else self.terminal(word)

    def line(self, word: str) -> tuple[WayInGear, str] | None:
        """Return the way in and the conductor of it that is called so, None where none is."""
        return self._lines.get(word)

    @property
    def door_switches(self) -> tuple[str, ...]:
        """The switches that the door of the enclosure moves."""
        devices = self._simulation.plan.circuit.devices
        return tuple(d.id for d in devices if d.kind == "limit-switch" and d.wants.get("use") == "enclosure")

    def has_level(self, word: str) -> bool:
        """Return whether a level of the job is called so."""
        return any(level.name == word for level in self._simulation.plan.job.levels)

    def floats(self, word: str) -> list[tuple[str, float]]:
        """Return the floats of a level, each with its height in m.

        Raises:
            ActionError: there is no such level.
        """
        found = [
            (device.id, device.settings["level_m"])
            for device in self._simulation.plan.circuit.devices
            if "level_m" in device.settings and word in {device.owner, device.id.rpartition(".")[0]}
        ]
        if not found:
            raise ActionError(f"there is no level {word}")
        return found

    def tag(self, device: str) -> str:
        """Return what people call a device."""
        return self._simulation.plan.tags.get(device, device)
