"""Owns what of label media a panel takes: metres of what is endless, pieces of all else, single characters by sign. Must not fit labels."""

from collections import Counter
from collections.abc import Iterator, Sequence

from riktig.catalogue.media import Medium
from riktig.drawings.labels.fitting import Fitted
from riktig.drawings.labels.pages import by_medium
from riktig.plan.making.bom import BomLine


def media_lines(labels: Sequence[Fitted]) -> Iterator[BomLine]:
    """Yield what to buy of each medium; what no medium takes is not bought.

    Args:
        labels: as they come out.
    """
    for medium, members in by_medium(labels).items():
        count = f"for {len(members)} label{'s' if len(members) > 1 else ''}"
        if medium.signs:
            for sign, pieces in sorted(count_signs(members).items()):
                yield _line(medium, f"{medium.code}-{sign}", f"{medium.title}: {sign}", pieces, "pc", count)
        elif medium.is_endless:
            metres = round(sum(label.width_mm for label in members) / 1000.0, 2)
            yield _line(medium, medium.code, medium.title, metres, "m", count)
        else:
            yield _line(medium, medium.code, medium.title, len(members), "pc", count)


def count_signs(labels: Sequence[Fitted]) -> Counter[str]:
    """Return how many pieces of each sign the labels of single characters take."""
    return Counter(sign for label in labels for line in label.lines for sign in line)


def _line(medium: Medium, code: str, title: str, quantity: float, unit: str, bought: str) -> BomLine:
    return BomLine(code=code, title=f"{title}, {medium.material}", quantity=quantity, unit=unit, tags=(), bought=bought)
