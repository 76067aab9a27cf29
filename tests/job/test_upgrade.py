"""What earlier versions kept is read: rows of the plate become rails and ducts, and nothing on them moves."""

from riktig.files.brief_reader import parse_brief
from riktig.files.brief_writer import write_brief
from riktig.files.job_file import JobFile
from riktig.job.edits import replace
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.upgrade import upgrade
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of

OLD = {
    "row:0": Choice(value="1000 70 70 supply"),
    "row:1": Choice(value="740 60 110 starter"),
    "row:2": Choice(value="470 30 30 field", state=ChoiceState.KEPT),
    "C1.T": Choice(value="0 300"),
    "M1.Q": Choice(value="1 70"),
    "M1.S0": Choice(value="door 80 900"),
}


def test_rows_become_rails_and_ducts_where_they_were() -> None:
    """By hand: a plate 750 wide with ducts of 60 mm; 30 mm of finger room above the top row and below each row."""
    job = job_of(HEAD + STARTER)
    new = upgrade(replace(job, ledger=replace(job.ledger, places=OLD))).ledger.places
    assert new["rail:R1"].value == "65 1000 620" and new["rail:R3"].is_held
    assert new["duct:D3"].value == "h 60 1100 630 60 80"
    assert new["duct:D4"].value == "h 60 840 630 60 80" and new["duct:D2"].value.startswith("v 690 ")
    assert (new["M1.Q"].value, new["C1.T"].value, new["M1.S0"].value) == ("R2 70", "R1 300", "door 80 900")
    assert upgrade(job) is job


def test_an_old_job_settles_and_its_file_and_brief_open(tmp_path) -> None:  # type: ignore[no-untyped-def]
    job = job_of(HEAD + STARTER)
    old = replace(job, ledger=replace(job.ledger, places=OLD))
    settled = settle(old)
    plan = compute_plan(settled)
    assert plan.plate.boxes["M1.Q"].x == 70 and plan.plate.boxes["M1.Q"].centre[1] == 740
    assert {f"D{n}" for n in range(1, 7)} <= {d.code for d in plan.plate.ducts}
    assert settle(settled) is settled
    assert compute_plan(parse_brief(write_brief(old))).plate.boxes["M1.Q"].x == 70
    JobFile.create(tmp_path / "old.riktig", old).close()
    with JobFile.open(tmp_path / "old.riktig") as file:
        assert "rail:R1" in file.load_job().ledger.places
