"""Owns watching what of a Plan is read, so that a rule is judged again only where that changed. Must not know any rule."""

from collections.abc import Callable
from dataclasses import fields
from types import FunctionType, MethodType
from typing import Any, cast

from riktig.job.model import Job
from riktig.pipeline.facets import JOB, KEPT, read_facet
from riktig.plan.plan import Plan

_FIELDS = frozenset(field.name for field in fields(Plan)) - {"job"}
_SEEN = 2
"""So many results of each question are remembered."""


class _WatchedLedger:
    def __init__(self, job: Job, seen: dict[str, Any]) -> None:
        self._job, self._seen = job, seen

    def __getattr__(self, name: str) -> Any:
        value = self._seen[f"{KEPT}{name}"] = getattr(self._job.ledger, name)
        return value


class _WatchedJob:
    """A Job that notes which of its fields are read."""

    def __init__(self, job: Job, seen: dict[str, Any]) -> None:
        self._job, self._seen = job, seen
        self.ledger = _WatchedLedger(job, seen)

    def __getattr__(self, name: str) -> Any:
        if name in Job.model_fields:
            value = self._seen[f"{JOB}{name}"] = self.__dict__[name] = getattr(self._job, name)
            return value
        return MethodType(getattr(Job, name), self)


class _WatchedPlan:
    """A Plan that notes which of its products are read; its look-ups read through it. What was read once is kept beside it, so that it is
    asked for no second time.
    """

    def __init__(self, plan: Plan, seen: dict[str, Any]) -> None:
        self._plan, self._seen = plan, seen
        self.job = _WatchedJob(plan.job, seen)

    def __getattr__(self, name: str) -> Any:
        if name in _FIELDS:
            value = self._seen[name] = self.__dict__[name] = getattr(self._plan, name)
            return value
        own = getattr(Plan, name)
        if isinstance(own, property):
            return own.fget(self) if own.fget is not None else None
        assert isinstance(own, FunctionType), name
        return MethodType(own, self)


def _read(plan: Plan, name: str) -> Any:
    return read_facet(plan.job, name) if name.startswith((JOB, KEPT)) else getattr(plan, name)


class Watch:
    """What questions about Plans came to, and what of the Plan each has read."""

    def __init__(self) -> None:
        self._known: dict[Any, list[tuple[dict[str, Any], Any]]] = {}
        self.asked = 0
        """How many questions were really put."""

    def ask(self, question: Callable[[Plan], Any], plan: Plan, *, words: frozenset[str] = frozenset()) -> Any:
        """Return the answer to a question, the very one as before where nothing that it read has changed.

        Args:
            question: what is asked.
            plan: of which Plan.
            words: what of a Plan appears in the words of an answer alone, so that where only this changed nothing found stays nothing.
        """
        known = self._known.setdefault(question, [])
        for seen, answer in known:
            if all(_read(plan, name) is value or (name in words and not answer) for name, value in seen.items()):
                return answer
        seen = {}
        self.asked += 1
        answer = question(cast(Plan, _WatchedPlan(plan, seen)))
        known.insert(0, (seen, answer))
        del known[_SEEN:]
        return answer
