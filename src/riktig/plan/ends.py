"""Owns how each end of a conductor is finished: ferrule, pin or ring, and how far it is stripped. Must not know the circuit."""

from dataclasses import dataclass
from enum import StrEnum

from riktig.catalogue.model import Clamp
from riktig.job.model import Practice, Standard
from riktig.units.conductor_size import ConductorSize

FINE, STRANDED = "5", "2"
"""Classes of conductor after IEC 60228: fine strands, and few thick ones."""


class Finish(StrEnum):
    """What is crimped onto an end."""

    FERRULE = "ferrule"
    PIN = "pin"
    RING = "ring"


@dataclass(frozen=True, slots=True, kw_only=True)
class WireEnd:
    """An end: what is crimped on, for which size, and how far it is stripped in mm."""

    finish: Finish
    size: ConductorSize
    strip_mm: float

    @property
    def text(self) -> str:
        """It in words: `ferrule 1 mm²`."""
        return f"{self.finish.value} {self.size.label()}"


def class_of(practice: Practice) -> str:
    """Return the class of conductor that a shop wires with: as given, else fine strands, in North America few thick ones.

    Source:
        Common practice, no source.
    """
    return practice.conductor_class or (STRANDED if practice.standard is Standard.UL else FINE)


def finish_end(size: ConductorSize, clamp: Clamp, conductor_class: str) -> WireEnd:
    """Return how an end is finished in a clamp.

    Source:
        Fine strands get ferrules, few thick ones a pin; a ring under a bolt: common practice, no source. Classes: IEC 60228.
    """
    finish = Finish.RING if clamp.clamp == "bolt" else Finish.FERRULE if conductor_class == FINE else Finish.PIN
    return WireEnd(finish=finish, size=size, strip_mm=clamp.strip_mm)
