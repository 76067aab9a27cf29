"""Random circuits for property tests: rungs with groups, over devices on plate, door and two stations."""

from hypothesis import strategies as st

from support import HEAD

_PLACES = {"K": "plate", "S": "door", "A": "st1", "B": "st2"}
_KINDS = {"K": "relay", "S": "pushbutton", "A": "pushbutton", "B": "pushbutton"}
_ITEM = st.tuples(st.sampled_from("KSAB"), st.integers(1, 3), st.sampled_from(["no", "nc"]))


def _element(item: tuple[str, int, str]) -> str:
    return f"{item[0]}{item[1]}:{item[2]}"


@st.composite
def _branch(draw: st.DrawFn, depth: int = 2) -> str:
    parts = []
    for _ in range(draw(st.integers(1, 3))):
        if depth and draw(st.integers(0, 3)) == 0:
            branches = draw(st.lists(_branch(depth=depth - 1), min_size=2, max_size=3))
            parts.append(f"({' | '.join(branches)})")
        else:
            parts.append(_element(draw(_ITEM)))
    return " > ".join(parts)


@st.composite
def briefs(draw: st.DrawFn) -> str:
    """Return a brief of one to four random rungs, each with a coil or lamp of its own."""
    count = draw(st.integers(1, 4))
    paths, devices = [], {}
    for n in range(1, count + 1):
        body = draw(_branch())
        start = "C1+" if n == 1 or draw(st.booleans()) else "@node"
        middle = "@node > " if n == 1 else ""
        first = "S9:nc > " if n == 1 else ""
        load = draw(st.sampled_from([f"C{n + 4}:coil", f"P{n}"]))
        paths.append(f"{start} > {first}{middle}{body} > {load} > C1-")
        devices[f"C{n + 4}" if "coil" in load else f"P{n}"] = ("relay" if "coil" in load else "lamp", None)
    devices["S9"] = ("pushbutton", "door")
    for letter in "KSAB":
        for n in range(1, 4):
            if any(f"{letter}{n}:" in path for path in paths):
                devices[f"{letter}{n}"] = (_KINDS[letter], _PLACES[letter])
    text = HEAD
    for name, (kind, place) in devices.items():
        text += f'[device.{name}]\nkind = "{kind}"\n' + (f'at = "{place}"\n' if place else "")
    return text + "".join(f'[[rung]]\npath = "{path}"\n' for path in paths)
