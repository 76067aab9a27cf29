"""Owns the rule book, read from rules.toml, and what all rules come to on a job. Must not judge anything itself."""

import tomllib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cache
from importlib.resources import files
from typing import Any

from riktig.checks.finding import Finding
from riktig.checks.isolation import disconnects_of
from riktig.checks.looked import is_anything_there, look_words
from riktig.checks.recorded import RECORD_RULES, Recorded, check_recorded
from riktig.checks.rule import BOTH, Check, Outcome, Rule, Subject, Verdict, outcome_of
from riktig.checks.run import RULES as CHECKS
from riktig.checks.run import find_all
from riktig.checks.waived import with_waivers
from riktig.checks.watched import Watch
from riktig.job.practice import Standard
from riktig.job.stated import Colours
from riktig.plan.plan import Plan


@dataclass(frozen=True, slots=True)
class _Need:
    """What must be there for a rule to be asked, in words and as a question."""

    words: str
    is_there: Callable[[Plan], bool]


def _of_kind(*kinds: str) -> Callable[[Plan], bool]:
    return lambda plan: any(device.kind in kinds for device in plan.circuit.devices)


def _starter(kind: str) -> Callable[[Plan], bool]:
    return lambda plan: any(starter.kind == kind for starter in plan.job.starters)


def _has_two_contactors(plan: Plan) -> bool:
    return any(len(circuit.of_role("K", "KR")) > 1 for circuit in plan.power_circuits.values())


_NEEDS = {
    "": _Need("", lambda plan: True),
    "record": _Need("something built or measured", lambda plan: False),
    "surge": _Need("a surge arrester", _of_kind("surge")),
    "grounded": _Need("a line that is earthed at its source", lambda plan: "corner" in plan.job.supply.earthing),
    "switch": _Need("a main switch", lambda plan: "Q0" in plan.parts),
    "switches": _Need("a switch that isolates a supply", lambda plan: bool(disconnects_of(plan))),
    "tt": _Need(
        "a supply in TT", lambda plan: any(way.earthing == "tt" for way in (plan.job.supply, *plan.job.extra_supplies))
    ),
    "house": _Need("a table of colours of one's own", lambda plan: plan.job.colours != Colours()),
    "extra": _Need("a further supply", lambda plan: bool(plan.job.extra_supplies)),
    "neutral": _Need("a neutral", lambda plan: plan.job.supply.has_neutral),
    "pass": _Need("a next panel", lambda plan: plan.job.pass_through is not None),
    "motors": _Need("a motor", _of_kind("motor")),
    "star": _Need("a star-delta starter", _starter("star-delta")),
    "drives": _Need("a drive", _of_kind("drive")),
    "converters": _Need("a drive or soft starter", _of_kind("drive", "soft-starter")),
    "motor breakers": _Need("a motor breaker", _of_kind("motor-breaker")),
    "reversing": _Need("two contactors of one motor", _has_two_contactors),
    "held": _Need("a motor that runs while it is held", lambda plan: any(s.hold_to_run for s in plan.job.starters)),
    "class 2": _Need("a Class 2 supply", lambda plan: any(control.class_2 for control in plan.job.controls)),
    "controls": _Need("a control supply", lambda plan: bool(plan.job.controls)),
    "estops": _Need("an emergency stop", _of_kind("emergency-stop")),
    "sockets": _Need("a socket", _of_kind("socket")),
    "it": _Need("a supply in IT", lambda plan: plan.job.supply.earthing == "it"),
}


def _check_waivers(plan: Plan) -> Iterator[Finding]:
    """Yield waivers of what is not found.

    Source:
        The job's own waiver.
    """
    return (finding for finding in find_all(plan) if finding.rule == "waiver-idle")


@cache
def all_rules() -> tuple[Rule, ...]:
    """Return the rules subject by subject, those of one in the order of the book."""
    checks: dict[str, Check] = {f"{check.__module__.rpartition('.')[2]}.{check.__name__}": check for check in CHECKS}
    checks["waived"] = _check_waivers
    checks |= {f"recorded.{check.__name__}": check for check in RECORD_RULES}
    rows: list[dict[str, Any]] = tomllib.loads(files("riktig.checks").joinpath("rules.toml").read_text("utf-8"))["rule"]
    rules = (
        Rule(
            id=row["id"], title=row["title"], subject=Subject[row["subject"].upper()], check=checks[row["check"]],
            worlds=frozenset(map(Standard, row["worlds"])) if "worlds" in row else BOTH, is_for_machines=row.get("machines", False),
            needs=_NEEDS[row.get("needs", "")].words, is_there=_NEEDS[row.get("needs", "")].is_there,
            is_of_record=row["check"].startswith("recorded."), looks_at=tuple(row.get("looks_at", ())), sizes=tuple(row.get("sizes", ())),
        )
        for row in rows
    )  # fmt: skip
    subjects = list(Subject)
    return tuple(sorted(rules, key=lambda rule: subjects.index(rule.subject)))


def inspect_all(plan: Plan, watch: Watch | None = None, units: Sequence[Recorded] = ()) -> tuple[Verdict, ...]:
    """Return what each rule comes to on a job and on what is recorded of its units, in the order of the book."""
    return verdicts_of(plan, find_all(plan, watch), units)


def verdicts_of(plan: Plan, findings: Iterable[Finding], units: Sequence[Recorded] = ()) -> tuple[Verdict, ...]:
    """Return what each rule comes to by what all of them have found on a job, and on what is recorded of its units."""
    found: dict[str, list[Finding]] = {}
    recorded = (finding for unit in units for finding in check_recorded(unit))
    for finding in (*findings, *with_waivers(recorded, plan.job.waivers, plan.tags, date.today(), tells_idle=False)):
        found.setdefault(finding.rule, []).append(finding)
    is_begun = any(unit.is_begun for unit in units)
    return tuple(_judged(rule, tuple(found.get(rule.id, ())), plan, is_begun=is_begun) for rule in all_rules())


def _judged(rule: Rule, findings: tuple[Finding, ...], plan: Plan, *, is_begun: bool) -> Verdict:
    is_asked = is_begun if rule.is_of_record else rule.applies(plan) and is_anything_there(plan, rule.looks_at)
    if not findings and not is_asked:
        return Verdict(rule=rule, outcome=Outcome.NOT_APPLICABLE)
    looked = (
        look_words(plan, rule.id, rule.looks_at, rule.sizes)
        if not rule.is_of_record
        else "what is recorded of each unit"
    )
    return Verdict(rule=rule, outcome=outcome_of(findings), findings=findings, looked=looked)
