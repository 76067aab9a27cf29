"""Owns changes of wire numbers on purpose: all of them anew, one by hand, and what that would change. Must not chain wires."""

from collections.abc import Mapping
from dataclasses import dataclass

from riktig.job.edits import change_part, replace
from riktig.job.entries import Joined
from riktig.job.faults import Fault, JobError
from riktig.job.ledger import Choice, Choices, ChoiceState
from riktig.job.model import Job
from riktig.plan.net.numbers import allocate_numbers, natural_key, scheme_of
from riktig.plan.plan import Plan
from riktig.plan.settle import let_go, settle
from riktig.plan.stages import run_of


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberChange:
    """A potential that would carry another number, and the terminals that it joins, as people call them."""

    old: str
    new: str
    terminals: tuple[str, ...]


def renumber(job: Job) -> Job:
    """Return the settled Job with wire numbers given out afresh in its school; held numbers, wires and strips stay.

    Raises:
        JobError: the Job does not fit together.
    """
    run = run_of(job)
    held = {number: choice for number, choice in job.ledger.numbers.items() if choice.is_held}
    scheme = scheme_of(job, run["sheets"], run["uses"])
    fresh = allocate_numbers(run["netlist"], run["uses"], held, scheme)
    return settle(_rename(job, _renamed(job.ledger.numbers, fresh), fresh))


def retag_as(job: Job, school: str) -> Job:
    """Return the settled Job with tags given out afresh in a school of tags; held ones and the names that people gave stay.

    Raises:
        JobError: the Job does not fit together.
    """
    wanted = change_part(job, "practice", tags=school)
    return settle(replace(wanted, ledger=let_go(wanted.ledger, "tags")))


def _renamed(before: Choices, after: Mapping[str, Joined]) -> dict[str, str]:
    """Return old number -> new number of the potentials that both know."""
    new_of = {terminal: number for number, joined in after.items() for terminal in joined.terminals}
    pairs = (
        (old, next((new_of[t] for t in choice.value.terminals if t in new_of), None)) for old, choice in before.items()
    )
    return {old: new for old, new in pairs if new is not None}


def _rename(job: Job, names: Mapping[str, str], joined: Mapping[str, Joined]) -> Job:
    """Return the Job with numbers renamed in its ledger, in the order of `joined`, and with them the keys of its clamps."""
    known, old_of = job.ledger.numbers, {new: old for old, new in names.items()}
    sources = {number: known.get(old_of.get(number, number)) for number in joined}
    numbers = {
        number: Choice(one, source.state if source is not None else ChoiceState.AUTO)
        for (number, one), source in zip(joined.items(), sources.values(), strict=True)
    }
    clamps = {}
    for key, choice in job.ledger.clamps.items():
        drop, bar, number = key.rpartition("|")
        clamps[f"{drop}{bar}{names.get(number, number)}"] = choice
    return replace(job, ledger=replace(job.ledger, numbers=numbers, clamps=clamps))


def preview_renumber(
    plan: Plan, school: str | None = None, prefix: str | None = None, start: int | None = None
) -> tuple[NumberChange, ...]:
    """Return what numbers would become others; nothing is changed.

    Args:
        plan: the Plan as it is.
        school: the school of numbering to try, None as it is.
        prefix: what stands before each number, None as it is.
        start: first number of a plain sequence, None as it is.

    Raises:
        JobError: prefix or start do not fit.
    """
    before = {number: choice.value for number, choice in plan.job.ledger.numbers.items()}
    after = renumber(with_scheme(plan.job, school, prefix, start)).ledger.numbers
    names = _renamed(plan.job.ledger.numbers, {number: choice.value for number, choice in after.items()})
    changes = [
        NumberChange(old=old, new=new, terminals=tuple(plan.terminal_label(t) for t in before[old].terminals))
        for old, new in names.items()
        if old != new
    ]
    return tuple(sorted(changes, key=lambda c: natural_key(c.old)))


def with_scheme(job: Job, school: str | None, prefix: str | None, start: int | None) -> Job:
    """Return the Job with another school, prefix or start of its numbers; the numbers stay until they are given out again."""
    given = {"numbering": school, "number_prefix": prefix, "number_start": start}
    wanted = {key: value for key, value in given.items() if value is not None}
    return replace(job, practice=replace(job.practice, **wanted)) if wanted else job


def renumber_as(job: Job, school: str | None, prefix: str | None, start: int | None) -> Job:
    """Return the settled Job numbered anew in a school, with a prefix, from a start."""
    return renumber(with_scheme(job, school, prefix, start))


def set_number(job: Job, old: str, new: str) -> Job:
    """Return the settled Job with one number changed by a person; it is kept from then on.

    Raises:
        JobError: there is no such number, it was released, or the new one is empty, has blanks, or is taken.
    """
    return settle(_set_numbers(job, {old: new.strip()}))


def take_numbers(job: Job, names: Mapping[str, str]) -> Job:
    """Return the settled Job with several numbers changed at once, old to new, such as those of an existing panel.

    Raises:
        JobError: one of them does not fit; none is changed.
    """
    return settle(_set_numbers(job, names))


def _set_numbers(job: Job, names: Mapping[str, str]) -> Job:
    known = job.ledger.numbers
    fixed = {net.fixed for net in run_of(job)["netlist"].nets if net.fixed is not None}
    staying = (set(known) - set(names)) | fixed
    faults = []
    for old, new in names.items():
        message = _fault_of(old, new, known, staying)
        if message is not None:
            faults.append(Fault(at=("kept", "numbers", old), message=message))
        staying.add(new)
    if faults:
        raise JobError(faults)
    joined = {names.get(number, number): choice.value for number, choice in known.items()}
    renamed = _rename(job, {number: names.get(number, number) for number in known}, joined)
    kept = {
        number: Choice(choice.value, ChoiceState.KEPT) if number in names.values() else choice
        for number, choice in renamed.ledger.numbers.items()
    }
    return replace(renamed, ledger=replace(renamed.ledger, numbers=kept))


def _fault_of(old: str, new: str, known: Choices, taken: set[str]) -> str | None:
    if old not in known:
        return f"there is no number {old} to change: a supply keeps its name"
    if known[old].state is ChoiceState.FROZEN:
        return f"number {old} was released: it stays; add the wire anew to give it another number"
    if not new or len(new.split()) != 1:
        return f"'{new}' is no wire number: write it without blanks"
    if new in taken:
        retired = new in known and not known[new].value.terminals
        return f"number {new} {'was used before the release and is never given out again' if retired else 'is taken'}: choose another"
    return None
