"""Owns how each terminal takes its conductors, whatever else becomes of its part. Must not judge it."""

from collections import deque
from collections.abc import Mapping
from typing import TYPE_CHECKING

from riktig.catalogue.model import Clamp, Part
from riktig.plan.answers.remembered import remembered

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

_SEEN = 2


class Clamping(dict[str, Clamp]):
    """Terminal -> how it takes its conductors, each looked up when it is first asked for; the same while no part has other terminals."""

    def __init__(self, plan: "Plan") -> None:
        super().__init__()
        self.made_of = [_terminals(plan.parts), _terminals(plan.clamp_parts)]
        self._clamp_at = plan.clamp_at

    def __missing__(self, terminal: str) -> Clamp:
        clamp = self[terminal] = self._clamp_at(terminal)
        return clamp


def _terminals(parts: Mapping[str, Part]) -> dict[str, object]:
    return {name: part.terminals for name, part in parts.items()}


_kept: deque[Clamping] = deque(maxlen=_SEEN)


@remembered("parts", "clamp_parts")
def clamping_of(plan: "Plan") -> Clamping:
    """Return how the terminals of a panel take their conductors, the very one as before where no part has other terminals."""
    made = Clamping(plan)
    for known in _kept:
        if known.made_of == made.made_of:
            return known
    _kept.appendleft(made)
    return made
