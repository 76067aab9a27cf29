"""Editions of a standard: which clause of an older one a source means. Numbers of clauses from memory of NEC 2017 and 2023 and of
IEC 60204-1:2005 and 2016.
"""

import pytest

from riktig.standards.editions import cite, editions_of

_OLD = (("IEC 60204-1", "2005"), ("NEC", "2017"))


@pytest.mark.parametrize(
    ("newest", "older"),
    [
        ("NEC 430.22, Table 310.16, 310.15(C)(1)(b)", "NEC 2017 430.22, Table 310.15(B)(16), 310.15(B)(3)(a)(2)"),
        ("NEC 725.60, Chapter 9 Table 11(B)", "NEC 2017 725.121, Chapter 9 Table 11(B)"),
        (
            "IEC 60204-1:2016 9.2.3.4.2, ISO 13850:2015 4.1.1, NFPA 79 9.2.5.4.1",
            "IEC 60204-1:2005 9.2.5.4.2, ISO 13850:2015 4.1.1, NFPA 79 9.2.5.4.1",
        ),
        ("IEC 60204-1:2016 8.2.6, IEC 61800-5-1 8.2.6", "IEC 60204-1:2005 8.2.8, IEC 61800-5-1 8.2.6"),
        ("IEC 60947-5-1 8.2.6, from memory", "IEC 60947-5-1 8.2.6, from memory"),
    ],
)
def test_a_clause_is_that_of_the_edition_and_of_its_standard_alone(newest: str, older: str) -> None:
    assert cite(newest, _OLD) == older


def test_the_newest_editions_leave_a_source_as_it_is() -> None:
    newest = tuple((name, editions_of(name)[0].year) for name, _ in _OLD)
    assert cite("NEC Table 310.16, IEC 60204-1:2016 8.2.6", newest) == "NEC Table 310.16, IEC 60204-1:2016 8.2.6"
