"""The Job as stored: supplies by hand, immutable, and the same after a trip through JSON."""

import pytest
from pydantic import ValidationError

from riktig.job.model import Job, Supply, job_schema
from riktig.plan.making.release import issue_revision
from support import GROUPS, TWO_STATIONS, job_of, small_text


@pytest.mark.parametrize(
    ("system", "volts", "lines", "neutral", "to_neutral"),
    [
        ("3ph+n", 400, ("L1", "L2", "L3"), True, 230.9),
        ("3ph", 480, ("L1", "L2", "L3"), False, 277.1),
        ("1ph+n", 230, ("L1",), True, 230),
        ("1ph3w", 240, ("L1", "L2"), True, 120),
    ],
)
def test_lines_and_volts_of_each_system(
    system: str, volts: float, lines: tuple[str, ...], neutral: bool, to_neutral: float
) -> None:
    """By hand: line to neutral is the line voltage by root three, or the half between two lines with a middle."""
    supply = Supply(system=system, volts=volts)  # type: ignore[arg-type]
    assert (supply.lines, supply.has_neutral) == (lines, neutral)
    assert supply.line_to_neutral == pytest.approx(to_neutral, abs=0.1)


@pytest.mark.parametrize("text", [small_text("iec"), small_text("ul"), TWO_STATIONS, GROUPS])
def test_a_job_comes_back_equal_from_its_json(text: str) -> None:
    for job in (job_of(text), issue_revision(job_of(text), "A")):
        assert Job.model_validate_json(job.model_dump_json(exclude_defaults=True)) == job


def test_a_job_cannot_be_changed_in_place() -> None:
    job = job_of(small_text())
    with pytest.raises(ValidationError):
        job.info = job.info  # type: ignore[misc]
    with pytest.raises(ValidationError):
        job.starters[0].kw = 4.0


def test_the_field_is_there_without_being_declared_and_others_are_not() -> None:
    job = job_of(TWO_STATIONS)
    field = job.location("field")
    assert field is not None and field.distance == 20
    assert job.location("cellar") is None and job.starter("M9") is None


def test_the_schema_forbids_unknown_keys_everywhere() -> None:
    schema = job_schema()
    assert schema["additionalProperties"] is False
    objects = [d for d in schema["$defs"].values() if d.get("type") == "object"]
    assert objects and all(d["additionalProperties"] is False for d in objects)
