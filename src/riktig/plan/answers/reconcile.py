"""Owns comparing a from-to list of an existing panel with the circuit: what is missing, extra, joined or split. Reads no files."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from riktig.plan.basis.union import UnionFind
from riktig.plan.net.numbers import Potential, natural_key
from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class FromTo:
    """A row of a from-to list: its line from 1, the wire number, and both ends as people write them (`K1:A1`)."""

    line: int
    number: str
    a: str
    b: str


class Difference(StrEnum):
    """How a list and a circuit disagree."""

    MISSING = "missing"
    EXTRA = "extra"
    JOINED = "joined"
    SPLIT = "split"


@dataclass(frozen=True, slots=True, kw_only=True)
class Discrepancy:
    """One disagreement: its sort, the lines of the list that show it, and a sentence with the mend."""

    sort: Difference
    lines: tuple[int, ...]
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Reconciliation:
    """All disagreements, and the numbers of the list for potentials that agree: number now -> number in the list."""

    discrepancies: tuple[Discrepancy, ...]
    numbers: Mapping[str, str]


def reconcile(plan: Plan, rows: Sequence[FromTo]) -> Reconciliation:
    """Return how a list of existing wires agrees with the circuit.

    Terminals that one number of the list names, or that its rows join, are one potential of the list. It is *joined* where it
    covers several potentials of the circuit, *split* where one potential of the circuit has several of the list; a terminal that
    only the list knows is *extra*, one that only the circuit knows is *missing* (strip terminals are the builder's own, and joins
    that come with the parts need no row).

    Source:
        A number belongs to a potential and to nothing else: common practice, no source.
    """
    potential_of = {plan.terminal_label(t).upper(): p for p in plan.potentials for t in p.net.terminals}
    helpers = {plan.terminal_label(end).upper(): c.number for c in plan.conductors for end in (c.a, c.b)}
    factory = [
        (plan.terminal_label(c.a).upper(), plan.terminal_label(c.b).upper()) for c in plan.conductors if not c.is_wired
    ]
    groups = _groups_of(rows, factory)
    found: list[Discrepancy] = []
    seen: defaultdict[str, list[_Group]] = defaultdict(list)
    for group in groups:
        covered: defaultdict[str, list[str]] = defaultdict(list)
        for label, line in group.ends.items():
            potential = potential_of.get(label)
            number = potential.number if potential is not None else helpers.get(label)
            if number is None:
                found.append(_extra(label, line, plan))
            else:
                covered[number].append(label)
        if len(covered) > 1:
            found.append(_joined(group, covered))
        elif len(group.numbers) > 1:
            found.append(_two_numbers(group))
        for number in covered:
            seen[number].append(group)
    by_number = {p.number: p for p in plan.potentials}
    for number, having in seen.items():
        if len(having) > 1:
            found.append(_split(by_number[number], having, plan))
    found.extend(_missing(plan, {label for pair in factory for label in pair}, groups, seen))
    wrong = {line for d in found if d.sort in {Difference.JOINED, Difference.SPLIT} for line in d.lines}
    return Reconciliation(
        discrepancies=tuple(sorted(found, key=lambda d: (d.lines or (10**9,), d.message))),
        numbers=_agreed(by_number, seen, wrong),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Group:
    """A potential of the list: its numbers, its ends with the line that names each first, and all its lines."""

    numbers: tuple[str, ...]
    ends: Mapping[str, int]
    lines: tuple[int, ...]

    @property
    def name(self) -> str:
        return " and ".join(self.numbers)


def _groups_of(rows: Sequence[FromTo], factory: Sequence[tuple[str, str]]) -> list[_Group]:
    """Return the potentials of a list; joins that come with the parts need no row."""
    joined = UnionFind[str]()
    for row in rows:
        joined.join(f"#{row.number}", row.a.upper())
        joined.join(row.a.upper(), row.b.upper())
    for a, b in factory:
        joined.join(a, b)
    ends_of: defaultdict[str, list[str]] = defaultdict(list)
    for label in dict.fromkeys(label for pair in factory for label in pair):
        ends_of[joined.find(label)].append(label)
    members: defaultdict[str, list[FromTo]] = defaultdict(list)
    for row in rows:
        members[joined.find(f"#{row.number}")].append(row)
    groups = []
    for root, own in members.items():
        ends: dict[str, int] = {}
        for row in own:
            ends.setdefault(row.a.upper(), row.line)
            ends.setdefault(row.b.upper(), row.line)
        for label in ends_of[root]:
            ends.setdefault(label, own[0].line)
        groups.append(
            _Group(numbers=tuple(dict.fromkeys(r.number for r in own)), ends=ends, lines=tuple(r.line for r in own))
        )
    return groups


def _extra(label: str, line: int, plan: Plan) -> Discrepancy:
    device = label.rpartition(":")[0]
    known = device in {tag.upper() for tag in plan.tags.values()}
    why = (
        f"nothing in the circuit ends on it: {device} has other terminals in use"
        if known
        else f"the circuit has no {device}"
    )
    return Discrepancy(
        sort=Difference.EXTRA,
        lines=(line,),
        message=f"{label} is in the list, {why}; add it to the circuit or take the wire out",
    )


def _joined(group: _Group, covered: Mapping[str, Sequence[str]]) -> Discrepancy:
    parts = "; ".join(
        f"{number}: {', '.join(sorted(labels))}"
        for number, labels in sorted(covered.items(), key=lambda p: natural_key(p[0]))
    )
    return Discrepancy(
        sort=Difference.JOINED, lines=group.lines,
        message=f"number {group.name} of the list joins what are {len(covered)} potentials in the circuit ({parts}); part the wires, or "
        "mend the circuit",
    )  # fmt: skip


def _two_numbers(group: _Group) -> Discrepancy:
    return Discrepancy(
        sort=Difference.JOINED, lines=group.lines,
        message=f"numbers {group.name} of the list lie on one potential; give its wires one number",
    )  # fmt: skip


def _split(potential: Potential, having: Sequence[_Group], plan: Plan) -> Discrepancy:
    own = {plan.terminal_label(t).upper() for t in potential.net.terminals}
    parts = "; ".join(f"{group.name}: {', '.join(sorted(own & set(group.ends)))}" for group in having)
    return Discrepancy(
        sort=Difference.SPLIT, lines=tuple(sorted(line for group in having for line in group.lines)),
        message=f"potential {potential.number} of the circuit has {len(having)} unconnected numbers in the list ({parts}); join them, or "
        "mend the circuit",
    )  # fmt: skip


def _missing(
    plan: Plan, factory: set[str], groups: Sequence[_Group], seen: Mapping[str, Sequence[_Group]]
) -> list[Discrepancy]:
    """Return terminals of the circuit that no row names; those of one potential in one sentence."""
    listed = factory | {label for group in groups for label in group.ends}
    found = []
    for potential in plan.potentials:
        labels = [plan.terminal_label(t) for t in potential.net.terminals]
        absent = [label for label in labels if label.upper() not in listed]
        if not absent or len(labels) < 2:
            continue
        own = seen.get(potential.number, ())
        lines = tuple(sorted(line for group in own for line in group.lines))
        where = f"number {own[0].name}" if own else "no number"
        found.append(
            Discrepancy(
                sort=Difference.MISSING, lines=lines,
                message=f"{', '.join(absent)} of potential {potential.number} ({where} in the list) "
                f"{'is' if len(absent) == 1 else 'are'} in no row; add the wire to the list, or look whether it is there",
            )
        )  # fmt: skip
    return found


def _agreed(
    by_number: Mapping[str, Potential], seen: Mapping[str, Sequence[_Group]], wrong: set[int]
) -> dict[str, str]:
    """Return the numbers to take over: of potentials with one number in the list that no other potential has."""
    names = {}
    for number, having in seen.items():
        group = having[0]
        if (
            len(having) == 1
            and len(group.numbers) == 1
            and not wrong & set(group.lines)
            and by_number[number].net.fixed is None
        ):
            names[number] = group.numbers[0]
    return {old: new for old, new in names.items() if old != new}
