"""Owns what a sized value is: a number with its reason, and a person's number in its place. Must not size anything."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from riktig.job.entries import Override
from riktig.job.model import Job
from riktig.job.practice import Practice
from riktig.units.numbers import format_number

Chosen = Mapping[str, Override]
"""Sizes that people set, by the key of the value."""


def chosen_values(job: Job) -> Chosen:
    """Return the sizes that people set in a Job."""
    return {key: choice.value for key, choice in job.ledger.values.items()}


@dataclass(frozen=True, slots=True, kw_only=True)
class SizedValue:
    """A value with its reason. `formula` has the numbers put in, `inputs` names them, `subject` is a device id.

    `places` says where an input is decided: a place in the brief (`starter.M1.kw`) or a device id. `needed` is what the
    value must reach, `most` what it must not exceed, both in the unit of the value unless `carries` says what it comes to.
    `reason` is why a person set it, with `computed` beside it; None where it is computed.
    """

    subject: str
    quantity: str
    value: float
    unit: str
    formula: str
    source: str
    inputs: Mapping[str, float | str] = field(default_factory=dict)
    places: Mapping[str, str] = field(default_factory=dict)
    needed: float | None = None
    most: float | None = None
    carries: float | None = None
    computed: float | None = None
    reason: str | None = None

    @property
    def key(self) -> str:
        """What the ledger calls it."""
        return value_key(self.subject, self.quantity)

    @property
    def name(self) -> str:
        """What it is called in a sentence: `overload setting`, `control VA`."""
        return quantity_words(self.quantity)

    @property
    def text(self) -> str:
        """The value as people say it: `2.5 mm²`, `14 AWG`, `16 A`."""
        is_section = self.unit == "mm2" and "size" in self.inputs
        return str(self.inputs["size"]) if is_section else f"{format_number(self.value)} {self.unit}"

    @property
    def margin_percent(self) -> float | None:
        """By how much in percent it is on the safe side of its limit; below zero it is not. None without a limit."""
        there = self.carries if self.carries is not None else self.value
        if self.needed:
            return 100.0 * (there / self.needed - 1.0)
        return 100.0 * (1.0 - there / self.most) if self.most else None


def quantity_words(quantity: str) -> str:
    """Return a quantity as people say it."""
    return quantity.replace("_", " ").replace(" va", " VA")


def value_key(subject: str, quantity: str) -> str:
    """Return the ledger's key of a size."""
    return f"{subject}|{quantity}"


def decide(value: SizedValue, chosen: Chosen) -> SizedValue:
    """Return the value as a person set it in the ledger, or as it is."""
    override = chosen.get(value.key)
    if override is None:
        return value
    number, reason = override.number, override.reason
    formula = f"set by hand to {format_number(number, 4)} {value.unit}: {reason}. Computed: {value.formula}"
    return replace(value, value=number, formula=formula, computed=value.value, reason=reason)


def cited(value: SizedValue, practice: Practice) -> SizedValue:
    """Return a value with the clauses of the editions by which a job is judged."""
    source = practice.cite(value.source)
    return value if source == value.source else replace(value, source=source)
