"""Owns which overload relay hangs on which contactor. Must not know what either is rated for."""

from collections.abc import Iterator, Mapping

from riktig.catalogue.model import Mounting, Part
from riktig.job.paths import Group, Item, Nodes, Path, Ref
from riktig.plan.circuit.model import Circuit


def plugged_on(circuit: Circuit, parts: Mapping[str, Part]) -> dict[str, str]:
    """Return overload relay -> the contactor that it hangs on, of relays that are made for it: the one whose load side its paths lead it
    from, straight.

    A contactor carries one relay, and one that exchanges lines carries none. Of a starter's it is its first contactor.
    """
    hosts: dict[str, str] = {}
    for device in circuit.devices:
        host = f"{device.owner}.K"
        if (
            device.kind == "overload"
            and device.owner is not None
            and circuit.index.get(host, device).kind == "contactor"
        ):
            hosts[device.id] = host
    for contactor, overload in _neighbours(circuit):
        if overload not in hosts and contactor not in hosts.values():
            hosts[overload] = contactor
    return {overload: host for overload, host in hosts.items() if parts[overload].mounting is Mounting.PLUGGED}


def _neighbours(circuit: Circuit) -> Iterator[tuple[str, str]]:
    """Yield contactors and the overload relays straight behind them, in drawing order."""
    power = [path.items for path in circuit.paths if path.is_power]
    behind: dict[tuple[str, ...], Ref] = {}
    for items in power:
        for before, nodes in zip(items, items[1:], strict=False):
            last = _last(before)
            if isinstance(nodes, Nodes) and last is not None and last.order is None:
                behind.setdefault(nodes.names, last)
    for items in power:
        for before, item in _pairs(items):
            last = behind.get(before.names) if isinstance(before, Nodes) else _last(before)
            if last is None or last.order is not None or not isinstance(item, Ref):
                continue
            if circuit.index[last.device].kind == "contactor" and circuit.index[item.device].kind == "overload":
                yield last.device, item.device


def _pairs(items: Path) -> Iterator[tuple[Item, Item]]:
    yield from zip(items, items[1:], strict=False)
    for item in items:
        if isinstance(item, Group):
            for branch in item.branches:
                yield from _pairs(branch)


def _last(item: Item) -> Ref | None:
    """Return the element that an item ends in, of branches the first one's."""
    if isinstance(item, Group):
        return _last(item.branches[0][-1])
    return item if isinstance(item, Ref) else None
