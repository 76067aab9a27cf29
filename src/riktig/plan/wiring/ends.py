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
    TWIN = "twin ferrule"


@dataclass(frozen=True, slots=True, kw_only=True)
class WireEnd:
    """An end: what is crimped on, for which size, and how far it is stripped in mm."""

    finish: Finish
    size: ConductorSize
    strip_mm: float

    @property
    def text(self) -> str:
        """It in words: `ferrule 1 mm²`, `twin ferrule 2 x 1 mm²`."""
        if self.finish is Finish.TWIN:
            return f"{self.finish.value} 2 x {self.size.label()}"
        return f"{self.finish.value} {self.size.label()}"


def class_of(practice: Practice) -> str:
    """Return the class of conductor that a shop wires with: as given, else fine strands, in North America few thick ones.

    Source:
        Common practice, no source.
    """
    return practice.conductor_class or (STRANDED if practice.standard is Standard.UL else FINE)


def takes_twin(size: ConductorSize, clamp: Clamp, conductor_class: str) -> bool:
    """Return whether a clamp for one conductor takes two of equal section in a twin ferrule: fine strands, and room for both.

    Source:
        A twin ferrule makes two wires of equal section one: common practice, no source.
    """
    return (
        clamp.capacity == 1
        and clamp.clamp != "bolt"
        and conductor_class == FINE
        and 2 * size.mm2 <= clamp.mm2_max + 1e-9
    )


def finish_end(size: ConductorSize, clamp: Clamp, conductor_class: str, *, is_twin: bool = False) -> WireEnd:
    """Return how an end is finished in a clamp; `is_twin`: it shares a ferrule with another of the same section.

    Source:
        Fine strands get ferrules, few thick ones a pin; a ring under a bolt: common practice, no source. Classes: IEC 60228.
    """
    if is_twin:
        return WireEnd(finish=Finish.TWIN, size=size, strip_mm=clamp.strip_mm)
    finish = Finish.RING if clamp.clamp == "bolt" else Finish.FERRULE if conductor_class == FINE else Finish.PIN
    return WireEnd(finish=finish, size=size, strip_mm=clamp.strip_mm)
