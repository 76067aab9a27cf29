"""What may follow in a path that is being typed, and where its fault is marked."""

import pytest

from riktig.job.completion import complete_path, mark_faults
from support import HEAD, STARTER, job_of

JOB = job_of(HEAD + STARTER + '[device.K9]\nkind = "relay"\n[device.S4]\nkind = "selector"\ncontacts = ["low", "high"]\n'
             + '[[rung]]\npath = "C1+ > M1.K:no > @node > K9:coil > C1-"\n')  # fmt: skip


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("", "C1+"), ("C", "C1+"), ("C1+ > @n", "@node"), ("C1+ > K", "K9"), ("C1+ > M1.", "M1.K"), ("C1+ > (M1.S", "M1.S0"),
        ("C1+ > K9:n", "no"), ("C1+ > K9:c", "coil"), ("C1+ > S4:", "low"), ("C1+ > M1.F:9", "95-96"), ("C1+ > M1.H:", "lamp"),
    ],
)  # fmt: skip
def test_what_may_follow_is_offered(text: str, word: str) -> None:
    found = complete_path(text, len(text), JOB)
    assert word in found.words
    assert all((text[: found.start] + w).startswith(text[: found.start]) for w in found.words)


def test_nothing_is_offered_that_does_not_begin_as_typed() -> None:
    assert complete_path("C1+ > zz", 8, JOB).words == ()
    assert set(complete_path("C1+ > M1.H", 10, JOB).words) == {"M1.H", "M1.HT"}


@pytest.mark.parametrize(
    ("text", "span"), [("C1+ > K8:no > C1-", "K8:no"), ("C1+ > K9:auf > C1-", "K9:auf"), ("C1+ > M1.Z > C1-", "M1.Z"),
                       ("C9+ > K9 > C1-", "C9+")]
)  # fmt: skip
def test_a_fault_is_marked_where_it_stands(text: str, span: str) -> None:
    (mark,) = mark_faults(text, JOB, is_feeder=False)
    assert text[mark.start : mark.end] == span


@pytest.mark.parametrize("text", ["C1+ >", "C1+ > (K9:no", "> K9", "C1+ > [2]", "x"])
def test_half_a_path_has_a_mark_inside_the_text(text: str) -> None:
    (mark, *_) = mark_faults(text, JOB, is_feeder=False)
    assert 0 <= mark.start < mark.end <= max(len(text), 1)
