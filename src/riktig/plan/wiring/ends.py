"""Owns how each end of a conductor is finished: ferrule, pin or ring, and how far it is stripped. Must not know the circuit."""

from dataclasses import dataclass
from enum import StrEnum

from riktig.catalogue.model import Clamp
from riktig.job.practice import Practice, Standard
from riktig.units.conductor_size import ConductorSize

FINE, STRANDED = "5", "2"
"""Classes of conductor after IEC 60228: fine strands, and few thick ones."""


class Finish(StrEnum):
    """What is crimped onto an end."""

    FERRULE = "ferrule"
    PIN = "pin"
    RING = "ring"
    TWIN = "twin ferrule"
    BARE = "bare"


@dataclass(frozen=True, slots=True, kw_only=True)
class WireEnd:
    """An end: what is crimped on, for which size, and how far it is stripped in mm. `fit` tells one ferrule or ring from another of its
    size: the length of its sleeve in mm (`8`), or the stud that it goes on (`M8`).
    """

    finish: Finish
    size: ConductorSize
    strip_mm: float
    fit: str

    @property
    def text(self) -> str:
        """It in words: `ferrule 1 mm² 8 mm`, `twin ferrule 2 x 1 mm² 8 mm`, `ring 2.5 mm² M8`, `bare`."""
        if self.finish is Finish.BARE:
            return self.finish.value
        unit = " mm" if self.fit.isdigit() else ""
        times = "2 x " if self.finish is Finish.TWIN else ""
        return f"{self.finish.value} {times}{self.size.label()} {self.fit}{unit}"

    @property
    def code(self) -> str:
        """What it is ordered by; "" for a bare end."""
        if self.finish is Finish.BARE:
            return ""
        return f"{self.finish.value.replace(' ', '-')}-{self.size.mm2:g}-{self.fit}"


_SLEEVES = (
    (1.0, (8, 10)), (1.5, (8, 10, 12, 18)), (2.5, (8, 12, 18)), (4.0, (10, 12, 18)), (16.0, (12, 18)), (35.0, (18,)),
    (70.0, (20,)), (95.0, (25,)), (120.0, (27,)), (1000.0, (32,)),
)  # fmt: skip
"""Sections in mm2 up to which sleeves of these lengths in mm are made: DIN 46228-4, from memory; 15 and 16 mm are taken as 18."""
_COLLAR_MM = 2.0
"""So much further than the sleeve is a wire stripped, for the plastic collar (common practice, no source)."""
_BARRELS = ((6.0, 6.0), (10.0, 9.0), (16.0, 11.0), (25.0, 12.0), (35.0, 14.0), (70.0, 18.0), (1000.0, 24.0))
"""Sections in mm2 up to which the barrel of a pin or ring is this long in mm (common practice, no source)."""
_MOST_PIN_MM2 = 16.0
"""Larger stranded conductors go bare into the clamps made for them (common practice, no source)."""
_LUG_DEPTHS = ((35.0, 18.0), (70.0, 25.0), (1000.0, 35.0))
"""Sections in mm2 up to which a clamp takes so many mm of a bare conductor (common practice, no source; the part's sheet decides)."""
_STUDS = ((6.0, "M5"), (16.0, "M6"), (35.0, "M8"), (95.0, "M10"), (1000.0, "M12"))
"""Bolts by the section in mm2 that goes on them, where the part does not say (common practice, no source)."""


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


def finish_end(
    size: ConductorSize, clamp: Clamp, conductor_class: str, *, is_twin: bool = False, stud: str = ""
) -> WireEnd:
    """Return how an end is finished in a clamp.

    Args:
        size: of the conductor.
        clamp: where it lands; its `strip_mm` is how deep it is.
        conductor_class: fine strands, or few thick ones.
        is_twin: it shares a ferrule with another of the same section.
        stud: the thread of a bolt, where the part says it.

    Source:
        Fine strands get ferrules, few thick ones a pin, above 16 mm2 nothing; a ring under a bolt: common practice, no source. A wire is
        stripped by the sleeve of its ferrule or the barrel of its crimp, a bare one as its clamp is deep. Classes: IEC 60228; sleeves:
        DIN 46228-4, from memory.
    """
    if not is_twin and (clamp.clamp == "bolt" or conductor_class != FINE):
        strip = next(barrel for most, barrel in _BARRELS if size.mm2 <= most)
        if clamp.clamp != "bolt" and size.mm2 > _MOST_PIN_MM2:
            depth = next(depth for most, depth in _LUG_DEPTHS if size.mm2 <= most)
            return WireEnd(finish=Finish.BARE, size=size, strip_mm=max(depth, clamp.strip_mm), fit="")
        if clamp.clamp != "bolt":
            return WireEnd(
                finish=Finish.PIN, size=size, strip_mm=strip, fit=f"{round(min(max(clamp.strip_mm, 8.0), 18.0))}"
            )
        bolt = stud or next(thread for most, thread in _STUDS if size.mm2 <= most)
        return WireEnd(finish=Finish.RING, size=size, strip_mm=strip, fit=bolt)
    made = next(lengths for most, lengths in _SLEEVES if size.mm2 <= most)
    sleeve = max((length for length in made if length <= clamp.strip_mm + 1e-9), default=made[0])
    finish = Finish.TWIN if is_twin else Finish.FERRULE
    return WireEnd(finish=finish, size=size, strip_mm=sleeve + _COLLAR_MM, fit=f"{sleeve}")
