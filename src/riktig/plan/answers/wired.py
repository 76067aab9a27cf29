"""Owns how a circuit is wired, apart from its sizes, and remembering what is asked of that alone. Must not know any question."""

from collections import deque
from collections.abc import Callable
from functools import wraps
from typing import TYPE_CHECKING, Any, TypeVar

from riktig.job.model import Starter
from riktig.plan.answers.remembered import remembered

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

T = TypeVar("T")
_SEEN = 3
_SIZES = frozenset({
    "title", "kw", "hp", "amps", "efficiency", "cos_phi", "motor_volts", "service_factor", "start_ratio", "start_seconds", "trip_class",
    "curve", "star_seconds",
})  # fmt: skip
"""What of a starter says nothing about how it is wired."""
_SCHOOLS = ("standard", "scope", "overload_contact", "motor_protection")
"""What of a practice rules about wiring ask."""
_TRAITS = ("opening", "reset", "return", "mirror", "rcd")
"""What of a part rules about wiring ask, besides its kind and its elements."""


class Wiring:
    """How a circuit is wired: parts of a Plan that are the very same where it is, and what is equal."""

    __slots__ = ("alike", "same")

    def __init__(self, same: tuple[object, ...], alike: tuple[object, ...]) -> None:
        self.same, self.alike = same, alike

    def is_like(self, other: "Wiring") -> bool:
        """Return whether another circuit is wired so."""
        return all(a is b for a, b in zip(self.same, other.same, strict=True)) and self.alike == other.alike


_kept: deque[Wiring] = deque(maxlen=_SEEN)


@remembered(
    "circuit", "parts", "potentials", "power_circuits", "short_uses", "job.starters", "job.controls", "job.estops", "job.supply",
    "job.extra_supplies", "job.practice", "job.risk",
)  # fmt: skip
def wiring_of(plan: "Plan") -> Wiring:
    """Return how a panel is wired, the very one as before where nothing of that changed."""
    job = plan.job
    same = (
        plan.potentials, plan.power_circuits, plan.short_uses, job.controls, job.estops, job.supply, job.extra_supplies,
        job.risk,
    )  # fmt: skip
    devices = tuple((d.id, d.kind, d.owner, d.role, d.location) for d in plan.circuit.devices)
    parts = tuple(_shape_of(plan, d.id) for d in plan.circuit.devices)
    schools = tuple(getattr(job.practice, name) for name in _SCHOOLS)
    made = Wiring(same, (devices, parts, schools, tuple(map(_ways_of, job.starters))))
    for known in _kept:
        if known.is_like(made):
            return known
    _kept.appendleft(made)
    return made


def _shape_of(plan: "Plan", device: str) -> tuple[object, ...]:
    part = plan.parts[device]
    code = part.code if part.kind == "emergency-stop" else ""
    return part.kind, part.elements, code, tuple(part.traits.get(trait) for trait in _TRAITS)


def _ways_of(starter: Starter) -> tuple[Any, ...]:
    return tuple(value for name, value in starter.__dict__.items() if name not in _SIZES)


def of_wiring(question: "Callable[[Plan], T]") -> "Callable[[Plan], T]":
    """Return a question that is answered as before while the circuit is wired as it was."""
    kept: deque[tuple[Wiring, T]] = deque(maxlen=_SEEN)

    @wraps(question)
    def answer(plan: "Plan") -> T:
        wiring = wiring_of(plan)
        for known, made in kept:
            if known is wiring:
                return made
        made = question(plan)
        kept.appendleft((wiring, made))
        return made

    return answer
