"""Owns reading a brief: a TOML text that a person wrote, to a settled Job. Format 1, documented in
docs/brief-format.md. Every fault of a brief is gathered before it is refused.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import tomli
from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from riktig.files.toml_lines import Key, find_lines, line_of
from riktig.job.edits import with_needed_supply
from riktig.job.faults import JobError, did_you_mean
from riktig.job.ledger import ChoiceState, Ledger, read_ledger
from riktig.job.model import NAMED_TABLES, ROW_TABLES, SINGLE_TABLES, Control, Enclosure, Job
from riktig.job.modules import Alarm, Supply
from riktig.job.plain import find_too_many, find_unfit, shown
from riktig.job.scripts import FieldBody, Step
from riktig.job.upgrade import with_rails
from riktig.job.validate import find_faults
from riktig.refusal import Refusal

FORMAT = 1
_KNOWN = ("brief", *SINGLE_TABLES, *NAMED_TABLES, *ROW_TABLES, "kept")
_PUBLIC = {(Control, "from_lines"): "from", (Alarm, "from_refs"): "from"}
_ONCE = frozenset(model for _, model in SINGLE_TABLES.values())
EMPTY_HINT = "begin with brief = 1, [job] number, [supply] system and volts"


@dataclass(frozen=True, slots=True, kw_only=True)
class BriefFault:
    """One thing to mend in a brief: line (from 1), key as written, one sentence."""

    line: int
    key: str
    message: str
    table: Key = ()

    def text(self, name: str) -> str:
        """Return it as one line for people."""
        where = f"{self.key}: " if self.key else ""
        return f"{name}:{self.line}: {where}{self.message}"


class BriefError(Refusal):
    """A brief that cannot be taken; carries every fault in it, in the order of lines."""

    def __init__(self, name: str, faults: list[BriefFault]) -> None:
        self.name = name
        self.faults = tuple(sorted(faults, key=lambda f: f.line))
        super().__init__("\n".join(fault.text(name) for fault in self.faults))


def read_brief(path: Path) -> Job:
    """Return the settled Job of a brief file.

    Raises:
        BriefError: the brief has faults.
        OSError: the file cannot be read.
    """
    raw = path.read_bytes()
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        fault = BriefFault(
            line=line, key="", message="this is no text: a brief is TOML in UTF-8, written by hand or by export-brief"
        )
        raise BriefError(path.name, [fault]) from error
    return parse_brief(text, path.name)


def read_shipped(text: str) -> Job:
    """Return the Job of a brief that Riktig ships, which is known to be sound; not settled, so that nothing of the plan is loaded for it.

    Raises:
        BriefError: it has faults all the same.
    """
    faults: list[BriefFault] = []
    fields = _collect(_load(text, "brief"), find_lines(text), faults)
    if faults:
        raise BriefError("brief", faults)
    return with_needed_supply(Job(**fields))


def parse_brief(text: str, name: str = "brief") -> Job:
    """Return the settled Job of a brief's text.

    Args:
        text: the TOML text.
        name: what to call it in an error.

    Raises:
        BriefError: the brief has faults.
    """
    from riktig.plan.settle import settle

    data = _load(text, name)
    lines = find_lines(text)
    faults: list[BriefFault] = []
    fields = _collect(data, lines, faults)
    job = None
    if not faults:
        try:
            job = settle(with_needed_supply(Job(**fields)))
        except JobError as error:
            faults.extend(fault_at(lines, fault.at, fault.message) for fault in error.faults)
    else:
        faults.extend(_faults_between(fields, lines, faults))
    if job is None:
        raise BriefError(name, faults)
    return job


def _faults_between(fields: dict[str, Any], lines: dict[Key, int], known: list[BriefFault]) -> list[BriefFault]:
    """Return what does not fit together in a brief whose tables have faults of their own; those tables are left out."""
    members = [member for value in fields.values() if isinstance(value, tuple) for member in value]
    if not isinstance(fields.get("supply"), Supply) or any(member is None for member in members):
        return []
    job = Job.model_construct(**{key: value for key, value in fields.items() if value is not None})
    own = {fault.table for fault in known}
    return [fault_at(lines, f.at, f.message) for f in find_faults(job) if _table_key(f.at) not in own]


def _load(text: str, name: str) -> dict[str, Any]:
    def refuse(line: int, message: str) -> BriefError:
        return BriefError(name, [BriefFault(line=line, key="", message=message)])

    if not text.strip():
        raise refuse(1, f"the file is empty: {EMPTY_HINT}")
    if "\0" in text:
        line = text[: text.index("\0")].count("\n") + 1
        raise refuse(line, "this is no text: a brief is TOML in UTF-8, written by hand or by export-brief")
    try:
        data = tomli.loads(text)
    except RecursionError as error:
        raise refuse(1, "its tables and lists stand too deep in each other: a brief has three levels") from error
    except tomli.TOMLDecodeError as error:
        message, _, place = str(error).rpartition(" (at ")
        digits = "".join(c for c in place.split(",")[0] if c.isdigit())
        line = int(digits) if digits else text.count("\n") + 1
        raise refuse(
            line, f"this is not TOML: {message[:1].lower()}{shown(message[1:])}; write key = value, texts in quotes"
        ) from error
    if "brief" not in data:
        raise refuse(1, "'brief' is missing: write brief = 1 on the first line")
    if data["brief"] != FORMAT:
        raise refuse(
            line_of(find_lines(text), ("brief",)),
            f"brief = {shown(data['brief'])} is not known here: this version reads 1",
        )
    return data


def _collect(data: dict[str, Any], lines: dict[Key, int], faults: list[BriefFault]) -> dict[str, Any]:
    """Return the fields of a Job, each validated; what is wrong is added to `faults`."""
    fields: dict[str, Any] = {}
    for key in data:
        if key not in _KNOWN:
            faults.append(fault_at(lines, (key,), f"unknown table '{shown(key)}'{did_you_mean(key, _KNOWN)}"))
    for table in ("job", "supply"):
        if table not in data:
            faults.append(fault_at(lines, (), f"[{table}] is missing: {EMPTY_HINT}"))
    for table in (*NAMED_TABLES, *ROW_TABLES):
        if too_many := find_too_many(data.get(table)):
            faults.append(fault_at(lines, (table,), too_many))
            return fields
    for table, (field, model) in SINGLE_TABLES.items():
        if table in data:
            value = dict(data[table]) if isinstance(data[table], dict) else data[table]
            if table == "job" and isinstance(value, dict) and "revision" in value:
                fields["revision"] = _revision(value.pop("revision"), lines, faults)
            fields[field] = build_table(model, value, (table,), lines, faults)
    for table, (field, model) in NAMED_TABLES.items():
        members = _table(data.get(table, {}), table, lines, faults)
        fields[field] = tuple(
            build_table(model, _named(value, name), (table, name), lines, faults) for name, value in members.items()
        )
    for table, (field, model) in ROW_TABLES.items():
        rows = data.get(table, [])
        if not isinstance(rows, list):
            faults.append(fault_at(lines, (table,), f"write [[{table}]] with two brackets on each side"))
            continue
        fields[field] = tuple(
            build_table(model, _named(row, f"{table}{i + 1}"), (table, i), lines, faults) for i, row in enumerate(rows)
        )
    kept = _read_kept(_table(data.get("kept", {}), "kept", lines, faults), lines, faults)
    outside = fields.get("enclosure") or Enclosure()
    try:
        kept["places"] = with_rails(kept.get("places", {}), outside.width, outside.height)
    except (ValueError, IndexError):
        faults.append(
            fault_at(lines, ("kept", "places"), "a row is no row: write `y up down group`, or leave [kept.places] out")
        )
    fields["ledger"], unread = read_ledger(kept)
    faults.extend(fault_at(lines, fault.at, fault.message) for fault in unread)
    return fields


def _revision(value: Any, lines: dict[Key, int], faults: list[BriefFault]) -> str | None:
    unfit = find_unfit(value) or ("" if isinstance(value, str) else "write the name of the revision in quotes")
    if unfit:
        faults.append(fault_at(lines, ("job", "revision"), unfit))
    return None if unfit else value


def _named(value: Any, name: str) -> Any:
    return {"name": name, **value} if isinstance(value, dict) else value


def _table(value: Any, name: str, lines: dict[Key, int], faults: list[BriefFault]) -> dict[str, Any]:
    if isinstance(value, dict):
        return value
    faults.append(fault_at(lines, (name,), f"write [{name}.NAME] and its keys below it"))
    return {}


def build_table(
    model: type[BaseModel], value: Any, at: Key, lines: dict[Key, int], faults: list[BriefFault]
) -> BaseModel | None:
    """Return a table as its model, None where nothing can be taken of it; what is wrong with it is added to `faults`."""
    if not isinstance(value, dict):
        faults.append(fault_at(lines, at, f"write [{'.'.join(str(k) for k in at)}] and its keys below it"))
        return None
    try:
        return model(**value)
    except ValidationError as error:
        for item in error.errors():
            loc = item["loc"]
            key: Key = at if not loc else (*at, *_public(loc, model))
            faults.append(fault_at(lines, key, _sentence(dict(item), model)))
        bad = {str(item["loc"][0]) for item in error.errors() if item["loc"]}
        is_useful = model not in _ONCE or (model is Supply and "system" not in bad)
        return _stand_in(model, value, bad) if is_useful else None


def _stand_in(model: type[BaseModel], value: dict[str, Any], bad: set[str]) -> BaseModel:
    """Return what can be taken of a faulty table, so that others that name it are not faulted for that; something of the right sort
    stands in the place of what is missing.
    """
    sound = {key: entry for key, entry in value.items() if key in model.model_fields and key not in bad}
    try:
        return model(**sound)
    except ValidationError:
        missing = {n: _placeholder(f) for n, f in model.model_fields.items() if f.is_required() and n not in sound}
        return model.model_construct(**{**missing, **sound})


def _placeholder(field: FieldInfo) -> Any:
    sort = str(field.annotation)
    return () if "tuple" in sort else 1.0 if field.annotation in {float, int} else ""


def _public(loc: tuple[int | str, ...], model: type[BaseModel]) -> Key:
    """Return a place in a model as the brief writes it."""
    return (_PUBLIC.get((model, str(loc[0])), loc[0]), *loc[1:])


def _sentence(error: dict[str, Any], model: type[BaseModel]) -> str:
    """Return one of pydantic's errors as a sentence with the mend."""
    kind, context, value = error["type"], error.get("ctx", {}), error.get("input")
    key = str(error["loc"][0]) if error["loc"] else ""
    if kind == "extra_forbidden":
        inner = (*Step.model_fields, *FieldBody.model_fields) if len(error["loc"]) > 1 else model.model_fields
        known = [_PUBLIC.get((model, f), f) for f in inner if f != "name"]
        key = str(error["loc"][-1])
        hint = did_you_mean(key, known) or f" (known here: {', '.join(known)})"
        return f"unknown key '{shown(key)}'{hint}"
    if kind == "missing":
        return f"'{key}' is missing: add {key} = ..."
    if kind in {"literal_error", "enum"}:
        return f"'{shown(value)}' is not known here: use {context['expected']}"
    if kind == "value_error":
        return str(context["error"])
    if kind in {"greater_than", "greater_than_equal", "less_than", "less_than_equal"}:
        words = {"gt": "more than", "ge": "at least", "lt": "less than", "le": "at most"}
        sign, limit = next(iter(context.items()))
        return f"{shown(value)} is out of range: give {words[sign]} {limit:g}"
    if kind == "string_pattern_mismatch":
        return f"'{shown(value)}' is no name: begin with a letter, then letters, digits and _"
    if kind == "string_too_long":
        return f"'{shown(value)}' has {len(str(value))} letters: shorten it to {context['max_length']}"
    return f"'{shown(value)}' does not fit: {error['msg'][:1].lower()}{error['msg'][1:]}"


def fault_at(lines: dict[Key, int], at: Key, message: str) -> BriefFault:
    """Return a fault at a key, on the line where that stands."""
    written = ".".join(f"[{part + 1}]" if isinstance(part, int) else shown(part) for part in at).replace(".[", "[")
    return BriefFault(line=line_of(lines, at), key=written, message=message, table=_table_key(at))


def _table_key(at: Key) -> Key:
    """Return the table that a key stands in: `("starter", "M1")` of `("starter", "M1", "kw")`."""
    return at[:2] if at and at[0] in {*NAMED_TABLES, *ROW_TABLES} else at[:1]


def _read_kept(
    data: dict[str, Any], lines: dict[Key, int], faults: list[BriefFault]
) -> dict[str, dict[str, dict[str, Any]]]:
    """Return the ledger: a bare text is a person's choice, `{ auto = .. }` and `{ frozen = .. }` are not."""
    known = list(Ledger.model_fields)
    found: dict[str, dict[str, dict[str, Any]]] = {}
    for sort, choices in data.items():
        if sort not in known:
            hint = did_you_mean(sort, known) or f" (known: {', '.join(known)})"
            faults.append(fault_at(lines, ("kept", sort), f"unknown sort of choice '{shown(sort)}'{hint}"))
            continue
        found[sort] = {}
        for key, value in _table(choices, f"kept.{sort}", lines, faults).items():
            state = next(iter(value), "") if isinstance(value, dict) and len(value) == 1 else ""
            if isinstance(value, str):
                found[sort][key] = {"value": value, "state": ChoiceState.KEPT}
            elif state in {"auto", "frozen"} and isinstance(value[state], str):
                found[sort][key] = {"value": value[state], "state": state}
            else:
                faults.append(
                    fault_at(lines, ("kept", sort, key), 'write "value", { auto = "value" } or { frozen = "value" }')
                )
    return found
