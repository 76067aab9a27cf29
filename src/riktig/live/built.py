"""Owns how the wires of a panel were landed where that is not as planned. Must not know what follows from it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor

Ends = tuple[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Built:
    """A panel as it was built: conductors by id that end elsewhere than planned (None: they lead nowhere), joins that should not be
    there, and contacts by their two terminals that make in place of break or break in place of make.
    """

    ends: Mapping[str, Ends | None] = field(default_factory=dict)
    extra: tuple[Ends, ...] = ()
    turned: frozenset[Ends] = frozenset()

    @property
    def is_as_planned(self) -> bool:
        """Whether nothing is wrong with it."""
        return not (self.ends or self.extra or self.turned)

    def ends_of(self, conductor: Conductor) -> Ends | None:
        """Return the terminals at which a conductor ends, None where it leads nowhere."""
        return self.ends.get(conductor.id, (conductor.a, conductor.b))

    def joins(self, plan: Plan) -> Iterator[Ends]:
        """Yield the two terminals of every conductor that is there, and of every join that should not be."""
        for conductor in plan.conductors:
            ends = self.ends_of(conductor)
            if ends is not None:
                yield ends
        yield from self.extra

    def is_turned(self, a: str, b: str) -> bool:
        """Return whether the contact between two terminals does the opposite of what it should."""
        return (a, b) in self.turned or (b, a) in self.turned

    def and_also(self, other: "Built") -> "Built":
        """Return a panel in which both are wrong; where both say how a conductor ends, the other one does."""
        return Built(
            ends={**self.ends, **other.ends}, extra=self.extra + other.extra, turned=self.turned ^ other.turned
        )


AS_PLANNED = Built()
