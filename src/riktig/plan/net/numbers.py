"""Owns wire numbers: which potential carries which, and that it stays so. Must not know conductors."""

import re
from collections import Counter
from collections.abc import Container, Mapping
from dataclasses import dataclass, field

from riktig.job.entries import Joined
from riktig.job.faults import Fault
from riktig.job.ids import terminal_id
from riktig.job.ledger import Choices
from riktig.job.model import Job
from riktig.plan.circuit.model import bar_for
from riktig.plan.circuit.uses import Use
from riktig.plan.net.netlist import Net, Netlist
from riktig.plan.sheets.allocation import SheetSet

_GROUPED = re.compile(r"^(\d+)(L1|L2|L3|N)$")
_NOWHERE = "0"
"""Stem of a potential that no path meets; sheets count from 1."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Potential:
    """A net with the number that its wires carry; numbers are unique."""

    number: str
    net: Net

    @property
    def name(self) -> str:
        """The name people gave it, else its number."""
        return self.net.names[0] if self.net.names else self.number

    def bar(self, there: Container[str]) -> str | None:
        """Return which bar or block of those that are there distributes it, None if none does."""
        return next((bar for name in (self.number, *self.net.names) if (bar := bar_for(name)) in there), None)


def natural_key(number: str) -> tuple[int, str]:
    """Return what sorts wire numbers as people count: 2 before 10, names without digits first."""
    digits = "".join(c for c in number if c.isdigit())
    return (int(digits) if digits else 0, number)


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberScheme:
    """How new numbers are made: a prefix, the first of a plain sequence, and in the schools by place the stem of each use of
    a device (sheet and column, or line of the ladder), by the key of the use; empty in the others. `first` are potentials that a plain
    sequence numbers before all others.
    """

    prefix: str = ""
    start: int = 1
    stems: Mapping[str, str] = field(default_factory=dict)
    first: tuple[str, ...] = ()


def scheme_of(job: Job, sheets: SheetSet, uses: tuple[Use, ...]) -> NumberScheme:
    """Return how a job's practice numbers its potentials.

    Source:
        Sheet and column with a running digit, or the line of the ladder with a running digit: common practice, no source. Lines
        count from 1 on each sheet, behind its number: 1005 is line 5 of sheet 10. In North America the ends of the control transformer
        are often 1 (X1) and 2 (X2): common practice, no source.
    """
    practice = job.practice
    stems: dict[str, str] = {}
    if practice.numbering in {"sheet-column", "line"}:
        is_line = practice.numbering == "line"
        for use in uses:
            place = sheets.mentions[use.mention]
            stems[use.key] = f"{100 * place.sheet + place.lane + 1}" if is_line else f"{place.sheet}{place.column}"
    ends = (f"{control.name}{sign}" for control in job.controls for sign in "+-")
    first = tuple(ends) if practice.control_ends == "first" and not stems else ()
    return NumberScheme(prefix=practice.number_prefix, start=practice.number_start, stems=stems, first=first)


def find_clashes(netlist: Netlist, kept: Choices) -> list[Fault]:
    """Return numbers of the ledger that are the name of a supply."""
    fixed = {net.fixed for net in netlist.nets if net.fixed is not None}
    message = "is the name of a supply: choose another number"
    return [Fault(at=("kept", "numbers", number), message=f"{number} {message}") for number in kept if number in fixed]


def allocate_numbers(netlist: Netlist, uses: tuple[Use, ...], kept: Choices, scheme: NumberScheme) -> dict[str, Joined]:
    """Return number -> terminals of its potential, the anchor first, in order of age; see `Ledger.numbers`.

    A number stays where its anchor is; an anchor that is gone hands on to the next terminal of its old
    potential. A potential with several numbers keeps the oldest. A held number whose potential is gone stays
    in the result with no terminals, so that it is never given out again.
    """
    net_of = {terminal: net for net in netlist.nets for terminal in net.terminals}
    result: dict[str, Joined] = {}
    holder: dict[int, str] = {}
    for number, choice in kept.items():
        anchor = next((t for t in choice.value.terminals if t in net_of), None)
        net = net_of[anchor] if anchor is not None else None
        if net is not None and anchor is not None and net.fixed is None and id(net) not in holder:
            holder[id(net)] = number
            result[number] = Joined((anchor, *(t for t in net.terminals if t != anchor)))
        elif choice.is_held:
            result[number] = Joined(())
    fresh = _Fresh({*result, *(net.fixed for net in netlist.nets if net.fixed is not None)}, scheme)
    open_nets = [n for n in netlist.nets if n.terminals and id(n) not in holder and n.fixed is None]
    rank = {name: place for place, name in enumerate(scheme.first)}
    open_nets.sort(key=lambda net: min((rank[name] for name in net.names if name in rank), default=len(rank)))
    grouped = _power_groups(open_nets, netlist, uses)
    stems = _stems_of(open_nets, netlist, uses, scheme) if scheme.stems else {}
    for net in open_nets:
        group = grouped.get(id(net))
        if group is not None and net.phase:
            number = fresh.grouped(group, net.phase)
        else:
            number = fresh.placed(stems.get(id(net), _NOWHERE)) if scheme.stems else fresh.plain()
        result[number] = Joined(net.terminals)
    return result


class _Fresh:
    """Gives out numbers that were never used."""

    def __init__(self, used: set[str], scheme: NumberScheme) -> None:
        self._used = used
        self._prefix = scheme.prefix
        bare = [n.removeprefix(scheme.prefix) for n in used if n.startswith(scheme.prefix)]
        self._plain = max([scheme.start - 1, *(int(n) for n in bare if n.isdigit())])
        self._group = max((int(m[1]) for n in bare if (m := _GROUPED.match(n))), default=0)
        self._groups: dict[str, int] = {}
        self._running: Counter[str] = Counter()

    def plain(self) -> str:
        self._plain += 1
        return f"{self._prefix}{self._plain}"

    def placed(self, stem: str) -> str:
        """Return the next number of a place: its stem and a running digit, letters beyond nine."""
        while True:
            self._running[stem] += 1
            number = f"{self._prefix}{stem}{_running_mark(self._running[stem])}"
            if number not in self._used:
                self._used.add(number)
                return number

    def grouped(self, key: str, phase: str) -> str:
        group = self._groups.get(key)
        if group is None or f"{self._prefix}{group}{phase}" in self._used:
            self._group += 1
            group = self._groups[key] = self._group
        self._used.add(f"{self._prefix}{group}{phase}")
        return f"{self._prefix}{group}{phase}"


def _running_mark(count: int) -> str:
    """Return 1 to 9, then a to z, then z with more behind it: never a mark that could be read as part of a stem."""
    if count <= 9:
        return str(count)
    letters = count - 10
    return "z" * (letters // 25) + chr(ord("a") + letters % 25)


def _stems_of(nets: list[Net], netlist: Netlist, uses: tuple[Use, ...], scheme: NumberScheme) -> dict[int, str]:
    """Return for each net the stem of the first use that meets it."""
    net_of = {terminal: net for net in nets for terminal in net.terminals}
    found: dict[int, str] = {}
    for use in uses:
        if use.key not in scheme.stems or use.key not in netlist.ends:
            continue
        for mark in (*netlist.ends[use.key][0], *netlist.ends[use.key][1]):
            net = net_of.get(terminal_id(use.device, mark))
            if net is not None:
                found.setdefault(id(net), scheme.stems[use.key])
    return found


def _power_groups(nets: list[Net], netlist: Netlist, uses: tuple[Use, ...]) -> dict[int, str]:
    """Return for each power net the device and row behind which it lies, so that its phases share a group."""
    net_of = {terminal: net for net in nets for terminal in net.terminals}
    grouped: dict[int, str] = {}
    for use in uses:
        if not use.is_feeder:
            continue
        for mark in netlist.ends[use.key][1]:
            net = net_of.get(terminal_id(use.device, mark))
            if net is not None and net.phase is not None:
                grouped.setdefault(id(net), use.device)
    return grouped


def read_potentials(netlist: Netlist, numbers: Choices) -> tuple[Potential, ...]:
    """Return the potentials with the numbers that the ledger holds, in the order in which the drawing meets them.

    Raises:
        KeyError: the ledger was not settled for this netlist.
    """
    by_anchor = {c.value.terminals[0]: number for number, c in numbers.items() if c.value.terminals}
    potentials = []
    for net in netlist.nets:
        if not net.terminals:
            continue
        number = net.fixed or next((by_anchor[t] for t in net.terminals if t in by_anchor), None)
        if number is None:
            raise KeyError(net.terminals[0])
        potentials.append(Potential(number=number, net=net))
    return tuple(potentials)
