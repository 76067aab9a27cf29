"""Owns what earlier versions kept in the ledger otherwise, as plain values. Must not validate or settle."""

from collections.abc import Mapping
from typing import Any

_ROW = "row:"


def with_rails(
    places: Mapping[str, Mapping[str, Any]], outer_width: float, outer_height: float
) -> dict[str, dict[str, Any]]:
    """Return the ledger's places with rails and ducts where they have rows, as they are where they have none.

    Once a plate had rows, `row:N` -> `y up down group`, and parts `N x`; rails ran from side to side and ducts followed from the rows.
    Now rails and ducts have places of their own.

    Args:
        places: what the ledger has, by key: a mapping with `value`, and `state` where that is not `auto`.
        outer_width, outer_height: of the enclosure, in mm.

    Raises:
        ValueError, IndexError: a row is no row.
    """
    old = {key: dict(choice) for key, choice in places.items()}
    if not any(key.startswith(_ROW) for key in old):
        return old
    width, height = outer_width - 50.0, outer_height - 50.0
    size, depth = (60.0, 80.0) if outer_width >= 800 else (40.0, 60.0)
    inner = width - 2 * size
    rows: list[tuple[int, dict[str, Any], float, float, float]] = []
    for key, choice in old.items():
        if key.startswith(_ROW):
            y, up, down = map(float, choice["value"].split()[:3])
            rows.append((int(key.removeprefix(_ROW)), choice, y, up, down))
    rows.sort(key=lambda row: -row[2])
    found: dict[str, dict[str, Any]] = {"plate:size": {"value": f"{width:g} {height:g} arranged"}}
    for number, choice, y, _, _ in rows:
        found[f"rail:R{number + 1}"] = {**choice, "value": f"{size + 5:g} {y:g} {inner - 10:g}"}
    top = rows[0][2] + rows[0][3] + 30
    levels = [("D3", top, rows[0][1])]
    levels.extend((f"D{number + 4}", y - down - 30 - size, choice) for number, choice, y, _, down in rows)
    low, high = min(0.0, levels[-1][1]), max(height, top + size)
    for code, x in (("D1", 0.0), ("D2", width - size)):
        found[f"duct:{code}"] = {**rows[0][1], "value": f"v {x:g} {low:g} {high - low:g} {size:g} {depth:g}"}
    for code, y, choice in levels:
        found[f"duct:{code}"] = {**choice, "value": f"h {size:g} {y:g} {inner:g} {size:g} {depth:g}"}
    for key, choice in old.items():
        if not key.startswith(_ROW):
            first, *rest = choice["value"].split()
            value = choice["value"] if not first.isdigit() else " ".join((f"R{int(first) + 1}", *rest))
            found[key] = {**choice, "value": value}
    return found
