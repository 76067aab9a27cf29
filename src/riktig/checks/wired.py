"""Owns rules that ask how a circuit is wired and not its sizes: they are judged again only where that changed. Must not know any rule."""

from collections.abc import Callable, Iterator
from functools import wraps

from riktig.checks.finding import Finding
from riktig.plan.answers.wired import of_wiring
from riktig.plan.plan import Plan

Rule = Callable[[Plan], Iterator[Finding]]


def about_wiring(rule: Rule) -> Rule:
    """Return a rule that finds what it found before while the circuit is wired as it was."""
    found = of_wiring(lambda plan: tuple(rule(plan)))

    @wraps(rule)
    def judge(plan: Plan) -> Iterator[Finding]:
        yield from found(plan)

    return judge
