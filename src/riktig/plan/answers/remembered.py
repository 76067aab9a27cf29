"""Owns remembering an answer about a Plan while what it was made from is the very same. Must not know any answer."""

from collections import deque
from collections.abc import Callable
from functools import wraps
from operator import attrgetter
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

T = TypeVar("T")
_SEEN = 2
"""So many answers to one question are remembered: about a Plan and about the one before it."""


def remembered(
    *parts: "str | Callable[[Plan], object]",
) -> Callable[[Callable[["Plan"], T]], Callable[["Plan"], T]]:
    """Return a decorator for a question whose answer is the very one as before while some parts of the Plan are.

    Args:
        parts: what it is made from, as `circuit` or `job.controls`, or another answer that is remembered; what it reads besides must
            follow from them.
    """
    readers = [attrgetter(part) if isinstance(part, str) else part for part in parts]

    def read(plan: "Plan") -> tuple[object, ...]:
        return tuple(reader(plan) for reader in readers)

    def wrap(question: Callable[["Plan"], T]) -> Callable[["Plan"], T]:
        kept: deque[tuple[tuple[object, ...], T]] = deque(maxlen=_SEEN)

        @wraps(question)
        def answer(plan: "Plan") -> T:
            key = read(plan)
            for known, made in kept:
                if all(a is b for a, b in zip(key, known, strict=True)):
                    return made
            made = question(plan)
            kept.appendleft((key, made))
            return made

        return answer

    return wrap
