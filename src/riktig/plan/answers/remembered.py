"""Owns remembering an answer about a Plan while what it was made from is the very same. Must not know any answer."""

from collections import deque
from collections.abc import Callable, Iterable
from functools import wraps
from operator import attrgetter
from typing import TYPE_CHECKING, Generic, TypeVar

if TYPE_CHECKING:
    from riktig.plan.plan import Plan

R = TypeVar("R")
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


class Sifted(Generic[R, T]):
    """The rows of a large result that a question picks out; rows that are the very same as before are not asked again.

    Args:
        is_found: whether a row is picked out, and what it is judged by besides itself.
    """

    def __init__(self, is_found: Callable[[R, T], bool]) -> None:
        self._is_found = is_found
        self._by: T | None = None
        self._known: dict[int, R] = {}
        self._found: set[int] = set()

    def of(self, rows: Iterable[R], by: T) -> list[R]:
        """Return those of the rows that are picked out, in order.

        Args:
            rows: all rows, each kept as the very same object while it is as it was.
            by: what they are judged by; where that is another object all are asked again.
        """
        now = {id(row): row for row in rows}
        if by is not self._by:
            self._by, self._known, self._found = by, {}, set()
        self._found &= now.keys()
        self._found.update(key for key in now.keys() - self._known.keys() if self._is_found(now[key], by))
        self._known = now
        return [row for key, row in now.items() if key in self._found] if self._found else []
