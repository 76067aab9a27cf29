"""Files are written whole or not at all: never over what was read, never over a file of another kind."""

import os
import time
from pathlib import Path

import pytest

from riktig.files.brief_writer import save_brief
from riktig.files.documents import ExportError, export_documents
from riktig.files.job_file import JobFile
from riktig.files.writing import FileKind, WriteError, check_target, kind_of, write_text
from support import job_of, plan_of, small_text


@pytest.fixture
def job_path(tmp_path: Path) -> Path:
    path = tmp_path / "a.riktig"
    JobFile.create(path, job_of(small_text())).close()
    return path


def test_a_file_is_known_by_what_stands_in_it(tmp_path: Path, job_path: Path) -> None:
    written = export_documents(plan_of(small_text()), tmp_path, ("bom", "plate"))
    kinds = {path.suffix: kind_of(path) for path in written}
    assert kinds == {
        ".csv": FileKind.TEXT, ".xlsx": FileKind.WORKBOOK, ".svg": FileKind.SVG, ".dxf": FileKind.DXF, ".pdf": FileKind.PDF,
    }  # fmt: skip
    assert kind_of(job_path) is FileKind.JOB
    (tmp_path / "x").write_bytes(b"\x00\x01\xff")
    assert kind_of(tmp_path / "x") is FileKind.OTHER


@pytest.mark.parametrize("kind", list(FileKind))
def test_nothing_but_a_job_is_ever_written_over_a_job(job_path: Path, kind: FileKind) -> None:
    if kind is not FileKind.JOB:
        with pytest.raises(WriteError, match=r"a\.riktig is a job file and no .+: choose another name"):
            check_target(job_path, kind)


def test_what_was_read_is_not_written_over_by_any_of_its_names(tmp_path: Path) -> None:
    brief, other = tmp_path / "a.toml", tmp_path / "link.toml"
    brief.write_text(small_text())
    other.symlink_to(brief)
    before = brief.read_bytes()
    for target in (brief, other, tmp_path / "." / "a.toml"):
        with pytest.raises(WriteError, match="is what is read here"):
            save_brief(job_of(small_text()), target, (brief,))
    assert brief.read_bytes() == before


def test_a_brief_takes_the_place_of_a_brief_and_of_nothing_else(tmp_path: Path) -> None:
    job = job_of(small_text())
    notes, brief = tmp_path / "notes.toml", tmp_path / "b.toml"
    notes.write_text("call the customer back\n")
    with pytest.raises(WriteError, match="is a text and no brief"):
        save_brief(job, notes)
    assert notes.read_text() == "call the customer back\n"
    brief.write_text("brief = 1\n")
    save_brief(job, brief)
    assert "[starter.M1]" in brief.read_text()


def test_documents_are_written_again_but_over_no_job(tmp_path: Path, job_path: Path) -> None:
    plan = plan_of(small_text())
    for _ in range(2):
        assert len(export_documents(plan, tmp_path, ("wires", "plate", "door"))) > 8
    (tmp_path / "bom.csv").write_bytes(job_path.read_bytes())
    with pytest.raises(ExportError, match=r"bom\.csv is a job file"):
        export_documents(plan, tmp_path, ("bom",))
    with pytest.raises(ExportError, match="is what is read here"):
        export_documents(plan, tmp_path, ("wires",), inputs=(tmp_path / "wires.csv",))


def test_a_folder_or_a_place_that_cannot_be_written_is_a_sentence(tmp_path: Path) -> None:
    job = job_of(small_text())
    with pytest.raises(WriteError, match="is a folder"):
        save_brief(job, tmp_path)
    with pytest.raises(WriteError, match="cannot write .*No such file or directory; choose another name"):
        save_brief(job, tmp_path / "no" / "b.toml")


def test_what_a_killed_writer_left_is_removed_once_nobody_can_be_at_it(tmp_path: Path) -> None:
    target, old, new, other = (
        tmp_path / name for name in ("a[1].csv", ".a[1].csv.x.new", ".a[1].csv.y.new", ".b.csv.x.new")
    )
    for left in (old, new, other):
        left.write_text("half")
    for left in (old, other):
        os.utime(left, (time.time() - 4000,) * 2)
    write_text(target, "x\n", FileKind.TEXT)
    assert sorted(path.name for path in tmp_path.iterdir()) == sorted(path.name for path in (target, new, other))
