"""The series of enclosures that are commonly held in stock; a shop lays its own beside it."""

from dataclasses import dataclass

from riktig.standards.tables import Source, read_table

SOURCE_SERIES = Source("enclosure sizes in steps of 100 and 200 mm, common practice", ("enclosure_series",))


@dataclass(frozen=True, slots=True, order=True)
class EnclosureSize:
    """Outside width, height and depth in mm."""

    width: float
    height: float
    depth: float

    @property
    def litres(self) -> float:
        """Its volume."""
        return self.width * self.height * self.depth / 1e6

    def __str__(self) -> str:
        return f"{self.width:g} x {self.height:g} x {self.depth:g} mm"


def enclosure_series() -> tuple[EnclosureSize, ...]:
    """Return the sizes of the series from the smallest volume up.

    Source:
        Sizes commonly held in stock: common practice, no source.
    """
    sizes = [
        EnclosureSize(float(row["width"]), float(row["height"]), float(row["depth"]))
        for row in read_table("enclosure_series")
    ]
    return tuple(sorted(sizes, key=lambda size: (size.litres, size)))
