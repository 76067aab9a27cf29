"""Owns the ledger: choices that must stay put when something else changes. Must not allocate any."""

from collections.abc import Mapping
from enum import StrEnum

from pydantic import BaseModel, ConfigDict, Field


class ChoiceState(StrEnum):
    """Who holds a choice: Riktig, a person, or a release."""

    AUTO = "auto"
    KEPT = "kept"
    FROZEN = "frozen"


class Choice(BaseModel):
    """An allocated value and who holds it."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    value: str
    state: ChoiceState = ChoiceState.AUTO

    @property
    def is_held(self) -> bool:
        """Whether it may not be let go by arranging or renumbering."""
        return self.state is not ChoiceState.AUTO


Choices = Mapping[str, Choice]


class Ledger(BaseModel):
    """Choices by sort, each a mapping from a stable key to a value.

    numbers: wire number -> ids of the terminals of its potential in drawing order, the first living one is
    its anchor; an empty text retires the number. contacts: use of a contact -> marks. parts, tags: device
    id. clamps: `drop|number` -> `X1:3`. links: `terminal terminal` (sorted) -> location. places: device,
    strip or bar -> `row x`. cables: drop -> name. values: `subject|quantity` -> `number | reason`, a size that a
    person set. sheets: first path of a figure -> `sheet lane`. tables: own table of the shop -> `digest title`. texts: `wire:` and the
    key of a link, `clamp:` and that of a clamp, `cable:` and that of a run -> a person's remark.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    tags: Choices = Field(default_factory=dict)
    parts: Choices = Field(default_factory=dict)
    contacts: Choices = Field(default_factory=dict)
    numbers: Choices = Field(default_factory=dict)
    clamps: Choices = Field(default_factory=dict)
    cables: Choices = Field(default_factory=dict)
    links: Choices = Field(default_factory=dict)
    places: Choices = Field(default_factory=dict)
    values: Choices = Field(default_factory=dict)
    tables: Choices = Field(default_factory=dict)
    texts: Choices = Field(default_factory=dict)
    sheets: Choices = Field(default_factory=dict)

    def with_sorts(self, **sorts: Choices) -> "Ledger":
        """Return the ledger with some sorts changed; the others stay the very objects that they are, so that identity tells of change."""
        values = {name: getattr(self, name) for name in type(self).model_fields}
        unknown = sorts.keys() - values.keys()
        assert not unknown, unknown
        return Ledger.model_construct(**{**values, **sorts})

    def frozen(self) -> "Ledger":
        """Return the ledger with every choice held by a release."""
        return Ledger(**{name: _freeze(getattr(self, name)) for name in type(self).model_fields})


def _freeze(choices: Choices) -> Choices:
    return {key: Choice(value=choice.value, state=ChoiceState.FROZEN) for key, choice in choices.items()}


def merge_choices(old: Choices, values: Mapping[str, str]) -> Choices:
    """Return choices for exactly the keys of `values`; one whose value did not change keeps its state.

    Old keys stay in their order, new ones follow. The very object `old` comes back where nothing changed, so that identity tells of change.
    """
    ordered = {**{key: values[key] for key in old if key in values}, **values}
    merged = {
        key: old[key] if key in old and old[key].value == value else Choice(value=value, state=_state(old.get(key)))
        for key, value in ordered.items()
    }
    same = len(merged) == len(old) and all(merged[key] is old.get(key) for key in merged)
    return old if same else merged


def _state(before: Choice | None) -> ChoiceState:
    return before.state if before is not None else ChoiceState.AUTO
