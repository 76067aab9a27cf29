"""What earlier versions kept is read: rows of the plate become rails and ducts, and nothing on them moves."""

from riktig.files.brief_reader import BriefError, parse_brief
from riktig.job.upgrade import with_rails
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER

OLD = {
    "row:0": {"value": "1000 70 70 supply"},
    "row:1": {"value": "740 60 110 starter"},
    "row:2": {"value": "470 30 30 field", "state": "kept"},
    "C1.T": {"value": "0 300"},
    "M1.Q": {"value": "1 70"},
    "M1.S0": {"value": "door 80 900"},
}
KEPT = "[kept.places]\n" + "".join(f'"{key}" = {{ auto = "{choice["value"]}" }}\n' for key, choice in OLD.items())


def test_rows_become_rails_and_ducts_where_they_were() -> None:
    """By hand: a plate 750 wide with ducts of 60 mm; 30 mm of finger room above the top row and below each row."""
    new = with_rails(OLD, 800.0, 1200.0)
    value = {key: choice["value"] for key, choice in new.items()}
    assert value["rail:R1"] == "65 1000 620" and new["rail:R3"]["state"] == "kept"
    assert value["duct:D3"] == "h 60 1100 630 60 80"
    assert value["duct:D4"] == "h 60 840 630 60 80" and value["duct:D2"].startswith("v 690 ")
    assert (value["M1.Q"], value["C1.T"], value["M1.S0"]) == ("R2 70", "R1 300", "door 80 900")
    assert with_rails(new, 800.0, 1200.0) == new


def test_a_brief_with_rows_settles_and_its_parts_stay() -> None:
    job = parse_brief(HEAD + STARTER + KEPT)
    plan = compute_plan(job)
    assert plan.plate.boxes["M1.Q"].x == 70 and plan.plate.boxes["M1.Q"].centre[1] == 740
    assert {f"D{n}" for n in range(1, 7)} <= {d.code for d in plan.plate.ducts}
    assert settle(job) is job


def test_a_row_that_is_none_is_said_with_the_mend() -> None:
    try:
        parse_brief(HEAD + STARTER + '[kept.places]\n"row:1" = "tall"\n')
    except BriefError as error:
        assert "kept.places: a row is no row: write" in str(error)
    else:
        raise AssertionError("it was read")
