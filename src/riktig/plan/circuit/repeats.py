"""Owns the relays that repeat a float which several paths need: a float has one contact. Must not know starters or modules."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace

from riktig.job.paths import Group, Item, Path, Ref, parse_path, refs_of
from riktig.plan.circuit.model import PLATE, CircuitDevice, CircuitPath

_ASKED = frozenset({None, "no", "nc"})


def repeat_floats(
    devices: list[CircuitDevice], paths: list[CircuitPath], supplies: Mapping[str, str]
) -> tuple[list[CircuitDevice], list[CircuitPath]]:
    """Return devices and control paths with a relay behind each float that stands in more than one place; what a person gave contacts, a
    part or marks stays as it is.

    Args:
        devices: all devices.
        paths: the control paths.
        supplies: the control supply of each path, by its key.

    Source:
        A float has one contact: common practice, no source.
    """
    floats = {d.id: d for d in devices if d.kind == "float" and d.contacts is None and d.part is None}
    used: Counter[str] = Counter()
    first: dict[str, str] = {}
    for path in paths:
        for ref in refs_of(path.items):
            if ref.device in floats:
                used[ref.device] += 1
                if ref.what not in _ASKED:
                    floats.pop(ref.device)
                elif path.key in supplies:
                    first.setdefault(ref.device, supplies[path.key])
    repeated = {
        name: _relay_of(floats[name]) for name, count in used.items() if count > 1 and name in floats and name in first
    }
    if not repeated:
        return devices, paths
    ids = {name: relay.id for name, relay in repeated.items()}
    made = [replace(path, items=_repeated(path.items, ids)) for path in paths]
    rungs = [
        CircuitPath(
            key=f"{relay.id}/repeat", title=relay.title, is_power=False, owner=relay.owner,
            items=parse_path(f"{first[name]}+ > {name}:no > {relay.id}:coil > {first[name]}-"),
        )
        for name, relay in repeated.items()
    ]  # fmt: skip
    return [*devices, *repeated.values()], [*made, *rungs]


def _relay_of(float_: CircuitDevice) -> CircuitDevice:
    owner, _, role = float_.id.rpartition(".")
    name = f"{owner}.K_{role}" if owner else f"{float_.id}.K"
    return CircuitDevice(
        id=name, kind="relay", location=PLATE, title=f"Repeats {float_.title or float_.id}", owner=float_.owner,
        role=name.rpartition(".")[2],
    )  # fmt: skip


def _repeated(items: Path, ids: Mapping[str, str]) -> Path:
    return tuple(_item(item, ids) for item in items)


def _item(item: Item, ids: Mapping[str, str]) -> Item:
    if isinstance(item, Group):
        return replace(item, branches=tuple(_repeated(branch, ids) for branch in item.branches))
    if isinstance(item, Ref) and item.device in ids:
        return replace(item, device=ids[item.device], what=item.what or "no")
    return item
