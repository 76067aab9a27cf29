"""The one edge of the command line: whatever goes wrong with a file is one sentence and exit 2, and nothing is half written."""

import errno
import functools
import os
import resource
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from headless import riktig, riktig_many
from riktig.cli import commands
from riktig.files.job_access import JobFileError
from riktig.main import main, report_of
from riktig.refusal import Refusal, Stopped, sentence_of
from support import small_text

PARTS = "code,kind,title,width,height,depth,mounting\n" + "".join(
    f"rx-{n},relay,Relay {n},18,80,70,rail\n" for n in range(200)
)
WRITING = {
    "import": ("import", "a.toml", "out/x.riktig"),
    "export-brief": ("export-brief", "a.riktig", "out/x.toml"),
    "export": ("export", "a.toml", "out"),
    "import-parts": ("import-parts", "parts.csv", "--into", "out/x.toml"),
    "take": ("take", "a.toml", "wires.csv", "--out", "out/x.toml"),
    "reconcile": ("reconcile", "a.toml", "list.csv", "--take", "out/x.toml"),
}
READING = {
    "import": ("import", "GONE", "x.riktig"),
    "export-brief": ("export-brief", "GONE", "x.toml"),
    "plan": ("plan", "GONE"),
    "check": ("check", "GONE"),
    "export": ("export", "GONE", "out"),
    "status": ("status", "GONE"),
    "live": ("live", "a.toml", "GONE"),
    "import-parts": ("import-parts", "GONE", "--into", "x.toml"),
    "take": ("take", "a.toml", "GONE"),
    "reconcile": ("reconcile", "a.toml", "GONE"),
    "print": ("print", "GONE", "--person", "A"),
    "derive-tests": ("derive-tests", "GONE"),
    "test-plan": ("test-plan", "GONE"),
    "test-report": ("test-report", "GONE", "out"),
    "meter": ("meter", "GONE"),
}


@pytest.fixture(scope="module")
def room(tmp_path_factory: pytest.TempPathFactory) -> Path:
    room = tmp_path_factory.mktemp("edge")
    (room / "a.toml").write_text(small_text())
    (room / "parts.csv").write_text(PARTS)
    (room / "list.csv").write_text("number,from,to\n1,K1:A1,S1:13\n")
    assert riktig("import", "a.toml", "a.riktig", cwd=room).returncode == 0
    assert riktig("export", "a.toml", ".", "--only", "wires", cwd=room).returncode == 0
    return room


def _small_files() -> None:
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (1024, 1024))


@pytest.mark.parametrize("name", WRITING)
def test_a_disk_that_takes_no_more_is_one_sentence_and_leaves_nothing(room: Path, name: str) -> None:
    (room / "out").mkdir(exist_ok=True)
    result = riktig(*WRITING[name], cwd=room, before=_small_files)
    assert (result.returncode, len(result.stderr.splitlines())) == (2, 1), result.stderr
    assert "sqlite" not in result.stderr.lower() and "Errno" not in result.stderr
    assert all(path.stat().st_size <= 1024 and path.suffix != ".toml" for path in (room / "out").iterdir())
    assert not [path for path in (room / "out").iterdir() if path.name.startswith(".")]


@pytest.mark.parametrize("gone", ["gone.toml", ".", "a.toml/x.riktig", "n" * 300 + ".toml"])
def test_a_file_that_cannot_be_read_is_one_sentence_of_every_command(room: Path, gone: str) -> None:
    commands = [[gone if word == "GONE" else word for word in words] for words in READING.values()]
    told = dict(zip(READING, riktig_many(commands, room), strict=True))
    assert {name: (code, len(said.splitlines())) for name, (code, said) in told.items()} == dict.fromkeys(
        READING, (2, 1)
    ), told
    assert not [said for _, said in told.values() if "Errno" in said or "Traceback" in said]


FAULTS: dict[str, tuple[BaseException, int]] = {
    "bad input": (Refusal("line 3: write a number"), 2),
    "disk full": (OSError(errno.ENOSPC, "No space left on device", "x"), 2),
    "read only": (OSError(errno.EROFS, "Read-only file system", "x"), 2),
    "not allowed": (PermissionError(errno.EACCES, "Permission denied", "x"), 2),
    "gone": (FileNotFoundError(errno.ENOENT, "No such file or directory", "x"), 2),
    "locked": (JobFileError("x.riktig is being written by another window: try again"), 2),
    "out of memory": (MemoryError(), 2),
    "stopped": (Stopped(), 130),
    "our own": (KeyError("Tollgate"), 70),
}


@pytest.mark.parametrize("fault", FAULTS)
def test_every_fault_in_every_command_is_one_sentence_and_its_exit_code(
    fault: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    """Whatever the command does: the fault comes out of the middle of it. Commands to come are walked too."""
    error, code = FAULTS[fault]
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    words = {**READING, **WRITING, "rescue": ("rescue", "a", "b"), "tables": ("tables",), "schema": ("schema",)}
    words["printer"] = ("printer",)
    assert words.keys() == commands.command_names()
    for command in commands.app.registered_commands:

        @functools.wraps(command.callback)  # type: ignore[arg-type]
        def fails(*_: object, **__: object) -> None:
            raise error

        with monkeypatch.context() as patch:
            patch.setattr(command, "callback", fails)
            name = command.name or command.callback.__name__  # type: ignore[union-attr]
            patch.setattr(sys, "argv", ["riktig", *words[name]])
            with pytest.raises(SystemExit) as ended:
                main()
        said = capsys.readouterr().err.strip()
        assert (ended.value.code, len(said.splitlines())) == (code, 1), (name, said)
        assert "Errno" not in said and "Tollgate" not in said and "Traceback" not in said


def test_what_may_go_wrong_has_its_sentence_and_our_own_faults_have_none() -> None:
    full = OSError(errno.ENOSPC, "No space left on device", "x.toml")
    assert sentence_of(full) == "x.toml: the disk is full: free some space or choose another folder"
    assert "memory" in sentence_of(MemoryError()) and sentence_of(Refusal("no")) == "no"
    assert sentence_of(KeyError("x")) == sentence_of(ValueError("x")) == ""


def test_a_report_holds_no_word_of_the_job_unless_it_is_to_be_whole() -> None:
    try:
        raise KeyError("Tollgate Orchard")
    except KeyError as error:
        bare, whole = (report_of(error, is_whole=is_whole) for is_whole in (False, True))
    assert "Orchard" not in bare.replace('raise KeyError("Tollgate Orchard")', "") and "KeyError" in bare
    assert "Tollgate Orchard" in whole and "test_edge.py" in bare


def test_a_command_that_is_stopped_says_so_and_leaves_nothing(tmp_path: Path) -> None:
    """Stopped while it waits for the rest of its input, as Ctrl+C does."""
    os.mkfifo(tmp_path / "parts.csv")
    words = ("import-parts", "parts.csv", "--into", "own.toml")
    command = [sys.executable, "-m", "riktig", *words]
    with subprocess.Popen(command, cwd=tmp_path, stderr=subprocess.PIPE, text=True) as run:
        end = os.open(tmp_path / "parts.csv", os.O_WRONLY)  # waits until it is read
        os.write(end, b"code,kind\n")
        run.send_signal(signal.SIGINT)
        os.close(end)  # a signal that came just before the read waits for its end
        _, said = run.communicate(timeout=60)
    assert (run.returncode, said.strip()) == (130, "stopped: no file is half written")
    assert [path.name for path in tmp_path.iterdir()] == ["parts.csv"]
