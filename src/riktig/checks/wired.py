"""Owns rules that ask how a circuit is wired and not its sizes: they are judged again only where that changed. Must not know any rule."""

from collections.abc import Callable, Iterator, Mapping
from functools import wraps

from riktig.checks.finding import Finding
from riktig.plan.answers.wired import of_wiring
from riktig.plan.plan import Plan

Rule = Callable[[Plan], Iterator[Finding]]


def about_wiring(rule: Rule) -> Rule:
    """Return a rule that finds what it found before while the circuit is wired as it was; what it says is said again where tags are
    others.
    """
    judged: Callable[[Plan], _Judged] = of_wiring(lambda plan: _Judged(rule, plan))

    @wraps(rule)
    def judge(plan: Plan) -> Iterator[Finding]:
        yield from judged(plan).findings(plan)

    return judge


class _Judged:
    """What a rule found of a circuit, in the words of the tags of the last time."""

    def __init__(self, rule: Rule, plan: Plan) -> None:
        self._rule = rule
        self._tags: Mapping[str, str] = plan.tags
        self._found = tuple(rule(plan))

    def findings(self, plan: Plan) -> tuple[Finding, ...]:
        """Return what was found, of a Plan that is wired as the first one was."""
        if self._found and plan.tags is not self._tags:
            self._tags, self._found = plan.tags, tuple(self._rule(plan))
        return self._found
