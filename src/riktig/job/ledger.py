"""Owns the ledger: choices that must stay put when something else changes. Must not allocate any."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Any, Generic, TypeVar

from pydantic import BaseModel, ConfigDict, Field, PlainSerializer, PlainValidator, WithJsonSchema, model_validator

from riktig.job.entries import ClampPlace, EntryError, HolePlace, Joined, Override, SheetPlace, WirePlace, read_entry
from riktig.job.faults import Fault


class ChoiceState(StrEnum):
    """Who holds a choice: Riktig, a person, or a release."""

    AUTO = "auto"
    KEPT = "kept"
    FROZEN = "frozen"


T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Choice(Generic[T]):
    """An allocated value and who holds it."""

    value: T
    state: ChoiceState = ChoiceState.AUTO

    @property
    def is_held(self) -> bool:
        """Whether it may not be let go by arranging or renumbering."""
        return self.state is not ChoiceState.AUTO


Choices = Mapping[str, Choice[Any]]


def _written(choices: Choices) -> dict[str, dict[str, str]]:
    return {
        key: {"value": str(choice.value), **({"state": choice.state.value} if choice.is_held else {})}
        for key, choice in choices.items()
    }


def _as_read(choices: Any) -> Choices:
    """Return choices of values; texts are read by the ledger itself, for they mean what their sort says."""
    if not isinstance(choices, Mapping) or not all(isinstance(choice, Choice) for choice in choices.values()):
        raise ValueError("choices that were not read")  # noqa: TRY004 pydantic takes it for a fault of the value
    return choices


_SCHEMA = {
    "additionalProperties": {
        "additionalProperties": False,
        "properties": {
            "value": {"title": "Value", "type": "string"},
            "state": {
                "default": "auto",
                "enum": [state.value for state in ChoiceState],
                "title": "State",
                "type": "string",
            },
        },
        "required": ["value"],
        "type": "object",
    },
    "type": "object",
}
_AT_THE_DOOR = (PlainValidator(_as_read), PlainSerializer(_written), WithJsonSchema(_SCHEMA))
_Words = Annotated[Mapping[str, Choice[str]], *_AT_THE_DOOR]


class Ledger(BaseModel):
    """Choices by sort, each a mapping from a stable key to a value; behind it how that is written, where it is not a word.

    numbers: wire number -> ids of the terminals of its potential in drawing order, the first living one is
    its anchor, `K1:A1 X1:3`; none retires the number. contacts: use of a contact -> marks. parts, tags: device
    id. clamps: `drop|number` -> terminal, `X1:3`. links: `terminal terminal` (sorted) -> location. places: device,
    strip, bar, rail, duct or plate -> where it is, `R1 X`. cables: drop -> name. values: `subject|quantity` -> a size that a
    person set, `number | reason`. sheets: first path of a figure -> `sheet lane`. tables: own table of the shop -> `digest title`. texts:
    `wire:` and the key of a link, `clamp:` and that of a clamp, `cable:` and that of a run -> a person's remark; `label:` and the key of a
    label -> what a person writes on it. holes: device of a
    station or in a side wall, or `cable:` and what comes in through the entry wall -> `X Y`. groups: starter or load
    -> how many loaded circuits lie together in the ducts with its wires, `9`. lots: wire -> the mm to which its lot is cut, where somebody
    holds that.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    tags: _Words = Field(default_factory=dict)
    parts: _Words = Field(default_factory=dict)
    contacts: _Words = Field(default_factory=dict)
    numbers: Annotated[Mapping[str, Choice[Joined]], *_AT_THE_DOOR] = Field(default_factory=dict)
    clamps: Annotated[Mapping[str, Choice[ClampPlace]], *_AT_THE_DOOR] = Field(default_factory=dict)
    cables: _Words = Field(default_factory=dict)
    links: Annotated[Mapping[str, Choice[WirePlace]], *_AT_THE_DOOR] = Field(default_factory=dict)
    places: Annotated[Choices, *_AT_THE_DOOR] = Field(default_factory=dict)
    values: Annotated[Mapping[str, Choice[Override]], *_AT_THE_DOOR] = Field(default_factory=dict)
    tables: _Words = Field(default_factory=dict)
    texts: _Words = Field(default_factory=dict)
    sheets: Annotated[Mapping[str, Choice[SheetPlace]], *_AT_THE_DOOR] = Field(default_factory=dict)
    holes: Annotated[Mapping[str, Choice[HolePlace]], *_AT_THE_DOOR] = Field(default_factory=dict)
    groups: Annotated[Mapping[str, Choice[int]], *_AT_THE_DOOR] = Field(default_factory=dict)
    lots: Annotated[Mapping[str, Choice[float]], *_AT_THE_DOOR] = Field(default_factory=dict)

    @model_validator(mode="before")
    @classmethod
    def _read(cls, raw: Any) -> Any:
        """Read texts where they are any, so that no ledger has one; who wants every fault with its place asks `read_ledger`."""
        if not isinstance(raw, Mapping) or all(isinstance(c, Choice) for sort in raw.values() for c in _members(sort)):
            return raw
        found, faults = _read_sorts(raw)
        if faults:
            raise ValueError(f"{'.'.join(map(str, faults[0].at))}: {faults[0].message}")
        return found

    def with_sorts(self, **sorts: Choices) -> "Ledger":
        """Return the ledger with some sorts changed; the others stay the very objects that they are, so that identity tells of change."""
        values = {name: getattr(self, name) for name in type(self).model_fields}
        unknown = sorts.keys() - values.keys()
        assert not unknown, unknown
        return Ledger.model_construct(**{**values, **sorts})

    def frozen(self) -> "Ledger":
        """Return the ledger with every choice held by a release."""
        return self.with_sorts(**{name: _freeze(getattr(self, name)) for name in type(self).model_fields})


def read_ledger(raw: Mapping[str, Any]) -> tuple[Ledger, list[Fault]]:
    """Return the ledger of texts by sort and key, each `{"value": text, "state": state}`, without what it cannot read, and the faults of
    that, each with its place.
    """
    found, faults = _read_sorts(raw)
    sorts: dict[str, Any] = {name: found.get(name, {}) for name in Ledger.model_fields}
    return Ledger.model_construct(**sorts), faults


def _read_sorts(raw: Mapping[str, Any]) -> tuple[dict[str, Any], list[Fault]]:
    found: dict[str, dict[str, Choice[Any]]] = {}
    faults: list[Fault] = []
    for sort, choices in raw.items():
        if sort not in Ledger.model_fields or not isinstance(choices, Mapping):
            faults.append(Fault(at=("kept", str(sort)), message="there is no such sort of choices"))
            continue
        found[sort] = {}
        for key, choice in choices.items():
            try:
                found[sort][key] = choice if isinstance(choice, Choice) else _read_choice(sort, key, choice)
            except EntryError as error:
                faults.append(Fault(at=("kept", sort, str(key)), message=str(error)))
    return found, faults


def _read_choice(sort: str, key: Any, raw: Any) -> Choice[Any]:
    is_one = isinstance(raw, Mapping) and raw.keys() <= {"value", "state"} and isinstance(key, str)
    if not is_one or not isinstance(raw.get("value"), str) or raw.get("state", "auto") not in set(ChoiceState):
        raise EntryError("this is no choice: a value and who holds it")
    return Choice(read_entry(sort, key, raw["value"]), ChoiceState(raw.get("state", "auto")))


def _members(sort: Any) -> Any:
    return sort.values() if isinstance(sort, Mapping) else (sort,)


def _freeze(choices: Choices) -> Choices:
    return {key: Choice(choice.value, ChoiceState.FROZEN) for key, choice in choices.items()}


def merge_choices(old: Choices, values: Mapping[str, Any]) -> Choices:
    """Return choices for exactly the keys of `values`; one whose value did not change keeps its state.

    Old keys stay in their order, new ones follow. The very object `old` comes back where nothing changed, so that identity tells of change.
    """
    ordered = {**{key: values[key] for key in old if key in values}, **values}
    merged = {
        key: old[key] if key in old and old[key].value == value else Choice(value, _state(old.get(key)))
        for key, value in ordered.items()
    }
    same = len(merged) == len(old) and all(merged[key] is old.get(key) for key in merged)
    return old if same else merged


def _state(before: Choice[Any] | None) -> ChoiceState:
    return before.state if before is not None else ChoiceState.AUTO
