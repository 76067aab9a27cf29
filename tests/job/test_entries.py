"""The texts of the ledger: each sort is written and read back as it was, and what it cannot mean is said with its form."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile
from riktig.job import edits, entries
from riktig.job.faults import JobError
from riktig.job.ledger import Choice, Ledger
from support import HEAD, STARTER, job_of

MM = st.integers(-20_000, 90_000).map(lambda tenth: tenth / 10)
LENGTH = st.integers(1, 90_000).map(lambda tenth: tenth / 10)
READERS = {
    entries.OnRail: (entries.read_place, st.builds(entries.OnRail, st.just("R7"), MM)),
    entries.OnPlate: (entries.read_place, st.builds(entries.OnPlate, MM, MM)),
    entries.OnDoor: (entries.read_place, st.builds(entries.OnDoor, MM, MM)),
    entries.RailPlace: (entries.read_rail, st.builds(entries.RailPlace, MM, MM, LENGTH)),
    entries.DuctPlace: (
        entries.read_duct,
        st.builds(entries.DuctPlace, is_vertical=st.booleans(), x=MM, y=MM, length=LENGTH, width=LENGTH, depth=LENGTH),
    ),
    entries.PlateSize: (entries.read_size, st.builds(entries.PlateSize, LENGTH, LENGTH, st.booleans())),
    entries.SheetPlace: (entries.read_sheet, st.builds(entries.SheetPlace, st.integers(10, 99_999), st.integers(0, 9))),
    entries.ClampPlace: (entries.read_clamp, st.builds(entries.ClampPlace, st.just("X1A"), st.integers(0, 999))),
}


@pytest.mark.parametrize("sort", READERS, ids=lambda sort: sort.__name__)
@given(data=st.data())
def test_what_is_written_reads_back(sort: type, data: st.DataObject) -> None:
    read, values = READERS[sort]
    value = data.draw(values)
    assert read(str(value)) == value


BAD = (
    ("places", "M1.K", "R1", "write `R1 X`"),
    ("places", "M1.K", "R1 nan", "write `R1 X`"),
    ("places", "M1.S0", "door 80", "write `door X Y`"),
    ("places", "rail:R1", "65 1000", "write `X Y LENGTH`"),
    ("places", "duct:D1", "x 1 2 3 4 5", "write `h X Y LENGTH WIDTH DEPTH`"),
    ("places", "plate:size", "750 1150 perhaps", "write `WIDTH HEIGHT arranged`"),
    ("sheets", "M1.power", "10", "write `SHEET LANE`"),
    ("clamps", "st|3", "X1", "write `STRIP:NUMBER`"),
    ("clamps", "3", "X1:3", "write `PLACE|NUMBER`"),
    ("numbers", "7", "M1.K", "write them as DEVICE:MARK"),
    ("links", "M1.K:A1", "plate", "write `DEVICE:MARK DEVICE:MARK`"),
    ("tags", "M1.K", " ", "leave the key out"),
)


@pytest.mark.parametrize(("sort", "key", "text", "mend"), BAD)
def test_what_a_sort_cannot_mean_is_refused_at_every_door(
    sort: str, key: str, text: str, mend: str, tmp_path: Path
) -> None:
    with pytest.raises(BriefError, match=rf"brief:\d+: kept\.{sort}") as brief:
        parse_brief(HEAD + STARTER + f'[kept.{sort}]\n"{key}" = "{text}"\n')
    assert mend in str(brief.value)
    job = job_of(HEAD + STARTER)
    with pytest.raises(JobError, match="none|nothing|no "):
        edits.keep_choice(job, sort, key, text)
    spoilt = edits.replace(job, ledger=Ledger(**{sort: {key: Choice(value=text)}}))
    JobFile.create(tmp_path / "a.riktig", spoilt).close()
    with JobFile.open(tmp_path / "a.riktig") as file, pytest.raises(JobFileError, match=f"kept.{sort}"):
        file.load_job()
