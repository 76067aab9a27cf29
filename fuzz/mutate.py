"""Owns changing what is read from outside a little: briefs by their grammar and as text, rows of job files, tables. Knows no reader."""

import copy
import random
from datetime import date, datetime, time
from typing import Any

NUMBERS = (
    0,
    -1,
    1,
    2,
    3,
    0.5,
    1e-9,
    -0.0,
    1e9,
    1e308,
    -1e308,
    10**30,
    2**63 - 1,
    float("nan"),
    float("inf"),
    float("-inf"),
)
TEXTS = (
    "", " ", "x", "400", "0", "L1", "N", "PE", "C1+", "C1-", "in.L1", "@a", "M1", "M1.K", "K1:no", "K1", "1K", "ü", "../../x",
    "gG", "aM", "dual-element", "D", "400/690", "1/0 AWG", "2.5", "R1 50", "plate 1 2", "door 50 50", "auto", "red", "a\nb", "\t", "\x00",
    "\x07", "\ufffe", "\u202e", "\U0001f600", "=1+1", "<svg>", "&amp;", "%s", "{}", "x" * 300, "ab " * 4000,
    "L1 > M1", "C1+ > K1:coil > C1-", "(", ")", "[3 2 1]",
)  # fmt: skip
OTHERS: tuple[Any, ...] = (True, False, [], {}, [1], ["L1"], ["L1", "L2", "L3"], [[]], {"a": 1}, [{"a": 1}], date(2026, 1, 2),
                           time(7, 30), datetime(2026, 1, 2, 3, 4))  # fmt: skip
STARTS = ("L1", "L1", "L1 L2 L3", "L1 L2 L3", "L1 L2", "C1+", "C2+", "@v", "N", "")
ENDS = ("", "", "N", "C1-", "C2-", "M1", "L2", "@v", "PE")
MARKS = ("", "", "", "", ":no", ":nc", ":coil", ":13-14", ":1-2", ":A1-A2")
"""What a path begins and ends with, and what stands behind the names of its devices."""
CHARACTERS = '"=[]{}#,.\n\t-+0e\x00é'


def spots_of(value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Return the places of all values in nested tables and lists."""
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [spot for key, entry in inside for spot in ((*at, key), *spots_of(entry, (*at, key)))]


def _holder(data: Any, spot: tuple[Any, ...]) -> Any:
    for key in spot[:-1]:
        data = data[key]
    return data


def another_value(value: Any, chance: random.Random, known: list[Any]) -> Any:
    """Return something in the place of a value: near to it, of another sort, or what stands elsewhere."""
    choice = chance.random()
    if choice < 0.25 and known:
        return copy.deepcopy(chance.choice(known))
    if choice < 0.5 and isinstance(value, int | float) and not isinstance(value, bool):
        return value * 10.0 ** chance.randint(-6, 6) if chance.random() < 0.5 else -value
    if choice < 0.6 and isinstance(value, str) and value:
        words = value.split(" ")
        at = chance.randrange(len(words))
        words[at : at + 1] = chance.choice(([], [words[at]] * 2, [chance.choice(TEXTS)]))
        return " ".join(words)
    return copy.deepcopy(chance.choice(chance.choice((NUMBERS, TEXTS, OTHERS))))


class Pool:
    """What stands in sound documents, by table and key, and whole tables: to put into another what means something there."""

    def __init__(self, documents: list[dict[str, Any]]) -> None:
        self.values: dict[tuple[Any, Any], list[Any]] = {}
        for data in documents:
            for spot in spots_of(data):
                self.values.setdefault((spot[0], spot[-1]), []).append(_holder(data, spot)[spot[-1]])
        self.tables = [
            (key, value) for data in documents for key, value in data.items() if isinstance(value, dict | list)
        ]

    def near(self, spot: tuple[Any, ...], chance: random.Random) -> Any:
        """Return what stands in such a place elsewhere."""
        return copy.deepcopy(chance.choice(self.values.get((spot[0], spot[-1]), [""])))

    def add_key(self, data: dict[str, Any], chance: random.Random) -> None:
        """Put a key that such tables have into one of them, or a whole member of a table."""
        table, member = chance.choice(self.tables)
        own = data.setdefault(table, copy.deepcopy(member))
        if isinstance(own, list) and isinstance(member, list) and member:
            own.insert(chance.randrange(len(own) + 1), copy.deepcopy(chance.choice(member)))
        elif isinstance(own, dict) and isinstance(member, dict) and member:
            name = chance.choice(list(member))
            own[name] = copy.deepcopy(member[name])
            inner = [entry for entry in own.values() if isinstance(entry, dict)]
            keys = [key for first, key in self.values if first == table and isinstance(key, str)]
            if inner and chance.random() < 0.6:
                key = chance.choice(keys)
                chance.choice(inner)[key] = self.near((table, key), chance)

    def add_path(self, data: dict[str, Any], chance: random.Random) -> None:
        """Put a rung or feeder into it that goes through devices in any order, some of them new and of any kind."""
        devices = data.setdefault("device", {})
        if not isinstance(devices, dict) or not isinstance(data.get("rung", []), list):
            return
        for n in range(chance.randint(1, 3)):
            devices[f"Z{n}"] = {"kind": self.near(("device", "kind"), chance)}
        names = list(devices)[-5:]
        steps = [f"{chance.choice(names)}{chance.choice(MARKS)}" for _ in range(chance.randint(1, 5))]
        if len(steps) > 2 and chance.random() < 0.3:
            steps[:2] = [f"({steps[0]} | {steps[1]})"]
        whole = [chance.choice(STARTS), *steps, chance.choice(ENDS)]
        paths = data.setdefault(chance.choice(("rung", "feeder")), [])
        if isinstance(paths, list):
            paths.append({"path": " > ".join(filter(None, whole))})


def change_tables(data: dict[str, Any], chance: random.Random, pool: Pool) -> dict[str, Any]:
    """Return nested tables with one to four places changed, lost, doubled under another name, or filled by what stands elsewhere."""
    data = copy.deepcopy(data)
    for _ in range(chance.choice((1, 1, 1, 1, 2, 2, 3, 4))):
        spots = spots_of(data)
        if not spots:
            break
        spot = chance.choice(spots)
        holder = _holder(data, spot)
        if spot[-1] == "brief":
            continue
        choice = chance.random()
        if choice < 0.1:
            del holder[spot[-1]]
        elif choice < 0.15:
            doubled = copy.deepcopy(holder[spot[-1]])
            if isinstance(holder, list):
                holder.append(doubled)
            else:
                holder[chance.choice((f"{spot[-1]}2", "name", "M1", "K1", "from", "", "a b"))] = doubled
        elif choice < 0.25:
            pool.add_path(data, chance)
        elif choice < 0.4:
            pool.add_key(data, chance)
        elif choice < 0.65:
            holder[spot[-1]] = pool.near(spot, chance)
        else:
            known = [entry for s in chance.choices(spots, k=8) for entry in (_holder(data, s)[s[-1]],)]
            holder[spot[-1]] = another_value(holder[spot[-1]], chance, known)
    return data


def change_text(text: str, chance: random.Random) -> str:
    """Return a text with lines lost, doubled or exchanged and characters put in."""
    lines = text.split("\n")
    for _ in range(chance.randint(1, 4)):
        at, other = chance.randrange(len(lines)), chance.randrange(len(lines))
        choice = chance.randrange(5)
        if choice == 0 and len(lines) > 1:
            del lines[at]
        elif choice == 1:
            lines.insert(at, lines[other])
        elif choice == 2:
            lines[at], lines[other] = lines[other], lines[at]
        else:
            cut = chance.randrange(len(lines[at]) + 1)
            lines[at] = (
                lines[at][:cut]
                + chance.choice(CHARACTERS) * chance.choice((1, 1, 1, 500))
                + lines[at][cut + choice - 3 :]
            )
    return "\n".join(lines)


def change_bytes(data: bytes, chance: random.Random) -> bytes:
    """Return bytes with some flipped, cut out or doubled."""
    made = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 5, 30))):
        if not made:
            break
        at, size = chance.randrange(len(made)), chance.choice((1, 1, 4, 200))
        choice = chance.randrange(4)
        if choice < 2:
            made[at] = chance.randrange(256)
        elif choice == 2:
            del made[at : at + size]
        else:
            made[at:at] = made[at : at + size]
    return bytes(made)


def write_toml(data: dict[str, Any]) -> str:
    """Return nested tables as TOML, all keys in quotes; lists of tables are written inline."""
    lines: list[str] = []

    def table(value: dict[str, Any], at: tuple[str, ...]) -> None:
        own = {key: entry for key, entry in value.items() if not isinstance(entry, dict)}
        if at:
            lines.append(f"[{'.'.join(map(_quoted, at))}]")
        lines.extend(f"{_quoted(key)} = {_inline(entry)}" for key, entry in own.items())
        for key, entry in value.items():
            if isinstance(entry, dict):
                table(entry, (*at, key))

    table(data, ())
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    written = "".join(f"\\U{ord(c):08x}" if ord(c) < 32 or c in '"\\' or ord(c) == 127 else c for c in text)
    return f'"{written}"'


def _inline(value: Any) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, str):
        return _quoted(value)
    if isinstance(value, list):
        return f"[{', '.join(map(_inline, value))}]"
    if isinstance(value, dict):
        return "{" + ", ".join(f"{_quoted(k)} = {_inline(v)}" for k, v in value.items()) + "}"
    return repr(value) if isinstance(value, int | float) else value.isoformat()
