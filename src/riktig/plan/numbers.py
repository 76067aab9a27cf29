"""Owns wire numbers: which potential carries which, and that it stays so. Must not know conductors."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

from riktig.job.ledger import Choices
from riktig.plan.contacts import Use
from riktig.plan.netlist import Net, Netlist

_GROUPED = re.compile(r"^(\d+)(L1|L2|L3|N)$")


@dataclass(frozen=True, slots=True, kw_only=True)
class Potential:
    """A net with the number that its wires carry; numbers are unique."""

    number: str
    net: Net

    @property
    def name(self) -> str:
        """The name people gave it, else its number."""
        return self.net.names[0] if self.net.names else self.number


def natural_key(number: str) -> tuple[int, str]:
    """Return what sorts wire numbers as people count: 2 before 10, names without digits first."""
    digits = "".join(c for c in number if c.isdigit())
    return (int(digits) if digits else 0, number)


def allocate_numbers(netlist: Netlist, uses: tuple[Use, ...], kept: Choices) -> dict[str, str]:
    """Return number -> terminals of its potential, the anchor first, in order of age; see `Ledger.numbers`.

    A number stays where its anchor is; an anchor that is gone hands on to the next terminal of its old
    potential. A potential with several numbers keeps the oldest. A held number whose potential is gone stays
    in the result with an empty text, so that it is never given out again.
    """
    net_of = {terminal: net for net in netlist.nets for terminal in net.terminals}
    result: dict[str, str] = {}
    holder: dict[int, str] = {}
    for number, choice in kept.items():
        anchor = next((t for t in choice.value.split() if t in net_of), None)
        net = net_of[anchor] if anchor is not None else None
        if net is not None and anchor is not None and net.fixed is None and id(net) not in holder:
            holder[id(net)] = number
            result[number] = " ".join([anchor, *(t for t in net.terminals if t != anchor)])
        elif choice.is_held:
            result[number] = ""
    fresh = _Fresh(result)
    open_nets = [n for n in netlist.nets if n.terminals and id(n) not in holder and n.fixed is None]
    grouped = _power_groups(open_nets, netlist, uses)
    for net in open_nets:
        group = grouped.get(id(net))
        number = fresh.grouped(group, net.phase) if group is not None and net.phase else fresh.plain()
        result[number] = " ".join(net.terminals)
    return result


class _Fresh:
    """Gives out numbers that were never used."""

    def __init__(self, used: Mapping[str, str]) -> None:
        self._used = set(used)
        self._plain = max((int(n) for n in used if n.isdigit()), default=0)
        self._group = max((int(m[1]) for n in used if (m := _GROUPED.match(n))), default=0)
        self._groups: dict[str, int] = {}

    def plain(self) -> str:
        self._plain += 1
        return str(self._plain)

    def grouped(self, key: str, phase: str) -> str:
        group = self._groups.get(key)
        if group is None or f"{group}{phase}" in self._used:
            self._group += 1
            group = self._groups[key] = self._group
        self._used.add(f"{group}{phase}")
        return f"{group}{phase}"


def _power_groups(nets: list[Net], netlist: Netlist, uses: tuple[Use, ...]) -> dict[int, str]:
    """Return for each power net the device and row behind which it lies, so that its phases share a group."""
    net_of = {terminal: net for net in nets for terminal in net.terminals}
    grouped: dict[int, str] = {}
    for use in uses:
        if not use.is_feeder:
            continue
        for mark in netlist.ends[use.key][1]:
            net = net_of.get(f"{use.device}:{mark}")
            if net is not None and net.phase is not None:
                grouped.setdefault(id(net), use.device)
    return grouped


def read_potentials(netlist: Netlist, numbers: Choices) -> tuple[Potential, ...]:
    """Return the potentials with the numbers that the ledger holds, in the order in which the drawing meets them.

    Raises:
        KeyError: the ledger was not settled for this netlist.
    """
    by_anchor = {choice.value.split()[0]: number for number, choice in numbers.items() if choice.value}
    potentials = []
    for net in netlist.nets:
        if not net.terminals:
            continue
        number = net.fixed or next((by_anchor[t] for t in net.terminals if t in by_anchor), None)
        if number is None:
            raise KeyError(net.terminals[0])
        potentials.append(Potential(number=number, net=net))
    return tuple(potentials)
