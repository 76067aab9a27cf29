"""The texts of the ledger: each sort is written and read back as it was, and what it cannot mean is said with its form."""

import json
import sqlite3
import zlib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile
from riktig.job import edits, entries
from riktig.job.faults import JobError
from riktig.job.ledger import Ledger
from support import HEAD, STARTER, job_of

MM = st.integers(-20_000, 90_000).map(lambda tenth: tenth / 10)
LENGTH = st.integers(1, 90_000).map(lambda tenth: tenth / 10)
DUCTS = st.lists(st.tuples(st.sampled_from(["D1", "D12"]), st.integers(1, 1000).map(float), st.just(62.5))).map(tuple)
READERS = {
    entries.OnRail: (entries.read_place, st.builds(entries.OnRail, st.just("R7"), MM)),
    entries.OnPlate: (entries.read_place, st.builds(entries.OnPlate, MM, MM)),
    entries.OnDoor: (entries.read_place, st.builds(entries.OnDoor, MM, MM)),
    entries.RailPlace: (entries.read_rail, st.builds(entries.RailPlace, MM, MM, LENGTH)),
    entries.DuctPlace: (
        entries.read_duct,
        st.builds(entries.DuctPlace, is_vertical=st.booleans(), x=MM, y=MM, length=LENGTH, width=LENGTH, depth=LENGTH),
    ),
    entries.PlateSize: (entries.read_size, st.builds(entries.PlateSize, LENGTH, LENGTH, st.booleans(), DUCTS)),
    entries.SheetPlace: (entries.read_sheet, st.builds(entries.SheetPlace, st.integers(10, 99_999), st.integers(0, 9))),
    entries.ClampPlace: (entries.read_clamp, st.builds(entries.ClampPlace, st.just("X1A"), st.integers(0, 999))),
    entries.Joined: (
        entries.read_terminals,
        st.lists(st.sampled_from(["M1.K:A1", "X1:3"])).map(tuple).map(entries.Joined),
    ),
    entries.Override: (entries.read_override, st.builds(entries.Override, LENGTH, st.just("spare | reel"))),
}


@pytest.mark.parametrize("sort", READERS, ids=lambda sort: sort.__name__)
@given(data=st.data())
def test_what_is_written_reads_back(sort: type, data: st.DataObject) -> None:
    read, values = READERS[sort]
    value = data.draw(values)
    assert read(str(value)) == value


@given(st.floats(-2000, 9000), st.floats(1e-3, 1e7))
def test_a_value_is_kept_as_it_is_written(x: float, number: float) -> None:
    """What a saved job has is what the open one has, to the last digit."""
    place, override = entries.OnRail("R1", x), entries.Override(number, "why")
    assert entries.read_place(str(place)) == place and place.x == pytest.approx(x, rel=1e-5, abs=1e-4)
    assert entries.read_override(str(override)) == override and override.number == pytest.approx(
        number, rel=1e-5, abs=1e-6
    )


BAD = (
    ("places", "M1.K", "R1", "write `R1 X`"),
    ("places", "M1.K", "R1 nan", "write `R1 X`"),
    ("places", "M1.S0", "door 80", "write `door X Y`"),
    ("places", "rail:R1", "65 1000", "write `X Y LENGTH`"),
    ("places", "duct:D1", "x 1 2 3 4 5", "write `h X Y LENGTH WIDTH DEPTH`"),
    ("places", "plate:size", "750 1150 provisional D1 60", "then `D1 WIDTH DEPTH`"),
    ("places", "plate:size", "750 1150 provisional ../x 60 80", "then `D1 WIDTH DEPTH`"),
    ("places", "plate:size", "750 1150 provisional D1 1e9 80", "in mm up to 1000"),
    ("groups", "M1", "0", "1 to 999"),
    ("groups", "M1", "many", "1 to 999"),
    ("places", "plate:size", "750 1150 perhaps", "write `WIDTH HEIGHT arranged`"),
    ("sheets", "M1.power", "10", "write `SHEET LANE`"),
    ("clamps", "st|3", "X1", "write `STRIP:NUMBER`"),
    ("clamps", "3", "X1:3", "write `PLACE|NUMBER`"),
    ("numbers", "7", "M1.K", "write them as DEVICE:MARK"),
    ("links", "M1.K:A1", "plate", "write `DEVICE:MARK DEVICE:MARK`"),
    ("tags", "M1.K", " ", "leave the key out"),
    ("values", "M1|conductor_section", "4", 'write "number | reason"'),
    ("values", "M1|conductor_section", "-4 | less", "give a number above 0"),
)


@pytest.mark.parametrize(("sort", "key", "text", "mend"), BAD)
def test_what_a_sort_cannot_mean_is_refused_at_every_door(
    sort: str, key: str, text: str, mend: str, tmp_path: Path
) -> None:
    with pytest.raises(BriefError, match=rf"brief:\d+: kept\.{sort}") as brief:
        parse_brief(HEAD + STARTER + f'[kept.{sort}]\n"{key}" = "{text}"\n')
    assert mend in str(brief.value)
    job = job_of(HEAD + STARTER)
    with pytest.raises(JobError, match="none|nothing|no |number"):
        edits.keep_choice(job, sort, key, text)
    with pytest.raises(ValueError, match=f"kept.{sort}"):
        Ledger.model_validate({sort: {key: {"value": text}}})
    JobFile.create(tmp_path / "a.riktig", job).close()
    _spoil(tmp_path / "a.riktig", sort, key, text)
    with JobFile.open(tmp_path / "a.riktig") as file, pytest.raises(JobFileError, match=f"kept.{sort}"):
        file.load_job()


def _spoil(path: Path, sort: str, key: str, text: str) -> None:
    """Put a choice into the stored job behind Riktig's back."""
    with sqlite3.connect(path) as db:
        (packed,) = db.execute("SELECT job FROM snapshots").fetchone()
        stored = json.loads(zlib.decompress(packed))
        stored["job"]["ledger"][sort] = {key: {"value": text, "state": "auto"}}
        db.execute("UPDATE snapshots SET job = ?", (zlib.compress(json.dumps(stored).encode()),))
