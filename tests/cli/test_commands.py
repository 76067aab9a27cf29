"""The command line as a person or script uses it, in a process of its own."""

import json
from pathlib import Path

import pytest

from headless import riktig, riktig_many
from riktig import main
from riktig.files.job_file import JobFile
from riktig.record.events import EventKind, make_event
from support import HEAD, STARTER, small_text


@pytest.fixture
def brief(tmp_path: Path) -> Path:
    path = tmp_path / "a.toml"
    path.write_text(small_text())
    return path


def test_a_brief_goes_in_and_comes_out_equal(brief: Path, tmp_path: Path) -> None:
    job, out = tmp_path / "a.riktig", tmp_path / "b.toml"
    assert riktig("import", brief, job).returncode == 0
    assert riktig("export-brief", job, out).returncode == 0
    first, second = riktig("plan", job), riktig("plan", out)
    assert first.stdout == second.stdout and json.loads(first.stdout)["job"]["number"] == "R-0417"


def test_import_refuses_to_overwrite_and_replace_keeps_the_record(brief: Path, tmp_path: Path) -> None:
    job = tmp_path / "a.riktig"
    riktig("import", brief, job)
    with JobFile.open(job) as file:
        file.append_event(make_event(EventKind.NOTE, "x", unit="1", person="Ada"))
    refused = riktig("import", brief, job)
    assert (refused.returncode, "exists" in refused.stderr) == (2, True)
    brief.write_text(small_text().replace("1.5", "4"))
    assert riktig("import", brief, job, "--replace").returncode == 0
    with JobFile.open(job) as file:
        assert (len(file.events()), file.load_job().starters[0].kw) == (1, 4)


def test_no_command_writes_over_what_it_reads_or_over_a_job(brief: Path, tmp_path: Path) -> None:
    job, other, schedule = tmp_path / "a.riktig", tmp_path / "b.riktig", tmp_path / "wires.csv"
    riktig_many([("import", brief, job), ("import", brief, other), ("export", brief, tmp_path, "--only", "wires")])
    files = (brief, job, other, schedule)
    before = {path: path.read_bytes() for path in files}
    commands: list[tuple[str | Path, ...]] = [
        ("export-brief", job, job), ("export-brief", brief, brief), ("export-brief", brief, other),
        ("take", brief, schedule, "--out", brief), ("take", brief, schedule, "--out", other),
        ("take", brief, schedule, "--out", schedule), ("take", job, schedule, "--out", job),
        ("reconcile", brief, schedule, "--take", brief), ("reconcile", brief, schedule, "--take", job),
        ("import-parts", schedule, "--into", job), ("import-parts", schedule, "--into", schedule),
        ("import", brief, brief, "--replace"), ("export", brief, brief),
    ]  # fmt: skip
    for words, (code, said) in zip(commands, riktig_many(commands), strict=True):
        assert (code, len(said.splitlines())) == (2, 1), (words, said)
    assert {path: path.read_bytes() for path in files} == before


def test_a_bad_brief_leaves_with_two_and_writes_nothing(tmp_path: Path) -> None:
    bad, out = tmp_path / "bad.toml", tmp_path / "bad.riktig"
    bad.write_text(HEAD.replace("volts = 400", 'volts = "400"') + STARTER + "colour = 1\n")
    result = riktig("import", bad, out)
    lines = result.stderr.splitlines()
    assert (result.returncode, len(lines), out.exists()) == (2, 2, False)
    assert lines[0].startswith("bad.toml:6: supply.volts: ") and lines[1].startswith("bad.toml:20: starter.M1.colour: ")


@pytest.mark.parametrize("words", [("plan", "nothing.riktig"), ("check", "nothing.toml"), ("status", "/")])
def test_a_missing_file_is_a_sentence_and_never_a_trace(words: tuple[str, str]) -> None:
    result = riktig(*words)
    assert result.returncode == 2 and "Traceback" not in result.stderr and len(result.stderr.splitlines()) == 1


def test_check_tells_by_its_exit_whether_something_must_be_mended(brief: Path) -> None:
    assert riktig("check", brief).returncode == 0
    brief.write_text(small_text().replace("kw = 1.5", "kw = 90"))
    result = riktig("check", brief, "--json")
    severities = [f["severity"] for f in json.loads(result.stdout)["findings"]]
    assert (result.returncode, severities[0]) == (1, "must")
    assert severities == sorted(severities, key=["must", "should", "note"].index)


def test_export_writes_what_was_asked_for(brief: Path, tmp_path: Path) -> None:
    assert riktig("export", brief, tmp_path / "out", "--only", "wires,plate").returncode == 0
    assert {p.name for p in (tmp_path / "out").iterdir()} == {
        "wires.csv",
        "wires.xlsx",
        "plate.svg",
        "plate.dxf",
        "plate.pdf",
        "plate-template.svg",
        "plate-template.dxf",
        "plate-template.pdf",
    }
    assert riktig("export", brief, tmp_path / "out", "--only", "wyres").returncode == 2


def test_status_counts_ticks_of_its_unit(brief: Path, tmp_path: Path) -> None:
    job = tmp_path / "a.riktig"
    riktig("import", brief, job)
    first = json.loads(riktig("status", job, "--json").stdout)
    with JobFile.open(job) as file:
        event = make_event(EventKind.TICK, "piece:D1:cut", unit="7", person="Ada", **{"as": "duct 40x60 650"})
        file.append_event(event)
    after = json.loads(riktig("status", job, "--json", "--unit", "7").stdout)
    assert (first["operations"]["done"], after["operations"]["done"]) == (0, 1)
    assert "Next:" in riktig("status", job).stdout


def test_the_words_that_are_commands_are_known_without_loading_them() -> None:
    from riktig.cli.commands import command_names

    assert command_names() | {"--help"} == main._COMMANDS


def test_the_schema_describes_a_job() -> None:
    assert json.loads(riktig("schema").stdout)["required"] == ["info", "supply"]


def test_the_worked_checks_of_the_trade_come_out_of_the_command_line(tmp_path: Path) -> None:
    """Numbers 1 to 5 of a start-stop circuit; 3 to the motor, 1 2 3 to the station, one jumper: common practice, no source."""
    path = tmp_path / "station.toml"
    text = HEAD.replace("[supply]", '[practice]\noverload_contact = "return"\n[supply]')
    path.write_text(text + '[starter.M1]\nkw = 1.5\nsupply = "C1"\nbuttons_at = "st1"\n')
    plan = json.loads(riktig("plan", path).stdout)
    number = {t: p["number"] for p in plan["potentials"] for t in p["terminals"]}
    ends = ["S1:11", "S1:12", "S2:13", "K1:13", "S2:14", "K1:14", "K1:A1", "K1:A2", "F1:95", "F1:96"]
    assert [number[end] for end in ends] == ["1", "2", "2", "2", "3", "3", "3", "4", "4", "5"]
    cables = {c["to"]: c["conductors"] for c in plan["cables"]}
    assert cables == {"st1": ["1", "2", "3", "PE"], "M1": ["3L1", "3L2", "3L3", "PE"]}
    assert [(c["number"], c["from"], c["to"]) for c in plan["conductors"] if c["location"] == "st1"] == [
        ("2", "S1:12", "S2:13")
    ]


def test_a_list_of_existing_wires_is_compared_and_its_numbers_taken(tmp_path: Path) -> None:
    brief = tmp_path / "one.toml"
    brief.write_text(small_text())
    assert riktig("export", brief, tmp_path, "--only", "wires").returncode == 0
    rows = (tmp_path / "wires.csv").read_text().splitlines()
    (tmp_path / "old.csv").write_text(
        "\n".join([rows[0], *(f"7{row}" if row.startswith("3,") else row for row in rows[1:])])
    )
    taken = riktig("reconcile", brief, tmp_path / "old.csv", "--take", tmp_path / "new.toml")
    assert (taken.returncode, taken.stdout) == (0, "0 to clear up, 1 numbers differ where circuit and list agree.\n")
    assert '"73" = ' in (tmp_path / "new.toml").read_text()
    (tmp_path / "old.csv").write_text("\n".join([*rows[:-1], "9,wire,K9:1,K9:2"]))
    found = json.loads(riktig("reconcile", brief, tmp_path / "old.csv", "--json").stdout)
    assert {d["sort"] for d in found["discrepancies"]} >= {"extra"}
    bad = riktig("reconcile", brief, brief)
    assert bad.returncode == 2 and "heading 'from' is missing" in bad.stderr
