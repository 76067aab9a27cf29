"""Owns reading back a schedule that a person edited: wires, terminals or cables, CSV or XLSX. Every fault names line, column and
mend; nothing is taken while there is one.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from riktig.files.motor_list import ListFault
from riktig.files.rows_in import ListError, OnShare, Rows, no_share, read_rows
from riktig.files.tables import BUILDERS
from riktig.job.faults import did_you_mean
from riktig.job.ledger import ChoiceState
from riktig.plan.changes.schedule import EditSort, ScheduleEdit
from riktig.plan.plan import Plan
from riktig.plan.wiring.links import link_key

LONGEST_REMARK = 80
KEYS = {"cables": ("run",), "terminals": ("strip", "label"), "wires": ("from", "to")}
"""Schedules that are read back, and the columns that say what a row is about."""
EDITABLE = {"wires": ("number", "remark"), "terminals": ("position", "remark"), "cables": ("name", "remark")}
Key = tuple[str, ...]


@dataclass(slots=True)
class _Reading:
    """A schedule while it is read: its rows as they are now, by their key, and those of the file."""

    name: str
    plan: Plan
    now: Mapping[Key, Mapping[str, str]]
    rows: dict[Key, tuple[int, Mapping[str, str]]] = field(default_factory=dict)
    faults: list[ListFault] = field(default_factory=list)

    def say(self, line: int, column: str, message: str) -> None:
        self.faults.append(ListFault(line=line, column=column, message=message))

    def changed(self, column: str) -> Iterator[tuple[Key, int, str, str]]:
        """Yield key, line, value now and value in the file of each row whose column differs."""
        for key, (line, cells) in self.rows.items():
            if column in cells and cells[column] != self.now[key][column]:
                yield key, line, self.now[key][column], cells[column]


def read_schedule(path: Path, plan: Plan, on_share: OnShare = no_share) -> tuple[ScheduleEdit, ...]:
    """Return what an edited schedule changes; a row or column that is gone changes nothing. `on_share` is told how far it is.

    Raises:
        ListError: it cannot be read, is none of the schedules, or a row does not fit.
    """
    return parse_schedule(read_rows(path, on_share), plan, path.name)


def parse_schedule(rows: Rows, plan: Plan, file_name: str = "list") -> tuple[ScheduleEdit, ...]:
    """Return what a schedule given as rows changes, the headings first.

    Raises:
        ListError: as `read_schedule`.
    """
    made = [(line, cells) for line, cells in rows if any(cells)]
    if not made:
        raise _error(file_name, 1, "", "the file is empty: edit a schedule that was exported, and keep its headings")
    line, head = made[0]
    headings = [cell.strip().lower() for cell in head]
    name = next((n for n, keys in KEYS.items() if set(keys) <= set(headings)), None)
    if name is None:
        wanted = "; ".join(f"{n}: {' '.join(keys)}" for n, keys in KEYS.items())
        raise _error(file_name, line, "", f"these are not the headings of a schedule that is read back: keep {wanted}")
    table = BUILDERS[name](plan)
    now = {}
    for row in table.rows:
        cells = {heading: _plain(value) for heading, value in zip(table.headings, row, strict=True)}
        now[tuple(cells[column] for column in KEYS[name])] = cells
    reading = _Reading(name=name, plan=plan, now=now)
    _check_headings(reading, line, headings, table.headings)
    if not reading.faults:
        _take_rows(reading, made[1:], headings)
        _check_computed(reading)
        edits = _EDITS[name](reading)
        edits += _remarks(reading)
    if reading.faults:
        raise ListError(file_name, tuple(sorted(reading.faults, key=lambda fault: fault.line)))
    return tuple(edits)


def _error(file_name: str, line: int, column: str, message: str) -> ListError:
    return ListError(file_name, (ListFault(line=line, column=column, message=message),))


def _plain(value: object) -> str:
    return f"{value:.10g}" if isinstance(value, float) else str(value)


def _check_headings(reading: _Reading, line: int, headings: list[str], known: tuple[str, ...]) -> None:
    for place, heading in enumerate(headings):
        if heading and heading in headings[:place]:
            reading.say(line, heading, "this heading stands twice: keep one of the columns")
        elif heading and heading not in known:
            reading.say(
                line,
                heading,
                f"no such column in the schedule of {reading.name}{did_you_mean(heading, known)}: take it out",
            )


def _take_rows(reading: _Reading, rows: Rows, headings: list[str]) -> None:
    columns = KEYS[reading.name]
    if not rows:
        reading.say(1, "", "there is no row below the headings: keep those that you edited")
    for line, cells in rows:
        if any(cells[len(headings) :]):
            reading.say(line, "", f"it has {len(cells)} cells for {len(headings)} headings: take the last ones out")
            continue
        row = {h: _number_as_text(cells[at]) if at < len(cells) else "" for at, h in enumerate(headings) if h}
        empty = [column for column in columns if not row[column]]
        key = tuple(row[column] for column in columns)
        if empty:
            reading.say(line, empty[0], "is empty: it says which row this is; write what the export had")
        elif key not in reading.now:
            words = " ".join(key)
            hint = did_you_mean(words, [" ".join(k) for k in reading.now])
            reading.say(
                line, columns[0], f"the plan has no '{words}'{hint}: write what the export had, or take the row out"
            )
        elif key in reading.rows:
            reading.say(
                line,
                columns[0],
                f"'{' '.join(key)}' stands in line {reading.rows[key][0]} already: take one of them out",
            )
        else:
            reading.rows[key] = line, row


def _number_as_text(cell: str) -> str:
    """Return a cell as the schedule writes it: a spreadsheet may have made 2.5 of 2.50."""
    try:
        return f"{float(cell):.10g}" if "." in cell else cell
    except ValueError:
        return cell


def _check_computed(reading: _Reading) -> None:
    """Say which computed cells were changed: they follow from the job and would be lost."""
    open_columns = {*EDITABLE[reading.name], *KEYS[reading.name]}
    for key, (line, row) in reading.rows.items():
        for column, value in row.items():
            if column not in open_columns and value != reading.now[key][column]:
                reading.say(
                    line, column, f"'{value}' is computed and cannot be set here: put '{reading.now[key][column]}' back"
                )


def _remarks(reading: _Reading) -> list[ScheduleEdit]:
    plan = reading.plan
    keys: dict[Key, str] = {}
    if reading.name == "wires":
        keys = {
            (plan.terminal_label(c.a), plan.terminal_label(c.b)): f"wire:{link_key(c.a, c.b)}" for c in plan.conductors
        }
    elif reading.name == "terminals":
        keys = {(clamp.strip, clamp.label): f"clamp:{clamp.key}" for clamp in plan.clamps}
    else:
        keys = {(cable.drop,): f"cable:{cable.drop}" for cable in plan.cables}
    made = []
    for key, line, before, after in reading.changed("remark"):
        if len(after) > LONGEST_REMARK:
            reading.say(line, "remark", f"has {len(after)} letters: write at most {LONGEST_REMARK}")
        made.append(
            ScheduleEdit(
                sort=EditSort.REMARK, key=keys[key], before=before, after=after, line=line, about=" ".join(key)
            )
        )
    return made


def _numbers(reading: _Reading) -> list[ScheduleEdit]:
    """Return the numbers that were changed, one edit for each potential."""
    ledger = reading.plan.job.ledger.numbers
    wanted: dict[str, tuple[str, int]] = {}
    for _, line, before, after in reading.changed("number"):
        other = wanted.get(before)
        if other is not None and other[0] != after:
            reading.say(
                line,
                "number",
                f"number {before} becomes {other[0]} in line {other[1]}, {after} here: write one in both",
            )
        wanted.setdefault(before, (after, line))
    staying = {p.number for p in reading.plan.potentials} - wanted.keys()
    for before, (after, line) in wanted.items():
        choice = ledger.get(before)
        if choice is None:
            reading.say(line, "number", f"{before} is the name of a supply and stays: put it back")
        elif choice.state is ChoiceState.FROZEN:
            reading.say(line, "number", f"{before} was released and stays: put it back")
        elif not after:
            reading.say(line, "number", f"is empty: write a number, or {before} again")
        elif len(after.split()) > 1:
            reading.say(line, "number", f"'{after}' has blanks: a number has none")
        elif after in ledger and not ledger[after].value.terminals:
            reading.say(
                line, "number", f"{after} was used before the release and is never given out again: choose another"
            )
        elif after in staying:
            reading.say(line, "number", f"{after} is the number of other wires: choose another, or change theirs too")
        elif any(o_after == after for o_before, (o_after, _) in wanted.items() if o_before != before):
            reading.say(line, "number", f"{after} is given to two potentials: choose another for one of them")
    return [
        ScheduleEdit(sort=EditSort.NUMBER, key=before, before=before, after=after, line=line)
        for before, (after, line) in wanted.items()
    ]


def _orders(reading: _Reading) -> list[ScheduleEdit]:
    """Return the strips whose terminals were put in another order; terminals whose row is gone keep their place."""
    made = []
    for strip in dict.fromkeys(clamp.strip for clamp in reading.plan.clamps):
        row = [(clamp.strip, clamp.label) for clamp in reading.plan.clamps if clamp.strip == strip]
        changed = [(key, line, after) for key, line, _, after in reading.changed("position") if key[0] == strip]
        places: dict[Key, int] = {}
        for key, line, after in changed:
            if not after.isdigit():
                reading.say(line, "position", f"'{after}' is no place: write a whole number from 1 to {len(row)}")
            elif not 1 <= int(after) <= len(row):
                reading.say(
                    line, "position", f"strip {strip} has {len(row)} terminals: write a number from 1 to {len(row)}"
                )
            else:
                places[key] = int(after)
        wanted: dict[int, Key] = {}
        for at, key in enumerate(row, 1):
            place = places.get(key, at)
            if place in wanted:
                line = reading.rows[key][0] if key in reading.rows else reading.rows[wanted[place]][0]
                other = ":".join(wanted[place])
                reading.say(
                    line,
                    "position",
                    f"{':'.join(key)} and {other} would both stand on place {place}: give each its own",
                )
            wanted.setdefault(place, key)
        order = [wanted[at] for at in sorted(wanted)]
        if changed and len(order) == len(row) and order != row:
            _say_released(reading, [key for key, other in zip(order, row, strict=True) if key != other])
            before, after_text = (" ".join(f"{s}:{label}" for s, label in keys) for keys in (row, order))
            made.append(
                ScheduleEdit(sort=EditSort.ORDER, key=strip, before=before, after=after_text, line=changed[0][1])
            )
    return made


def _say_released(reading: _Reading, moved: list[Key]) -> None:
    frozen = {str(c.value) for c in reading.plan.job.ledger.clamps.values() if c.state is ChoiceState.FROZEN}
    for key in moved:
        if ":".join(key) in frozen and key in reading.rows:
            reading.say(reading.rows[key][0], "position", f"{':'.join(key)} was released and stays: put its place back")


def _names(reading: _Reading) -> list[ScheduleEdit]:
    ledger = reading.plan.job.ledger.cables
    changed = list(reading.changed("name"))
    after_of = {cable.drop: cable.name for cable in reading.plan.cables} | {
        key[0]: after for key, _, _, after in changed
    }
    made = []
    for key, line, before, after in changed:
        if not after:
            reading.say(line, "name", f"is empty: write a name, or {before} again")
        elif len(after.split()) > 1:
            reading.say(line, "name", f"'{after}' has blanks: a name has none")
        elif sum(name == after for name in after_of.values()) > 1:
            reading.say(line, "name", f"{after} is the name of two cables: choose another")
        elif ledger[key[0]].state is ChoiceState.FROZEN:
            reading.say(line, "name", f"{before} was released and stays: put it back")
        made.append(ScheduleEdit(sort=EditSort.NAME, key=key[0], before=before, after=after, line=line))
    return made


_EDITS: Mapping[str, Callable[[_Reading], list[ScheduleEdit]]] = {
    "wires": _numbers,
    "terminals": _orders,
    "cables": _names,
}
