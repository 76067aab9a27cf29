"""Owns what can be fed, and through what, whatever positions contacts take: the questions that an inspector asks of a circuit's shape.

Must not know volts, time or rules. Hubs (lines, neutrals, sides of control supplies) are one for the local questions: between them and a
coil lies what that coil hangs on, and nothing else.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property, partial

from riktig.catalogue.model import ElementKind
from riktig.plan.answers.blocks import Ways, spread, ways_to_root
from riktig.plan.answers.links import HUB, Link, Links, Sort
from riktig.plan.answers.wired import of_wiring
from riktig.plan.plan import Plan

COILED = frozenset({"relay", "contactor", "timer", "thermistor-relay", "safety-relay"})
"""Kinds of devices whose contacts and poles follow a coil."""
Closable = Callable[[Link], bool]


@dataclass(frozen=True, slots=True, kw_only=True)
class Settled:
    """Relays that are in, and the nodes that come to a way in."""

    on: frozenset[str]
    nodes: frozenset[int]


class Feeding(Links):
    """A panel as links, and what can be fed through them."""

    def __init__(self, plan: Plan) -> None:
        super().__init__(plan)
        self._ways: dict[int, tuple[Link, ...]] = {}
        self.pressed: dict[str, Settled] = {}
        """What rules have found for a button that is pressed."""

    # -- what hangs on what

    @cached_property
    def _to_hub(self) -> Ways:
        return ways_to_root([self._folded(link) for link in self.links], HUB)

    def _folded(self, link: Link) -> tuple[int, int]:
        """Return the nodes of a link, all hubs being one."""
        a, b = link.nodes
        return (HUB if a in self._hubs else a), (HUB if b in self._hubs else b)

    def is_hub(self, node: int) -> bool:
        """Return whether a node is a line or neutral, or a side of a control supply."""
        return node in self._hubs

    def hangs_on(self, node: int) -> tuple[Link, ...]:
        """Return the links that lie on any way from a node to the hub that passes nothing twice."""
        if node not in self._ways:
            self._ways[node] = () if node in self._hubs else tuple(self.links[n] for n in self._to_hub.of(node))
        return self._ways[node]

    def links_of(self, device: str) -> tuple[Link, ...]:
        """Return the links that lie on any way from a coil, lamp or load to its supply."""
        return tuple(
            dict.fromkeys(link for ends in self.ends_of(device) for node in ends for link in self.hangs_on(node))
        )

    def reaches_hub(self, node: int, closable: Closable) -> bool:
        """Return whether a node can come to the hub through links that can close."""
        if node in self._hubs:
            return True
        own: dict[int, list[int]] = {}
        for link in self.hangs_on(node):
            if closable(link):
                a, b = self._folded(link)
                own.setdefault(a, []).append(b)
                own.setdefault(b, []).append(a)
        return HUB in spread((node,), lambda here: own.get(here, ()))

    def can_feed(self, device: str, closable: Closable) -> bool:
        """Return whether a coil, lamp or load can be fed from its supply through links that can close."""
        return any(all(self.reaches_hub(node, closable) for node in ends) for ends in self.ends_of(device))

    def can_hold(self, device: str, closable: Closable) -> bool:
        """Return whether a coil can stay fed, the relays on whose make contacts it hangs being in only where theirs can."""
        return device not in self.dropped(device, closable)

    def dropped(self, device: str, closable: Closable) -> frozenset[str]:
        """Return which of a coil and the relays on whose make contacts it hangs cannot stay in; a soft starter's own contact holds its line
        contactor through a ramp, and counts as a relay that its command lets in.
        """
        asked, front = {device}, [device]
        for one in front:
            links = self._asked_of(one)
            more = {link.device for link in links if link.sort is Sort.MAKE and self._follows(link.device)} - asked
            asked |= more
            front.extend(more)
        out: frozenset[str] = frozenset()
        while True:
            stays = partial(_stays, closable, out)
            more_out = {one for one in asked - out if not self._is_let_in(one, stays)}
            if not more_out:
                return out
            out |= more_out

    def come_back(self, out: frozenset[str], closable: Closable) -> frozenset[str]:
        """Return which of some relays that are out come in again through links that can close, those of the others as they may."""
        back: frozenset[str] = frozenset()
        while True:
            closes = partial(_stays, closable, out - back)
            more = {one for one in out - back if self._is_let_in(one, closes)}
            if not more:
                return back
            back |= more

    def _follows(self, device: str) -> bool:
        return device in self.coiled or self._parts[device].kind == "soft-starter"

    def _is_let_in(self, device: str, closable: Closable) -> bool:
        return self.can_feed(device, closable) if device in self.coiled else self._is_commanded(device, closable)

    def _asked_of(self, device: str) -> Iterable[Link]:
        """Return the links on which a coil hangs, or by which a command comes to a soft starter."""
        if device in self.coiled:
            return self.links_of(device)
        inputs = [channel for _, channel in self.ends_of(device, {ElementKind.INPUT})]
        near = spread(inputs, lambda node: (n for n in self.beside(node, _any_link) if n not in self._hubs))
        return dict.fromkeys(link for node in near for link in self.at.get(node, ()))

    # -- the whole panel

    def reached(self, closable: Closable) -> frozenset[int]:
        """Return the nodes that come to a way in through links that can close; a supply feeds on where both ends of its primary do."""
        seen = set(self.poles)
        waiting = list(self.supplies)
        while True:
            seen = spread(seen, lambda node: self.beside(node, closable))
            fed = [supply for supply in waiting if seen.issuperset(supply[0])]
            if not fed:
                return frozenset(seen)
            waiting = [supply for supply in waiting if supply not in fed]
            seen.update(node for _, secondary in fed for node in secondary)

    def settled(self, may_close: Closable, on: Iterable[str], *, grows: bool) -> Settled:
        """Return which relays can be in and what is reached then; contacts that follow no coil close as they may.

        Args:
            may_close: asked of each link; make contacts and poles of a relay that is out do not close whatever it says.
            on: the relays that are in at first.
            grows: from those on, what they let in comes in too, and a drive or soft starter turns its motor once it is told to; otherwise
                what nothing feeds any more drops, and one that is enabled may turn it whatever it is told.
        """
        relays = frozenset(on)
        while True:
            nodes = self.reached(partial(self._closes, may_close, relays))
            fed = frozenset(name for name in self.coiled if self._is_fed(name, nodes))
            before, relays = relays, relays | fed if grows else relays & fed
            if relays == before:
                break
        closable = partial(self._closes, may_close, relays)
        running = frozenset(
            name for name in self._converters
            if self._is_enabled(name, closable) and (not grows or self._is_commanded(name, closable))
        )  # fmt: skip
        nodes = self.reached(lambda link: closable(link) if link.sort is not Sort.CONVERTER else link.device in running)
        return Settled(on=relays, nodes=nodes)

    def _closes(self, may_close: Closable, on: frozenset[str], link: Link) -> bool:
        if link.sort is Sort.CONVERTER:
            return False
        if link.device in self.coiled and link.sort in {Sort.MAKE, Sort.POLE} and link.device not in on:
            return False
        return may_close(link)

    @cached_property
    def _converters(self) -> frozenset[str]:
        return frozenset(link.device for link in self.links if link.sort is Sort.CONVERTER)

    def _is_enabled(self, device: str, closable: Closable) -> bool:
        """Return whether nothing that is wired to its enabling inputs keeps a drive still; one without such inputs is never still."""
        ends = [pair for pair in self.ends_of(device, {ElementKind.ENABLE}) if pair[1] in self._wired]
        return all(self._joins(source, channel, closable) for source, channel in ends)

    def _is_commanded(self, device: str, closable: Closable) -> bool:
        """Return whether a command to run comes to an input that is wired."""
        ends = [pair for pair in self.ends_of(device, {ElementKind.INPUT}) if pair[1] in self._wired]
        return any(self._joins(source, channel, closable) for source, channel in ends)

    def _joins(self, a: int, b: int, closable: Closable) -> bool:
        reached = spread((b,), lambda node: self.beside(node, closable))
        return a in reached or bool(reached & self.poles)

    def turns(self, motor: str, settled: Settled) -> bool:
        """Return whether a motor has volts then: two of its leads come to a way in."""
        part = self._parts[motor]
        leads = {
            self.node(f"{motor}:{mark}") for e in part.elements if e.kind is ElementKind.WINDING for mark in e.marks
        }
        return len(leads & settled.nodes) >= 2

    def _is_fed(self, device: str, nodes: frozenset[int]) -> bool:
        return any(a in nodes and b in nodes and a != b for a, b in self.ends_of(device, {ElementKind.COIL}))

    @cached_property
    def coiled(self) -> frozenset[str]:
        """The devices whose contacts follow a coil."""
        wound = (name for name, part in self._parts.items() if part.kind in COILED)
        return frozenset(name for name in wound if self.ends_of(name, {ElementKind.COIL}))


@of_wiring
def feeding_of(plan: Plan) -> Feeding:
    """Return a panel as links, the very one as before while it is wired so."""
    return Feeding(plan)


def _stays(closable: Closable, out: frozenset[str], link: Link) -> bool:
    return closable(link) and not (link.sort is Sort.MAKE and link.device in out)


def _any_link(link: Link) -> bool:
    return True
