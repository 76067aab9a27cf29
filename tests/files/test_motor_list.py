"""A motor list from a spreadsheet: what it comes to, and what is said of its bad lines."""

import pytest

from riktig.files.motor_list import read_motor_list


def test_rows_without_headings_are_name_title_power_and_kind() -> None:
    read = read_motor_list("M1\tElevator\t1,5 kW\tDOL\nM2\tMill\t11\tstar-delta\n\nM3\tAuger\t3 hp\tVFD\n", supply="C1")
    assert read.faults == ()
    assert [(s.name, s.kw, s.hp, s.kind) for s in read.starters] == [
        ("M1", 1.5, None, "dol"), ("M2", 11, None, "star-delta"), ("M3", None, 3, "drive"),
    ]  # fmt: skip


def test_headings_say_what_the_columns_hold() -> None:
    text = "Tag;Power (kW);Description;Starter;Lamps;FLA\nP1;0.75;Pump;direct;run+trip;1,9 A\n"
    (starter,) = read_motor_list(text, supply="C2").starters
    assert (starter.name, starter.kw, starter.title, starter.amps) == ("P1", 0.75, "Pump", 1.9)
    assert starter.lamps == ("run", "trip") and starter.supply == "C2"


@pytest.mark.parametrize(
    ("text", "line", "column", "words"),
    [
        ("M1\tx\tten\n", 1, "kw", "is no quantity"),
        ("M1\tx\t1.5\tturbo\n", 1, "kind", "use 'dol'"),
        ("M1\tx\t1\nM1\ty\t2\n", 2, "name", "is there already"),
        ("M9\tx\t1\n", 1, "name", "is there already"),
        ("\tx\t1\n", 1, "name", "has no name"),
        ("1M\tx\t1\n", 1, "name", "is no name"),
        ("M1\tx\t\n", 1, "", "once, as kw or as hp"),
        ("M1\ta\t1\tdol\tx\n", 1, "", "5 cells for 4 columns"),
        ("name;kww\nM1;1\n", 1, "kww", "did you mean 'kw'"),
        ("  \n", 1, "", "the list is empty"),
    ],
)
def test_a_bad_line_is_named_with_its_column_and_mend(text: str, line: int, column: str, words: str) -> None:
    fault = read_motor_list(text, supply="C1", taken=frozenset({"M9"})).faults[0]
    assert (fault.line, fault.column) == (line, column) and words in fault.text()
