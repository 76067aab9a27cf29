"""Owns what a live script is: steps of what is done and expected, and what lives along in the field. Must not play it."""

from collections.abc import Sequence
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


def seen_in_words(expect: Sequence[str], never: Sequence[str]) -> str:
    """Return what must be seen in a step as one says it: of several things alike together, as `K1, P1 on`; "" if it says nothing."""
    after = _alike(expect)
    whiles = _alike([text.removeprefix("not ") for text in never if text.startswith("not ")])
    at_no = [f"at no instant {text}" for text in never if not text.startswith("not ")]
    return "; ".join((*after, *(f"{words} all the while" for words in whiles), *at_no))


def _alike(texts: Sequence[str]) -> list[str]:
    """Return claims of one word about one thing with all things of which the same word is said together; others as they are."""
    things: dict[str, list[str]] = {}
    for text in texts:
        words = text.split(" ")
        said, thing = (words[1], words[0]) if len(words) == 2 else (text, "")
        things.setdefault(said, []).append(thing)
    return [f"{', '.join(names)} {said}" if names != [""] else said for said, names in things.items()]
