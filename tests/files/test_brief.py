"""Bad briefs: every fault in one line with its place and mend. Good ones come back equal."""

from pathlib import Path

import pytest

from riktig.files.brief_reader import BriefError, parse_brief, read_brief
from riktig.files.brief_writer import write_brief
from riktig.files.toml_lines import find_lines, line_of
from riktig.job import edits
from riktig.plan.making.release import issue_revision
from riktig.plan.settle import settle
from support import GROUPS, HEAD, STARTER, TWO_STATIONS, job_of, small_text

GOOD = HEAD + STARTER
LINES = GOOD.count("\n")


def faults(text: str) -> list[tuple[int, str, str]]:
    with pytest.raises(BriefError) as caught:
        parse_brief(text, "b.toml")
    return [(f.line, f.key, f.message) for f in caught.value.faults]


@pytest.mark.parametrize(
    ("text", "line", "key", "mend"),
    [
        (GOOD + "colour = 1\n", LINES + 1, "starter.M1.colour", "known here"),
        (GOOD.replace("volts = 400", 'volts = "400"'), 6, "supply.volts", 'or "400 V"'),
        (GOOD + '[[feeder]]\npath = "L1 L2 > M1.K > @a"\n', LINES + 2, "feeder[1].path", "widths must agree"),
        (GOOD + '[[rung]]\npath = "C1+ > K9:no > C1-"\n', LINES + 2, "rung[1].path", "add [device.K9]"),
        (GOOD.replace("width = 800", "width = -800"), 8, "enclosure.width", "more than 0"),
        (GOOD + '[device.X]\nkind = "relais"\n', LINES + 2, "device.X.kind", "did you mean 'relay'"),
        (GOOD + '[[rung]]\npath = "C1+ > (M1.K:no > C1-"\n', LINES + 2, "rung[1].path", "begins and ends"),
        (GOOD.replace("volts = 400", "volts = "), 6, "", "this is not TOML"),
        ("", 1, "", "the file is empty"),
        (GOOD + "\0", LINES + 1, "", "this is no text"),
        (GOOD.replace("[supply]", "[suply]"), 4, "suply", "did you mean 'supply'"),
        (GOOD.replace('system = "3ph+n"', 'system = "4ph"'), 5, "supply.system", "use '1ph+n'"),
        (GOOD.replace("brief = 1", "brief = 7"), 1, "", "this version reads 1"),
        (GOOD.replace('number = "T-1"', ""), 2, "job.number", "add number ="),
        (GOOD.replace('supply = "C1"', 'supply = "C2"'), 18, "starter.M1.supply", "there: C1"),
        (GOOD + '[[rung]]\npath = "C1+ > M1.Z:no > C1-"\n', LINES + 2, "rung[1].path", "it has: Q, K, F"),
        (GOOD + '[kept.tags]\n"M1.K" = 7\n', LINES + 2, "kept.tags.M1.K", "{ frozen ="),
    ],
)
def test_a_bad_brief_names_line_key_and_mend(text: str, line: int, key: str, mend: str) -> None:
    found = faults(text)
    assert any(f[0] == line and f[1] == key and mend in f[2] for f in found), found


def test_every_fault_is_named_at_once_in_the_order_of_lines() -> None:
    text = GOOD.replace("width = 800", "width = -1").replace("kw = 1.5", "kw = 0").replace("volts = 230", "volt = 230")
    assert [f[1] for f in faults(text)] == ["enclosure.width", "control.C1.volt", "starter.M1.kw"]


def test_faults_of_tables_and_between_them_are_named_together_and_none_follows_from_another() -> None:
    text = GOOD.replace("volts = 400", 'volts = "400"').replace("kw = 1.5", "kw = -1") + (
        '[device.X]\nkind = "relais"\n[device.S1]\nkind = "pushbutton"\ncontacts = 3\n'
        '[[rung]]\npath = "C1+ > S1:no > M1.K:no > Y:no > C1-"\n[[rung]]\npath = "C1+ > (S1:no > C1-"\n'
    )
    assert [f[1] for f in faults(text)] == [
        "supply.volts", "starter.M1.kw", "device.X.kind", "device.S1.contacts", "rung[1].path", "rung[2].path"
    ]  # fmt: skip


def test_a_binary_file_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "photo.toml"
    path.write_bytes(b"\x89PNG\r\n\x1a\n\xff\xfe")
    with pytest.raises(BriefError, match=r"photo.toml:1: this is no text"):
        read_brief(path)


@pytest.mark.parametrize("text", [small_text("iec"), small_text("ul"), TWO_STATIONS, GROUPS])
def test_a_brief_written_comes_back_equal(text: str) -> None:
    job = issue_revision(job_of(text), "B")
    again = parse_brief(write_brief(job))
    assert again == job
    changed = settle(edits.keep_choice(edits.remove(job, "locations", "st9"), "tags", "C1.F", "F9"))
    assert parse_brief(write_brief(changed)) == changed


def test_lines_are_found_for_keys_tables_and_rows() -> None:
    lines = find_lines('a = 1\n[t."x y"]\nb = [\n "[c]",\n]\n[[r]]\np = 1\n[[r]]\np = 2 # [z]\n')
    assert [lines[k] for k in (("a",), ("t", "x y"), ("t", "x y", "b"), ("r", 0, "p"), ("r", 1, "p"))] == [
        1,
        2,
        3,
        7,
        9,
    ]
    assert line_of(lines, ("r", 1, "nothing")) == 8
