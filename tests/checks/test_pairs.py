"""Every rule passes a sound panel, turns red by the smallest change, and green again by a mend; none is without such a pair."""

import re
from dataclasses import replace
from pathlib import Path

import pytest

from riktig.checks.book import all_rules
from riktig.checks.run import find_all
from riktig.drawings.evidence import draw_evidence
from riktig.job.mends import mended
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from rule_pairs import PAIRS, Pair
from support import job_of, plan_of

TESTS = Path(__file__).parents[1]
BESIDE = {
    "checks/test_behaviour.py": (
        "emergency-stop-reach", "emergency-stop-opening", "emergency-stop-release", "supply-return", "overload-reset", "stop-first",
        "overload-first", "interlock-open", "mirror-contact", "reversal", "star-delta-ends", "alarm-ahead", "hold-to-run",
    ),
    "checks/test_paths.py": ("switched-earth", "bonded-side", "socket-rcd", "neutral-cut", "sneak-path"),
    "checks/test_recorded.py": ("built-otherwise", "tests", "not-issued"),
    "checks/test_approvals.py": ("field-wiring",),
    "checks/test_supplies.py": ("arrester-leads",),
    "checks/test_fit.py": ("duct-fill",),
    "plan/wiring/test_taps.py": ("long-tap", "clamp-size", "clamp-overfull", "unequal-pair"),
    "plan/wiring/test_grouping.py": ("duct-grouping",),
    "plan/sizes/test_loops.py": ("fault-heating",),
    "plan/place/test_depth.py": ("door-depth", "shaft-too-short"),
    "plan/place/test_walls.py": ("wall-depth",),
    "standards/test_own_tables.py": ("own-table",),
}  # fmt: skip
"""Rules whose pairs take more than a brief, and where they stand."""


def with_parts(plan: Plan, pair: Pair) -> Plan:
    """Return a Plan some of whose parts say other things."""
    parts = dict(plan.parts)
    for device, words in pair.parts.items():
        kept = {k: v for k, v in parts[device].traits.items() if k not in words}
        ratings = {k: v for k, v in parts[device].ratings.items() if k not in words}
        kept |= {k: v for k, v in words.items() if isinstance(v, str)}
        ratings |= {k: v for k, v in words.items() if isinstance(v, float)}
        parts[device] = replace(parts[device], traits=kept, ratings=ratings)
    return replace(plan, parts=parts)


def rules(plan: Plan) -> set[str]:
    return {finding.rule for finding in find_all(plan)}


@pytest.mark.parametrize("pair", PAIRS, ids=lambda pair: pair.rule)
def test_a_rule_passes_what_is_sound_and_finds_the_smallest_change(pair: Pair) -> None:
    assert pair.rule not in rules(plan_of(pair.sound))
    wrong = with_parts(plan_of(pair.wrong), pair)
    (found, *_) = [f for f in find_all(wrong) if f.rule == pair.rule]
    picture = draw_evidence(wrong, found.rule, found.subject)
    assert picture.drawing is None or picture.drawing.items, "what shows nowhere else shows in the circuit"
    assert found.message and found.evidence and found.limit and found.source
    assert pair.mend is None or pair.rule not in rules(plan_of(pair.mend))


def test_no_rule_is_without_a_pair() -> None:
    shown = {pair.rule for pair in PAIRS} | {rule for names in BESIDE.values() for rule in names}
    assert {rule.id for rule in all_rules()} == shown
    for name, its in BESIDE.items():
        text = (TESTS / name).read_text()
        assert all(re.search(rf'["\'{{]{rule}["\']', text) for rule in its), name


MENDED_BY_ONE_EDIT = {
    "handle-colour", "door-lock", "passed-on", "short-circuit-proof", "overload-on-return", "colours", "condensation", "declared-rise",
    "cold-enclosure", "inside-temperature",
}  # fmt: skip


@pytest.mark.parametrize(
    "pair", [pair for pair in PAIRS if pair.rule in MENDED_BY_ONE_EDIT], ids=lambda pair: pair.rule
)
def test_a_mend_of_one_edit_mends_what_it_stands_beside(pair: Pair) -> None:
    """Where fans are too few the air stays too warm: one fan is one step of the way."""
    job = job_of(pair.wrong)
    found = [f for f in find_all(compute_plan(job)) if f.rule == pair.rule and f.mend is not None]
    assert found
    for finding in found:
        assert finding.mend is not None and finding.mend.words
        after = find_all(compute_plan(settle(mended(job, finding.mend))))
        same = [f for f in after if (f.rule, f.subject) == (finding.rule, finding.subject)]
        assert not same or float(same[0].evidence.split()[0]) < float(finding.evidence.split()[0]), same
