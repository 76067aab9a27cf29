"""First proposals beside plates laid out by hand: twelve jobs of one to thirty motors, their coordinates in `tests/data/plates`.

Each job stands in the smallest usual enclosure that the hand's plate fits; ours fits it too, at most a tenth more wire. Common practice,
no source: the plates were laid out row by row from the list of parts, before they were compared.
"""

import csv
from pathlib import Path

import pytest

from riktig.job.entries import DUCT_KEY, RAIL_KEY, DuctPlace, OnPlate, OnRail, RailPlace
from riktig.plan.arrange.cost import total_length
from riktig.plan.arrange.edit import with_places
from riktig.plan.place.faults import find_faults
from riktig.plan.plan import Plan, compute_plan
from support import plan_of

PLATES = Path(__file__).parents[2] / "data" / "plates"
MOST_WIRE = 1.1


def by_hand(plan: Plan, path: Path) -> Plan:
    """Return the Plan with rails, ducts and parts where a file has them."""
    places: dict[str, object] = {}
    with path.open(encoding="utf-8") as file:
        for row in csv.DictReader(file):
            x, y, length, width, depth = (float(row[key] or 0) for key in ("x", "y", "length", "width", "depth"))
            if row["what"] in {"upright", "level"}:
                places[DUCT_KEY + row["name"]] = DuctPlace(
                    is_vertical=row["what"] == "upright", x=x, y=y, length=length, width=width, depth=depth
                )
            elif row["what"] == "rail":
                places[RAIL_KEY + row["name"]] = RailPlace(x, y, length)
            else:
                places[row["name"]] = OnPlate(x, y) if row["what"] == "plate" else OnRail(row["what"], x)
    assert set(plan.plate.items) <= places.keys(), "each part has its place"
    return compute_plan(with_places(plan.job, places))


@pytest.mark.parametrize("school", ["columns", "rows"])
@pytest.mark.parametrize("path", sorted(PLATES.glob("*.toml")), ids=lambda path: path.stem)
def test_a_proposal_needs_no_larger_enclosure_and_little_more_wire_than_a_plate_laid_out_by_hand(
    path: Path, school: str
) -> None:
    text = path.read_text(encoding="utf-8").replace("[practice]\n", f'[practice]\nlayout = "{school}"\n')
    ours = plan_of(text)
    hand = by_hand(ours, path.with_suffix(".csv"))
    assert not find_faults(hand.plate) and not find_faults(ours.plate)
    assert total_length(ours) <= MOST_WIRE * total_length(hand)


def test_the_jobs_are_of_every_kind() -> None:
    text = [path.read_text(encoding="utf-8") for path in sorted(PLATES.glob("*.toml"))]
    assert len(text) == 12 and {one.count("[starter.") for one in text} >= {0, 1, 30}
    for word in ('"iec"', '"ul"', '"top"', '"bottom"', "[controller.", *(f'kind = "{k}"' for k in (
        "reversing", "star-delta", "drive", "soft", "pump", "psu", "transformer", "load"
    ))):  # fmt: skip
        assert any(word in one for one in text), word
