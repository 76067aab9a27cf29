"""Owns how two rows stand so that columns are straight: what switches a motor below what protects it. Must not know plates or parts."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Member:
    """What stands on a rail: the column it belongs to, None of none; how far it reaches over its left edge, what it takes of the rail with
    all that, and the gap that it keeps to the one before, in mm; whether it stays where it is, for a comb joins it with its neighbour.
    """

    column: Hashable | None
    left: float
    span: float
    gap: float
    stays: bool = False


def straight_places(
    above: Sequence[Member], below: Sequence[Member], begins: tuple[float, float]
) -> tuple[list[float], list[float]]:
    """Return the left edges of what stands on two rails, each as far left as its row lets it; a column that is in both begins at one
    place, what is above it pushed aside by what is below unless it stays.

    Args:
        above: the members of the upper rail from the left.
        below: those of the lower one.
        begins: where the rails begin, in mm.
    """
    upper, lower = _Laying(above, begins[0]), _Laying(below, begins[1])
    for column, place in upper.first.items():
        there = lower.first.get(column, -1)
        if there < len(lower.places):
            continue
        upper.lay_until(place)
        lower.lay_until(there)
        aside = upper.next_place - lower.next_place
        if aside > 0:
            lower.x += aside
        elif not above[place].stays:
            upper.x -= aside
    for rail in (upper, lower):
        rail.lay_until(len(rail.members))
    return upper.places, lower.places


class _Laying:
    """A rail while its members are put beside each other."""

    def __init__(self, members: Sequence[Member], begin: float) -> None:
        self.members, self.x = members, begin
        self.places: list[float] = []
        self.first: dict[Hashable, int] = {}
        for k, member in enumerate(members):
            if member.column is not None:
                self.first.setdefault(member.column, k)

    @property
    def next_place(self) -> float:
        """The left edge of the next member."""
        member = self.members[len(self.places)]
        return self.x + (member.gap if self.places else 0.0) + member.left

    def lay_until(self, count: int) -> None:
        """Put members down until there are so many."""
        while len(self.places) < count:
            member = self.members[len(self.places)]
            place = self.next_place
            self.places.append(place)
            self.x = place - member.left + member.span
