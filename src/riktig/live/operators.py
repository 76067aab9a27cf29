"""Owns what hands, levels and temperatures move: buttons, selectors, floats, limit switches. Must not know what they feed."""

from collections.abc import Mapping

from riktig.catalogue.model import Element, Part
from riktig.live.consumers import Consumer
from riktig.live.gear import ActionError, Clock, Gear
from riktig.live.network import Network
from riktig.live.rig import Rig
from riktig.plan.circuit.model import CircuitDevice

LATCHED = frozenset({"emergency-stop", "switch"})


class Operated(Consumer):
    """A button, float, limit switch, thermostat or the like: moved or at rest. An illuminated button has a lamp too."""

    verbs = frozenset({"press", "release", "push", "close", "open", "set"})

    def __init__(self, device: CircuitDevice, part: Part) -> None:
        super().__init__(device, part)
        self.is_moved = part.kind == "limit-switch" and device.wants.get("use") == "enclosure"  # the door is closed

    def apply(self, network: Network) -> None:
        super().apply(network)
        self.contacts.put(network, lambda _: (self.is_moved, self.is_moved))

    def sense(self, clock: Clock) -> None:
        if self.part.kind != "surge":
            super().sense(clock)

    def act(self, verb: str, value: str, clock: Clock) -> None:
        """Press, release, or what levels and temperatures do: close and open (a make contact's words). One that failed stays as it is."""
        if verb not in {"press", "release", "close", "open", "set"}:
            super().act(verb, value, clock)
            return
        moved = verb in {"press", "close"} or (verb == "set" and value not in {"0", "off", ""})
        if not self.has_failed and moved != self.is_moved:
            self.is_moved = moved
            clock.changed(self, "operated" if moved else "released")

    @property
    def states(self) -> frozenset[str]:
        return super().states | {"operated" if self.is_moved else "released"}


class Selector(Gear):
    """A selector switch: one of its positions, or between them; of one with spring return that lets go by itself."""

    verbs = frozenset({"turn"})

    def __init__(self, device: CircuitDevice, part: Part, positions: Mapping[str, str]) -> None:
        super().__init__(device, part)
        self.positions = positions
        """Element (13-14) -> the position in which it is closed."""
        self.position = ""

    def bind(self, rig: Rig) -> None:
        super().bind(rig)

    def apply(self, network: Network) -> None:
        def moved(element: Element) -> tuple[bool, bool]:
            name = "-".join(element.marks[:2])
            is_there = bool(self.position) and self.positions.get(name) == self.position
            return is_there, is_there

        self.contacts.put(network, moved)

    @property
    def choices(self) -> tuple[str, ...]:
        """The positions that it has, from left to right; off lies between two."""
        return self.device.positions or tuple(dict.fromkeys(self.positions.values()))

    def passed(self, value: str) -> tuple[str, ...]:
        """Return the positions through which it goes from where it stands to another: off lies between two, and before a single one."""
        choices = self.choices
        if "off" not in choices:
            choices = (choices[0], "off", *choices[1:]) if len(choices) == 2 else ("off", *choices)
        here = self.position or "off"
        if value not in choices or here not in choices:
            return ()
        first, last = choices.index(here), choices.index(value)
        return choices[first + 1 : last] if first < last else choices[last + 1 : first][::-1]

    def act(self, verb: str, value: str, clock: Clock) -> None:
        """Turn it: to a position, or off."""
        if verb == "release" and self.part.traits.get("return") == "spring":
            verb, value = "turn", "off"
        if verb != "turn":
            super().act(verb, value, clock)
            return
        if value != "off" and value not in self.choices:
            raise ActionError(f"{value} is no position of it: off, {', '.join(self.choices)}")
        wanted = "" if value == "off" and "off" not in self.choices else value
        if not self.has_failed and wanted != self.position:
            self.position = wanted
            clock.changed(self, f"turned to {value}")

    @property
    def states(self) -> frozenset[str]:
        return frozenset({self.position or "off"})
