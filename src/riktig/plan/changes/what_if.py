"""Owns what would change if the air, the fault current or a motor were otherwise. Nothing is kept of it."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from riktig.job import edits
from riktig.job.model import Job
from riktig.plan.circuit.model import EARTH_BAR, is_bar
from riktig.plan.panel import INSIDE
from riktig.plan.plan import Plan
from riktig.plan.wiring.links import link_key

_STAYING = ("clamps", "links", "plate", "door")
"""Products that stay as they are while sizes are looked at."""
_FOLLOWING = ("motors", "starters", "needs", "sections", "parts", "unmet", "panel", "sizing")
_SILENT = frozenset({"losses", "voltage_drop", "start_drop", "control_va", "earth_section", "neutral_current"})
"""Values that follow others and would crowd the list of changes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """What is asked: ambient in degC, fault current in kA, and the power of one motor in its own unit; None as it is."""

    ambient: float | None = None
    fault_ka: float | None = None
    starter: str | None = None
    power: float | None = None

    @property
    def is_empty(self) -> bool:
        """Whether nothing is to be otherwise."""
        return self.ambient is None and self.fault_ka is None and self.power is None


@dataclass(frozen=True, slots=True, kw_only=True)
class SizeChange:
    """A size that would be another one, in words; `is_short`: it would not reach its limit."""

    subject: str
    quantity: str
    before: str
    after: str
    is_short: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What would follow: sizes that change, parts that change though their size does not, devices that no part serves for,
    and the Plan with the panel's totals in it.
    """

    changes: tuple[SizeChange, ...]
    parts: tuple[SizeChange, ...]
    unmet: tuple[tuple[str, str], ...]
    plan: Plan


def wished(job: Job, wish: Wish) -> Job:
    """Return the Job as wished; the rest of it, ledger too, as it is."""
    if wish.ambient is not None:
        job = edits.change_part(job, "enclosure", ambient=wish.ambient)
    if wish.fault_ka is not None:
        job = edits.change_part(job, "supply", fault_ka=wish.fault_ka)
    starter = job.starter(wish.starter or "")
    if starter is not None and wish.power is not None:
        job = edits.change_starter(job, starter.name, **{"kw" if starter.kw is not None else "hp": wish.power})
    return job


def apply_wish(job: Job, wish: Wish) -> Job:
    """Return the settled Job as wished: the edit that takes a what-if over."""
    from riktig.plan.settle import settle

    return settle(wished(job, wish))


def try_wish(plan: Plan, wish: Wish) -> Outcome:
    """Return what a wish would do to a Plan. Places and routes stay as they are, and the main conductors are distributed as they
    are: only sizes, parts and totals follow.

    Raises:
        JobError: the wish does not fit.
    """
    from riktig.plan.stages import look_ahead

    job = wished(plan.job, wish)
    is_block = any(is_bar(d.id) and d.id != EARTH_BAR for d in plan.circuit.devices)
    asked = edits.change_part(job, "practice", distribution="block" if is_block else "chain")
    pins = {name: getattr(plan, name) for name in _STAYING}
    sizes = look_ahead(asked, pins)
    sections, taps = sizes["sections"], sizes["taps"][0]
    wires = tuple(
        replace(c, size=taps.get(link_key(c.a, c.b), sections.inside[c.number]))
        if c.location in INSIDE and c.number in sections.inside
        else c
        for c in plan.conductors
    )
    run = look_ahead(asked, {**pins, "conductors": wires})
    after = replace(plan, job=job, conductors=wires, **{name: run[name] for name in _FOLLOWING})
    unmet = tuple((device, ", ".join(words)) for device, words in after.unmet.items())
    changes = tuple(_changes(plan, after))
    parts = tuple(_part_changes(plan, after, {change.subject for change in changes}))
    return Outcome(changes=changes, parts=parts, unmet=unmet, plan=after)


def _part_changes(before: Plan, after: Plan, told: set[str]) -> Iterator[SizeChange]:
    for device, part in after.parts.items():
        old = before.parts.get(device)
        if old is not None and old.code != part.code and device not in told:
            yield SizeChange(subject=device, quantity="part", before=old.title, after=part.title, is_short=False)


def _changes(before: Plan, after: Plan) -> Iterator[SizeChange]:
    was = {value.key: value for value in before.sizing}
    for value in after.sizing:
        old = was.get(value.key)
        if old is None or value.quantity in _SILENT:
            continue
        is_short = value.margin_percent is not None and value.margin_percent < -1e-6
        if abs(old.value - value.value) > 1e-6 * max(abs(old.value), 1.0):
            yield SizeChange(
                subject=value.subject,
                quantity=value.quantity,
                before=old.text,
                after=value.text,
                is_short=is_short,
            )
