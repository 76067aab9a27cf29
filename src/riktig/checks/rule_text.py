"""Owns the rule book as a text: docs/rules.md is made from it. Must not judge anything."""

from riktig.checks.book import all_rules
from riktig.checks.rule import WORLD_WORDS, Rule, Subject

_HEAD = """# Rules

What `riktig check`, the margin and the compliance report judge, by subject. This page is made from the rule book: change that, not this
page. Each rule has a stable name; a waiver names it. `riktig check --rule NAME` explains one.

A rule comes to **finding** (something must or should be mended), **cannot judge** (a fact is missing; the key to write is named),
**waived** (a person answers for it), **to know**, **pass**, or **not applicable** (what it is about is not there, or another world asks
for it). None of them replaces the local code and a competent person.

A waiver stands in the brief as `[[waiver]]` with `rule`, `subject` (a tag, or what stands in its place), `reason`, `person`, `date`, and
where wanted `until` and `evidence`: it lapses after that day, and where something else is found than it was given for.
"""


def rules_markdown() -> str:
    """Return the rule book as Markdown."""
    parts = [_HEAD]
    for subject in Subject:
        parts.append(f"\n## {subject.value}\n")
        parts += [_entry(rule) for rule in all_rules() if rule.subject is subject]
    return "\n".join(parts)


def _entry(rule: Rule) -> str:
    worlds = "" if len(rule.worlds) > 1 else f" In {WORLD_WORDS[next(iter(rule.worlds))]} alone."
    machines = " Of machines only." if rule.is_for_machines else ""
    needs = f" Asked where there is {rule.needs}." if rule.needs else ""
    return f"- **{rule.id}**: {rule.title}.{worlds}{machines}{needs} Judged: {rule.judged} *{rule.source}*"
