"""Owns emergency stop groups: what is fed behind each, and how it is reset. Must not know what starters do with it."""

from riktig.job.model import Starter
from riktig.job.modules import Estop
from riktig.job.roles import RELAY_CONTACTS, TIMER_CONTACTS, group_of_phases, groups_of, relay_contacts_of, relay_roles
from riktig.plan.circuit.sketch import Sketch, parallel, series


class EstopFeeds:
    """The potentials behind emergency stops, made as starters ask for them.

    The first feed of a group runs through its buttons themselves; every further one through a relay of the group. A
    group that is reset by a button has a control-on relay, whose contact stands in the first feed as well; phase relays of the same
    starters stand beside its buttons, so that one reset serves both.
    """

    def __init__(self, sketch: Sketch) -> None:
        self._sketch = sketch
        self._nodes: dict[tuple[str, tuple[str, ...]], str] = {}
        self._first: dict[str, str] = {}
        self._feeds: list[tuple[str, str, str]] = []

    def feed(self, starter: Starter) -> str:
        """Return the potential that feeds a starter's control circuit."""
        return self._node(starter.supply, groups_of(starter, self._sketch.job))

    def _node(self, supply: str, groups: tuple[Estop, ...]) -> str:
        if not groups:
            return f"{supply}+"
        key = (supply, tuple(group.name for group in groups))
        if key not in self._nodes:
            before, group = self._node(supply, groups[:-1]), groups[-1]
            self._nodes[key] = node = f"@{'_'.join(key[1])}_{supply}"
            self._feeds.append(
                (group.name, f"{group.name}/feed-{len(self._feeds)}", self._feed(group, before, node, supply))
            )
        return self._nodes[key]

    def _feed(self, group: Estop, before: str, node: str, supply: str) -> str:
        if group.name in self._first:
            return series(before, self._sketch.repeated(f"{group.name}.K"), node)
        self._first[group.name] = supply
        phases = (
            f"{r.name}:15-18" for r in self._sketch.job.phase_relays if group_of_phases(r, self._sketch.job) == group
        )
        buttons = series(*(f"{group.name}.S{n}:nc" for n in range(1, len(group.at) + 1)), *phases)
        if group.reset == "twist":
            self._draw_relays(group, node, supply)
            return series(before, buttons, node)
        ready = f"@{group.name}_ready"
        on = parallel(f"{group.name}.SB:no", self._sketch.repeated(f"{group.name}.K"))
        self._draw_relays(group, series(before, buttons, ready, on), supply)
        return series(ready, self._sketch.repeated(f"{group.name}.K"), node)

    def _draw_relays(self, group: Estop, head: str, supply: str) -> None:
        relays, delays = relay_contacts_of(group, self._sketch.job)
        roles = [*relay_roles("K", relays, RELAY_CONTACTS), *relay_roles("T", delays, TIMER_CONTACTS)]
        if roles:
            coils = parallel(*(f"{group.name}.{role}:coil" for role in roles))
            self._feeds.append((group.name, f"{group.name}/on", series(head, coils, f"{supply}-")))

    def breaks(self, starter: Starter) -> list[str]:
        """Return the contacts that take safe torque off of a drive, or the line of a soft starter."""
        return [self._break(group) for group in groups_of(starter, self._sketch.job)]

    def _break(self, group: Estop) -> str:
        if group.category == 1:
            return self._sketch.repeated(f"{group.name}.T", "tno", TIMER_CONTACTS)
        return self._sketch.repeated(f"{group.name}.K")

    def late_feed(self, starter: Starter) -> str | None:
        """Return the potential that goes dead once a soft starter has stopped; None if all its groups are category 0."""
        groups = groups_of(starter, self._sketch.job)
        if all(group.category == 0 for group in groups):
            return None
        names = tuple(group.name for group in groups)
        key = (f"late {starter.supply}", names)
        if key not in self._nodes:
            self._nodes[key] = node = f"@{'_'.join(names)}_{starter.supply}_late"
            path = series(f"{starter.supply}+", *(self._break(group) for group in groups), node)
            self._feeds.append((groups[-1].name, f"{groups[-1].name}/late-{len(self._feeds)}", path))
        return self._nodes[key]

    def keep(self, starter: Starter) -> None:
        """Make what a detached starter's plain circuit hangs on, as if it asked for it."""
        self.feed(starter)
        if starter.kind == "soft":
            self.late_feed(starter)
        for _ in range(2 if starter.kind == "drive" else 0):
            self.breaks(starter)

    def finish(self) -> None:
        """Add devices and rungs of all groups; one that stops nothing feeds the first control supply for own rungs."""
        sketch = self._sketch
        for group in sketch.job.estops:
            if group.name not in self._first and sketch.job.controls:
                self._node(sketch.job.controls[0].name, (group,))
            self._add_devices(group)
        for name, key, text in self._feeds:
            sketch.rung(key, f"{name} emergency stop", text, owner=name)

    def _add_devices(self, group: Estop) -> None:
        sketch, name = self._sketch, group.name
        for n, place in enumerate(group.at, start=1):
            sketch.add(name, f"S{n}", "emergency-stop", f"Emergency stop {name}", at=place, colour="red")
        if group.reset == "button":
            sketch.add(name, "SB", "pushbutton", f"Control on {name}", at=group.at[0], colour="blue")
        relays, delays = relay_contacts_of(group, sketch.job)
        for role in relay_roles("K", relays, RELAY_CONTACTS):
            sketch.add(name, role, "relay", f"Control on {name}")
        for role in relay_roles("T", delays, TIMER_CONTACTS):
            sketch.add(name, role, "timer", f"Delay of {name}", wants={"function": "off-delay"},
                       settings={"seconds": group.seconds})  # fmt: skip
