"""Owns changes to one path by its elements: put something in series or in parallel, take one away, turn make into break.

An element is named by the column where it stands in the path's text, as `Ref.column` counts it. Where something is to be put in, the
text comes back with a gap and the place of the caret in it. Must not know which devices exist.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

from riktig.job.paths import Group, Item, Nodes, Path, Ref, parse_path, refs_of, write_path

_GAP = "GAP"
_SWAPPED = {"no": "nc", "nc": "no", "tno": "tnc", "tnc": "tno", "aux_no": "aux_nc", "aux_nc": "aux_no", "alarm_no": "alarm_nc",
            "alarm_nc": "alarm_no"}  # fmt: skip
Series = tuple[Item, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """A path with a place left open: its text, and where the caret stands (from 0)."""

    text: str
    caret: int


def open_series(text: str, column: int, *, is_before: bool = False, is_feeder: bool = False) -> Gap:
    """Return the path with a gap in series behind the element at a column, or before it.

    Raises:
        PathError: the text is no path.
        KeyError: no element stands at that column.
    """
    gap = _gap()

    def put(series: Series, index: int) -> Series:
        at = index if is_before else index + 1
        return (*series[:at], gap, *series[at:])

    return _with_caret(_change(parse_path(text, is_feeder=is_feeder), column, put))


def open_parallel(text: str, column: int, *, is_feeder: bool = False) -> Gap:
    """Return the path with a gap in parallel with the element at a column: one branch more where it is a branch by itself.

    Raises:
        PathError: the text is no path.
        KeyError: no element stands at that column.
    """
    items = parse_path(text, is_feeder=is_feeder)
    branch = _group_of_branch(items, column)
    if branch is not None:
        wider = Group(branches=(*branch.branches, (_gap(),)), column=branch.column)
        return _with_caret(_replace_group(items, branch, wider))

    def put(series: Series, index: int) -> Series:
        group = Group(branches=((series[index],), (_gap(),)), column=0)
        return (*series[:index], group, *series[index + 1 :])

    return _with_caret(_change(items, column, put))


def close_gap(gap: Gap, element: str) -> str:
    """Return the path with an element in its gap."""
    return gap.text[: gap.caret] + element + gap.text[gap.caret :]


def take_out(text: str, column: int, *, is_feeder: bool = False) -> str:
    """Return the path without the element at a column; a branch that is left empty goes, and a group of one branch opens.

    Raises:
        PathError: the text is no path, or nothing but potentials would be left.
        KeyError: no element stands at that column.
    """
    items = _change(parse_path(text, is_feeder=is_feeder), column, lambda series, i: (*series[:i], *series[i + 1 :]))
    shorter = write_path(_tidied(items))
    parse_path(shorter, is_feeder=is_feeder)
    return shorter


def swap_sort(text: str, column: int, *, is_feeder: bool = False) -> str:
    """Return the path with a make contact as a break contact, or the other way; anything else stays.

    Raises:
        PathError: the text is no path.
        KeyError: no element stands at that column.
    """

    def put(series: Series, index: int) -> Series:
        ref = series[index]
        assert isinstance(ref, Ref)
        return (*series[:index], replace(ref, what=_SWAPPED.get(ref.what or "", ref.what)), *series[index + 1 :])

    return write_path(_change(parse_path(text, is_feeder=is_feeder), column, put))


def element_at(text: str, column: int, *, is_feeder: bool = False) -> Ref:
    """Return the element at a column of a path.

    Raises:
        PathError: the text is no path.
        KeyError: no element stands at that column.
    """
    found = next((ref for ref in refs_of(parse_path(text, is_feeder=is_feeder)) if ref.column == column), None)
    if found is None:
        raise KeyError(column)
    return found


def _gap() -> Ref:
    return Ref(device=_GAP, what=None, order=None, column=0)


def _with_caret(items: Path) -> Gap:
    text = write_path(items)
    at = text.index(_GAP)
    return Gap(text=text[:at] + text[at + len(_GAP) :], caret=at)


def _change(items: Series, column: int, put: Callable[[Series, int], Series]) -> Series:
    """Return a series in which `put` changed the one that holds the element at a column."""
    for index, item in enumerate(items):
        if isinstance(item, Ref) and item.column == column:
            return put(items, index)
        if isinstance(item, Group):
            for n, branch in enumerate(item.branches):
                if any(ref.column == column for ref in refs_of(branch)):
                    changed = (*item.branches[:n], _change(branch, column, put), *item.branches[n + 1 :])
                    return (*items[:index], replace(item, branches=changed), *items[index + 1 :])
    raise KeyError(column)


def _group_of_branch(items: Series, column: int) -> Group | None:
    """Return the innermost group of which the element at a column is a whole branch, None if it is none."""
    for item in items:
        if isinstance(item, Group):
            for branch in item.branches:
                inner = _group_of_branch(branch, column)
                if inner is not None:
                    return inner
                if len(branch) == 1 and isinstance(branch[0], Ref) and branch[0].column == column:
                    return item
    return None


def _replace_group(items: Series, old: Group, new: Group) -> Series:
    changed: list[Item] = []
    for item in items:
        if item is old:
            changed.append(new)
        elif isinstance(item, Group):
            changed.append(replace(item, branches=tuple(_replace_group(branch, old, new) for branch in item.branches)))
        else:
            changed.append(item)
    return tuple(changed)


def _tidied(items: Series) -> Series:
    """Return a series without empty branches; groups of one branch are opened."""
    tidy: list[Item] = []
    for item in items:
        if not isinstance(item, Group):
            tidy.append(item)
            continue
        branches = [
            part
            for branch in item.branches
            if (part := _tidied(branch)) and not all(isinstance(i, Nodes) for i in part)
        ]
        if len(branches) > 1:
            tidy.append(replace(item, branches=tuple(branches)))
        elif branches:
            tidy.extend(branches[0])
    return tuple(tidy)
