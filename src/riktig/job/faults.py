"""Owns what a fault of a Job is, and the error that carries all of them. Must not know what a Job is."""

from collections.abc import Set
from dataclasses import dataclass
from difflib import get_close_matches

from riktig.refusal import Refusal

Key = tuple[str | int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """One thing that must be mended: where it stands in the Job (keys and indexes) and the sentence."""

    at: Key
    message: str


class JobError(Refusal):
    """A Job that does not hold together; carries every fault."""

    def __init__(self, faults: list[Fault]) -> None:
        super().__init__("; ".join(fault.message for fault in faults))
        self.faults = tuple(faults)


def did_you_mean(word: str, known: Set[str] | list[str] | tuple[str, ...]) -> str:
    """Return ` (did you mean ...?)` for the nearest known word, or nothing."""
    near = get_close_matches(word, list(known), n=1)
    return f" (did you mean '{near[0]}'?)" if near else ""
