"""Owns which labels of a unit are printed and put on, as its Record tells. Must not know media or printers."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from riktig.record.events import Event, EventKind


class LabelStep(StrEnum):
    """What is done to labels; either is taken back by a later event."""

    PRINTED = "printed"
    STUCK = "put on"
    NOT_PRINTED = "not printed"
    NOT_STUCK = "not put on"


@dataclass(frozen=True, slots=True)
class LabelState:
    """What was printed last, None where nothing was, what was put on, and how often somebody said that it is to be printed again."""

    printed: str | None = None
    stuck: str | None = None
    rounds: int = 0


def read_labels(events: Iterable[Event], unit: str) -> Mapping[str, LabelState]:
    """Return label key -> what was done to it, of one unit."""
    found: dict[str, LabelState] = {}
    for event in events:
        if event.kind is not EventKind.LABELS or event.unit != unit:
            continue
        step, texts = event.data.get("step"), event.data.get("texts", {})
        for key, text in texts.items():
            known = found.get(key, LabelState())
            if step == LabelStep.PRINTED:
                known = replace(known, printed=text)
            elif step == LabelStep.STUCK:
                known = replace(known, printed=known.printed if known.printed is not None else text, stuck=text)
            elif step == LabelStep.NOT_PRINTED:
                known = LabelState(rounds=known.rounds + 1)
            elif step == LabelStep.NOT_STUCK:
                known = replace(known, stuck=None)
            found[key] = known
    return found
