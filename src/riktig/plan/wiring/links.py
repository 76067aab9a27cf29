"""Owns what a direct join of two terminals is, and where it lies. Must not decide who is joined to whom."""

from dataclasses import dataclass
from enum import StrEnum

from riktig.job.ids import TerminalId
from riktig.plan.circuit.zones import device_of, is_drop
from riktig.plan.net.runs import Runs

HINGE = "hinge"


class Means(StrEnum):
    """What joins two terminals: a wire or core; what comes with the parts (an overload plugged on its contactor, clamps on one
    earthed rail); a bridge plugged into neighbours, which takes no room in a clamp; a tooth of a comb, which takes the room of a
    conductor.
    """

    WIRE = "wire"
    FACTORY = "link"
    BRIDGE = "bridge"
    COMB = "comb"


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """A direct join of two terminals of one potential. `where` is a zone, `hinge`, or `cable:RUN`; `means` is what joins them."""

    a: TerminalId
    b: TerminalId
    number: str
    where: str
    means: Means = Means.WIRE

    @property
    def is_wired(self) -> bool:
        """Whether it is a conductor that is cut and landed."""
        return self.means is Means.WIRE

    @property
    def is_inside_one(self) -> bool:
        """Whether it joins two terminals of one device."""
        return device_of(self.a) == device_of(self.b)

    @property
    def key(self) -> str:
        """The unordered pair of terminals, as the ledger keys it."""
        return link_key(self.a, self.b)


def where_between(zone_a: str, zone_b: str, number: str, runs: Runs) -> str:
    """Return where a link of a potential between two zones lies: the zone, the hinge, or a cable run."""
    if zone_a == zone_b:
        return zone_a
    local = next((run for run in runs.local(number) if {run.origin, run.zone} == {zone_a, zone_b}), None)
    if local is not None:
        return f"cable:{local.key}"
    drop = next((zone for zone in (zone_a, zone_b) if is_drop(zone)), None)
    return HINGE if drop is None else f"cable:{runs.key_for(drop, number)}"


def link_key(a: str, b: str) -> str:
    """Return what the ledger calls the link between two terminals."""
    return " ".join(sorted((a, b)))
