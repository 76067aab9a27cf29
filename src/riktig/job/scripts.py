"""Owns what a live script is: steps of what is done and expected, and what lives along in the field. Must not play it."""

from typing import Annotated, ClassVar

from pydantic import Field

from riktig.job.fields import Frozen, RowName, Word

MOST_STEPS, MOST_LINES, MOST_LETTERS = 2000, 200, 200
"""The most steps of a script, texts in one of its lists, and letters of one (common sense, no source)."""
Lines = Annotated[tuple[str, ...], Field(max_length=MOST_LINES)]


class Step(Frozen):
    """What is done one after the other, what is expected then, and what must not be at any instant of it."""

    most_letters: ClassVar[int] = MOST_LETTERS
    do: Lines = ()
    expect: Lines = ()
    never: Lines = ()


class FieldBody(Frozen):
    """Something of the field that lives along: where it stands at first, between which ends, what moves it by how much a second (claims,
    or `always`), and which switches it moves (`> 0.4`, `< 5`). One called as a level of the job is that, with its floats.
    """

    at: float = 0.0
    low: float | None = None
    high: float | None = None
    moves: dict[str, float] = {}
    operates: dict[Word, str] = {}


class Script(Frozen):
    """A script that is kept with its job."""

    name: RowName = "script"
    title: str = ""
    steps: Annotated[tuple[Step, ...], Field(max_length=MOST_STEPS)] = ()
    field: dict[Word, FieldBody] = {}


def never_in_words(claim: str) -> str:
    """Return what must not be at any instant of a step as one says it: `not K1 off` is `K1 off all the while`."""
    return f"{claim.removeprefix('not ')} all the while" if claim.startswith("not ") else f"at no instant {claim}"
