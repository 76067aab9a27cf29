"""Owns what all things of a live circuit have in common: contacts, what wakes them, what a person can do to them. Must not know kinds."""

from collections.abc import Callable
from copy import deepcopy
from typing import Any, Protocol

from riktig.catalogue.model import CHANGEOVERS, CONTACT_KINDS, Element, ElementKind, Part
from riktig.live.network import Network
from riktig.live.rig import Rig
from riktig.plan.circuit.model import CircuitDevice
from riktig.refusal import Refusal

_BREAKS = frozenset({ElementKind.NC, ElementKind.TIMED_NC, ElementKind.AUX_NC, ElementKind.ALARM_NC})
OF_TRIP = frozenset({"95", "97", "105", "107"})
"""Marks of contacts that an overload, a drive or a soft starter moves when it trips (IEC 60947-4-1, common practice)."""


class ActionError(Refusal):
    """What somebody wants to do cannot be done to this thing."""


def number_of(text: str, least: float, most: float) -> float:
    """Return the number that somebody sets.

    Raises:
        ActionError: it is none, or not between two others.
    """
    try:
        value = float(text)
    except ValueError:
        raise ActionError(f"{text!r} is no number") from None
    if not least <= value <= most:
        raise ActionError(f"{text} is not between {least:g} and {most:g}")
    return value


class Clock(Protocol):
    """What a thing may ask of the time it lives in."""

    now: float

    def across(self, a: int, b: int, *, is_dc: bool) -> float:
        """Return the volts between two nodes, r.m.s. or DC."""
        ...

    def phasor(self, a: int, b: int) -> complex:
        """Return the volts of node a over node b at the supply's frequency."""
        ...

    def amps(self, element: int, *, is_dc: bool) -> complex:
        """Return the current into the first terminal of an element, A."""
        ...

    def at(self, gear: "Gear", what: str, delay: float) -> None:
        """Let something happen to a thing after a delay in s, in place of what was to happen to it by that name."""
        ...

    def call_off(self, gear: "Gear", *whats: str) -> None:
        """Let what was to happen to a thing not happen."""
        ...

    def changed(self, gear: "Gear", words: str = "") -> None:
        """Take note that a thing conducts otherwise now, and of what is worth telling of it."""
        ...


class Contacts:
    """The contacts of a device: their switches, moved by what the device says of each."""

    def __init__(self, rig: Rig, device: str, part: Part) -> None:
        self._all: list[tuple[Element, tuple[int, ...]]] = []
        for element in part.elements:
            if element.kind in CONTACT_KINDS:
                common, *others = (f"{device}:{mark}" for mark in element.marks)
                self._all.append((element, tuple(rig.switch(common, other) for other in others)))

    def __deepcopy__(self, memo: object) -> "Contacts":
        """Return these very ones: which switches they are is the same in every copy of a panel."""
        return self

    def put(self, network: Network, moved: Callable[[Element], tuple[bool, bool]]) -> None:
        """Close and open them; `moved` tells of an element whether its make side is closed and its break side open."""
        for element, switches in self._all:
            is_made, is_broken = moved(element)
            if element.kind in CHANGEOVERS:
                network.switch(switches[0], is_closed=not is_broken)
                network.switch(switches[1], is_closed=is_made)
            else:
                network.switch(switches[0], is_closed=not is_broken if element.kind in _BREAKS else is_made)


_NEVER_CHANGES = frozenset({Part, CircuitDevice, Contacts, str, int, float, complex, bool, type(None)})


class Gear:
    """A thing of a live circuit. It reads volts when it is woken, and changes what conducts."""

    verbs: frozenset[str] = frozenset()
    begins = ""
    """What happens to it when it begins to come in: one that begins again and again has no rest."""

    def __init__(self, device: CircuitDevice, part: Part) -> None:
        self.device, self.part, self.id = device, part, device.id
        self.has_failed, self.is_stuck = False, False

    def __deepcopy__(self, memo: dict[int, Any]) -> "Gear":
        """Return it as it is now, for a copy of its panel; what never changes is the same there."""
        other = object.__new__(type(self))
        memo[id(self)] = other
        for name, value in vars(self).items():
            setattr(other, name, value if type(value) in _NEVER_CHANGES else deepcopy(value, memo))
        return other

    def bind(self, rig: Rig) -> None:
        """Put its contacts, elements and sensors into a network."""
        self.contacts = Contacts(rig, self.id, self.part)

    def apply(self, network: Network) -> None:
        """Let the network conduct as this thing is now."""

    def sense(self, clock: Clock) -> None:
        """Look at its volts and currents: something of them has changed."""

    def happen(self, what: str, clock: Clock) -> None:
        """Do what was due now."""

    def act(self, verb: str, value: str, clock: Clock) -> None:
        """Do what somebody does to it.

        Raises:
            ActionError: that cannot be done to it.
        """
        if verb in {"fail", "mend"}:
            self.has_failed = verb == "fail"
            clock.changed(self, "failed" if self.has_failed else "mended")
            self.sense(clock)
            return
        raise ActionError(self.cannot(verb))

    def hold_still(self, clock: Clock) -> None:
        """Let it stay out: it would come in and go for ever. What somebody does next lets it go on."""
        self.is_stuck = True
        self.let_go(clock)
        clock.changed(self, "chatters")

    def let_go(self, clock: Clock) -> None:
        """Let it be out, with nothing under way."""

    def go_on(self) -> None:
        """Let it move again."""
        self.is_stuck = False

    def cannot(self, verb: str) -> str:
        """Return the sentence that says what can be done instead."""
        verbs = ", ".join(sorted({*self.verbs, "fail", "mend"}))
        return f"a {self.device.kind} cannot be told to {verb}: {verbs}"

    @property
    def probes(self) -> tuple[int, ...]:
        """The elements of the network that its current flows through."""
        return ()

    @property
    def states(self) -> frozenset[str]:
        """The words that are true of it now."""
        return frozenset()

    @property
    def is_on(self) -> bool:
        """Whether it is on: pulled in, lit, sounding, running."""
        return "on" in self.states
