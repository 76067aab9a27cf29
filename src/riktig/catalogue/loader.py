"""Owns reading of part families from TOML into parts, and how blocks extend a part. Must not choose among them."""

from collections.abc import Iterator
from functools import cache
from importlib.resources import files
from itertools import product
from pathlib import Path
from typing import Any

import tomli
from pydantic import ValidationError

from riktig.catalogue.family import CatalogueFile, Family
from riktig.catalogue.model import (
    CONTACT_KINDS,
    LANE_KINDS,
    Clamp,
    Element,
    ElementKind,
    Mounting,
    Part,
    Side,
    TerminalSpec,
)
from riktig.refusal import Refusal
from riktig.standards.shelf import from_shelf, own_path

USER_FILE_VARIABLE = "RIKTIG_PARTS"
_OWN_FIELDS = {"width", "height", "depth", "losses_w", "torque_nm", "mm2_min", "mm2_max", "strip_mm", "clearance"}
_TOP_PAIRS = {ElementKind.COIL, ElementKind.PRIMARY, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT}


class CatalogueError(Refusal):
    """A catalogue file that cannot be read; the sentence names the family and the mend."""


def user_catalogue_path() -> Path:
    """Return where a person's own parts stand: `$RIKTIG_PARTS`, or parts.toml in the user's data folder."""
    return own_path(USER_FILE_VARIABLE, "parts.toml")


@cache
def shipped_parts() -> tuple[Part, ...]:
    """Return all parts that Riktig ships, blocks included, in catalogue order."""
    folder = files("riktig.catalogue").joinpath("data")
    parts: list[Part] = []
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".toml"):
            parts.extend(parse_parts(entry.read_text(encoding="utf-8"), entry.name))
    return tuple(parts)


@from_shelf
def all_parts() -> tuple[Part, ...]:
    """Return the shipped parts and the person's own behind them.

    Raises:
        CatalogueError: the person's file cannot be read, or has the code of a shipped part.
    """
    path = user_catalogue_path()
    if not path.is_file():
        return shipped_parts()
    try:
        own = parse_parts(path.read_text(encoding="utf-8"), path.name)
    except (OSError, UnicodeDecodeError) as error:
        raise CatalogueError(f"cannot read {path}: {error}; mend the file or move it away") from error
    shipped = {part.code for part in shipped_parts()}
    for part in own:
        if part.code in shipped:
            raise CatalogueError(f"{path.name}: '{part.code}' is a shipped part's code; give yours another one")
    return (*shipped_parts(), *own)


def forget_parts() -> None:
    """Read the catalogue again when it is next asked for."""
    for read in (all_parts, _base_index, parts_of_kind, poles_of_kind, find_part, extensions_of):
        read.forget()


@from_shelf
def _base_index() -> dict[str, Part]:
    return {part.code: part for part in all_parts()}


@from_shelf
def parts_of_kind(kind: str) -> tuple[Part, ...]:
    """Return the base parts of one device kind, in catalogue order (smaller before larger)."""
    return tuple(part for part in all_parts() if part.kind == kind)


@from_shelf
def poles_of_kind(kind: str) -> tuple[int, ...]:
    """Return how many poles the parts of `parts_of_kind` have, in the same order."""
    return tuple(part.poles for part in parts_of_kind(kind))


@from_shelf
def find_part(code: str) -> Part | None:
    """Return the part of an order code `BASE+BLOCK@230AC`, None if there is none such.

    Blocks and volts of the coil may be left out.
    """
    body, _, volts = code.partition("@")
    base_code, *blocks = body.split("+")
    part = _base_index().get(base_code)
    for name in blocks:
        block = _base_index().get(name)
        if part is None or block is None or block.traits.get("extends") not in part.traits.get("blocks", "").split():
            return None
        part = _extend(part, block)
    if part is None or not volts:
        return part
    return _with_coil(part, volts) if volts in part.traits.get("coils", "").split() else None


@from_shelf
def extensions_of(code: str) -> tuple[Part, ...]:
    """Return a part and what it becomes with blocks, fewer contacts first."""
    part = find_part(code)
    if part is None:
        return ()
    made = [part]
    for slot in part.traits.get("blocks", "").split():
        blocks = [p for p in parts_of_kind("block") if p.traits.get("extends") == slot]
        made.extend(_extend(a, b) for a, b in product(tuple(made), blocks))
    return tuple(sorted(made, key=lambda p: (p.code.count("+"), len(p.elements))))


def _extend(part: Part, block: Part) -> Part:
    """Return the part with a block: behind its front, or at its right side."""
    beside = block.mounting is Mounting.BESIDE
    width = part.width + (block.width if beside else 0.0)
    share, start = (part.width / width, part.width / width) if beside else (1.0, 0.0)
    old = tuple(_move(t, 0.0, share) for t in part.terminals)
    new = tuple(_move(t, start, 1.0 - start) for t in block.terminals)
    body, at, volts = part.code.partition("@")
    return _changed(
        part, code=f"{body}+{block.code}{at}{volts}", title=f"{part.title} with {block.title[:1].lower()}{block.title[1:]}",
        width=width, depth=part.depth + (0.0 if beside else block.depth), elements=(*part.elements, *block.elements),
        terminals=(*old, *new), losses_w=part.losses_w + block.losses_w,
        traits={**{k: v for k, v in block.traits.items() if k == "duty"}, **part.traits},
    )  # fmt: skip


def _changed(part: Part, **changes: Any) -> Part:
    return Part(**{**{name: getattr(part, name) for name in Part.__dataclass_fields__}, **changes})


def _move(spec: TerminalSpec, start: float, share: float) -> TerminalSpec:
    return TerminalSpec(mark=spec.mark, side=spec.side, x_share=start + spec.x_share * share, clamp=spec.clamp)


def _with_coil(part: Part, volts: str) -> Part:
    current = volts[-2:]
    return _changed(
        part, code=f"{part.code}@{volts}", title=f"{part.title}, {volts[:-2]} V {current}",
        ratings={**part.ratings, "volts": float(volts[:-2])}, traits={**part.traits, "current": current.lower()},
    )  # fmt: skip


def parse_parts(text: str, name: str) -> list[Part]:
    """Return the parts of a catalogue text: each family's rows times its variants.

    Args:
        text: TOML with `[[family]]` tables.
        name: what to call the file in an error.

    Raises:
        CatalogueError: not TOML, or a family lacks something; every family that does is named.
    """
    try:
        data = tomli.loads(text)
    except tomli.TOMLDecodeError as error:
        raise CatalogueError(f"{name} is not TOML: {error}") from error
    try:
        catalogue = CatalogueFile.model_validate(data)
    except ValidationError as error:
        raise CatalogueError("\n".join(_sentence(dict(e), data, name) for e in error.errors())) from error
    try:
        return [part for family in catalogue.family for part in _parts_of_family(family)]
    except KeyError as error:
        raise CatalogueError(f"{name}: a code or title asks for the column {error}, which is not there") from error


def _sentence(error: dict[str, Any], data: dict[str, Any], name: str) -> str:
    loc = error["loc"]
    if len(loc) < 2 or not isinstance(loc[1], int):
        return f"{name}: {'.'.join(str(x) for x in loc)}: {error['msg']}; a catalogue has [[family]] tables"
    family = data["family"][loc[1]]
    code = family.get("code", "?") if isinstance(family, dict) else "?"
    where = ".".join(str(x + 1) if isinstance(x, int) else x for x in loc[2:])
    message = str(error.get("ctx", {}).get("error") or error["msg"])
    return f"{name}, family '{code}': {where + ': ' if where else ''}{message[:1].lower()}{message[1:]}"


def _parts_of_family(family: Family) -> list[Part]:
    return [part for row in family.rows for part in _parts_of_row(family, dict(zip(family.columns, row, strict=True)))]


def _plain(value: float | str) -> float | str:
    return f"{value:g}" if isinstance(value, float) else value


def _parts_of_row(family: Family, values: dict[str, float | str]) -> Iterator[Part]:
    """Yield a part for each variant of a row."""
    words = {key: _plain(value) for key, value in values.items()}
    numbers = {**family.ratings, **{k: v for k, v in values.items() if not isinstance(v, str)}}
    repeated = [
        text.replace("#", str(n))
        for column, texts in family.repeat.items()
        for n in range(1, int(float(values[column])) + 1)
        for text in texts
    ]
    common = tuple(_parse_element(text) for text in (*family.elements, *repeated))
    traits = {**family.traits, **{k: v for k, v in values.items() if isinstance(v, str)}}
    if family.blocks:
        traits["blocks"] = " ".join(family.blocks)
    if family.coils:
        traits["coils"] = " ".join(family.coils)
    ratings = {k: float(v) for k, v in numbers.items() if k not in _OWN_FIELDS}
    clamp, bottom = _clamp_of(family, numbers, str(traits.get("thread", ""))), frozenset(family.all_bottom)
    for variant, extra in family.variants.items():
        elements = (*common, *map(_parse_element, extra))
        yield Part(
            code=family.code.format(**words, variant=variant).replace(".", "_").rstrip("-"),
            kind=family.kind,
            title=family.title.format(**words, variant=variant),
            width=float(numbers["width"]),
            height=float(numbers["height"]),
            depth=float(numbers["depth"]),
            mounting=family.mounting,
            elements=elements,
            terminals=_place_terminals(elements, clamp, bottom),
            ratings=ratings,
            traits=traits,
            losses_w=float(numbers.get("losses_w", 0)),
            clearance=float(numbers.get("clearance", 0)),
        )


_STRIP_MM = ((4, 9.0), (10, 12.0), (35, 16.0), (95, 24.0))
_CONTROL_KINDS = CONTACT_KINDS | {
    ElementKind.COIL, ElementKind.INPUT, ElementKind.ENABLE, ElementKind.OUTPUT, ElementKind.ANALOG_IN, ElementKind.ANALOG_OUT,
    ElementKind.SOURCE, ElementKind.SENSOR,
}  # fmt: skip
_CONTROL_MM2, _CONTROL_NM = (0.5, 4.0), 1.0
_LEAST_MM2 = ((10, 0.5), (25, 0.75), (70, 1.0), (150, 1.5), (240, 6.0))

_LEAST_RING_MM2 = {"M5": 0.5, "M6": 0.5, "M8": 1.5, "M10": 1.5, "M12": 4.0}


def _clamp_of(family: Family, numbers: dict[str, float], thread: str) -> Clamp:
    """Return how the terminals of a part clamp; strip length and least section by the largest, if not given; under a bolt lies the
    thinnest wire for which rings of its hole are made.

    Source:
        Common practice, no source; rings DIN 46234, from memory.
    """
    spec, most = family.clamp, float(numbers.get("mm2_max", family.clamp.mm2_max))
    strip = next((mm for limit, mm in _STRIP_MM if most <= limit), 35.0)
    least = next((mm2 for limit, mm2 in _LEAST_MM2 if most <= limit), 16.0)
    least = _LEAST_RING_MM2.get(thread, least) if spec.clamp == "bolt" else least
    torque = 0.0 if spec.clamp == "spring" else float(numbers.get("torque_nm", 0.5))
    return Clamp(
        clamp=spec.clamp, capacity=family.capacity, mm2_min=float(numbers.get("mm2_min", spec.mm2_min or least)),
        mm2_max=most, torque_nm=torque, strip_mm=float(numbers.get("strip_mm", spec.strip_mm or strip)),
    )  # fmt: skip


@cache
def _parse_element(text: str) -> Element:
    kind, marks = text.split()
    return Element(kind=ElementKind(kind), marks=tuple(marks.split("-")))


_PAIR = 2
"""A load with more leads than these takes its lines side by side: an arrester, a phase relay."""


@cache
def _place_terminals(elements: tuple[Element, ...], clamp: Clamp, bottom: frozenset[str]) -> tuple[TerminalSpec, ...]:
    """Spread the first mark of each element over the top edge and the others over the bottom edge.

    A coil, and what is analogue, lies on top with both marks, an earth clamp at the bottom and takes one conductor; coils and auxiliary
    contacts of power devices have the small clamps of control.
    """
    top_marks: dict[str, None] = {}
    bottom_marks: dict[str, None] = {}
    for element in elements:
        if (
            element.kind in _TOP_PAIRS
            and element.marks[0] not in bottom
            or element.kind is ElementKind.LOAD
            and len(element.marks) > _PAIR
        ):
            top_marks.update(dict.fromkeys(element.marks))
        elif element.kind is ElementKind.SECONDARY or element.kind is ElementKind.EARTH or element.marks[0] in bottom:
            bottom_marks.update(dict.fromkeys(element.marks))
        else:
            top_marks.setdefault(element.marks[0])
            bottom_marks.update(dict.fromkeys(m for m in element.marks[1:] if m not in top_marks))
    single = Clamp(
        clamp=clamp.clamp, capacity=1, mm2_min=clamp.mm2_min, mm2_max=clamp.mm2_max, torque_nm=clamp.torque_nm,
        strip_mm=clamp.strip_mm,
    )  # fmt: skip
    earth = {m for e in elements if e.kind is ElementKind.EARTH for m in e.marks}
    power = {m for e in elements if e.kind in LANE_KINDS for m in e.marks}
    control = {m for e in elements if e.kind in _CONTROL_KINDS for m in e.marks} - power if power else set()
    small = Clamp(
        clamp="screw" if clamp.clamp == "bolt" and power else clamp.clamp, capacity=clamp.capacity,
        mm2_min=min(clamp.mm2_min, _CONTROL_MM2[0]), mm2_max=min(clamp.mm2_max, _CONTROL_MM2[1]),
        torque_nm=min(clamp.torque_nm, _CONTROL_NM), strip_mm=min(clamp.strip_mm, 9.0),
    )  # fmt: skip
    return tuple(
        TerminalSpec(
            mark=mark,
            side=side,
            x_share=(i + 0.5) / len(marks),
            clamp=single if mark in earth else small if mark in control else clamp,
        )
        for side, marks in ((Side.TOP, top_marks), (Side.BOTTOM, bottom_marks))
        for i, mark in enumerate(marks)
    )
