"""Owns reading of part families from TOML into parts. Must not choose among them."""

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from riktig.catalogue.model import Element, ElementKind, Mounting, Part, Side, TerminalSpec

_FIXED_COLUMNS = {"width", "height", "depth", "losses_w", "torque_nm"}


class CatalogueError(ValueError):
    """A catalogue file that cannot be read; the sentence names the family and the mend."""


@cache
def shipped_parts() -> tuple[Part, ...]:
    """Return all parts that Riktig ships, in catalogue order."""
    folder = files("riktig.catalogue").joinpath("data")
    parts: list[Part] = []
    for entry in sorted(folder.iterdir(), key=lambda e: e.name):
        if entry.name.endswith(".toml"):
            parts.extend(parse_parts(entry.read_text(encoding="utf-8"), entry.name))
    return tuple(parts)


@cache
def parts_by_code() -> dict[str, Part]:
    """Return the shipped parts by their order code."""
    return {part.code: part for part in shipped_parts()}


@cache
def parts_of_kind(kind: str) -> tuple[Part, ...]:
    """Return the shipped parts of one device kind, in catalogue order (smaller before larger)."""
    return tuple(part for part in shipped_parts() if part.kind == kind)


def parse_parts(text: str, name: str) -> list[Part]:
    """Return the parts of a catalogue text: each family's rows times its variants.

    Args:
        text: TOML with `[[family]]` tables.
        name: what to call the file in an error.

    Raises:
        CatalogueError: not TOML, or a family lacks something.
    """
    try:
        families = tomllib.loads(text).get("family", [])
    except tomllib.TOMLDecodeError as error:
        raise CatalogueError(f"{name} is not TOML: {error}") from error
    parts: list[Part] = []
    for family in families:
        try:
            parts.extend(_parts_of_family(family))
        except (KeyError, ValueError) as error:
            raise CatalogueError(
                f"{name}, family '{family.get('code', '?')}': {error!s} is missing or wrong"
            ) from error
    return parts


def _parts_of_family(family: dict[str, Any]) -> list[Part]:
    variants: dict[str, list[str]] = family.get("variants", {"": []})
    parts = []
    for row in family["rows"]:
        values = dict(zip(family["columns"], row, strict=True))
        for variant, extra in variants.items():
            parts.append(_make_part(family, values, variant, extra))
    return parts


def _make_part(family: dict[str, Any], values: dict[str, Any], variant: str, extra: list[str]) -> Part:
    words = {**values, "variant": variant}
    numbers = {**family.get("ratings", {}), **{k: v for k, v in values.items() if not isinstance(v, str)}}
    elements = tuple(_parse_element(text) for text in [*family.get("elements", []), *extra])
    return Part(
        code=family["code"].format(**words).replace(".", "_").rstrip("-"),
        kind=family["kind"],
        title=family["title"].format(**words),
        width=float(numbers["width"]),
        height=float(numbers["height"]),
        depth=float(numbers["depth"]),
        mounting=Mounting(family["mounting"]),
        elements=elements,
        terminals=_place_terminals(elements, family.get("capacity", 2), set(family.get("all_bottom", []))),
        ratings={k: float(v) for k, v in numbers.items() if k not in _FIXED_COLUMNS},
        traits={**family.get("traits", {}), **{k: v for k, v in values.items() if isinstance(v, str)}},
        losses_w=float(numbers.get("losses_w", 0)),
        torque_nm=float(numbers.get("torque_nm", 0.5)),
    )


def _parse_element(text: str) -> Element:
    kind, marks = text.split()
    return Element(kind=ElementKind(kind), marks=tuple(marks.split("-")))


def _place_terminals(elements: tuple[Element, ...], capacity: int, bottom: set[str]) -> tuple[TerminalSpec, ...]:
    """Spread the first mark of each element over the top edge and the others over the bottom edge.

    A coil lies on top with both marks, an earth clamp at the bottom and takes one conductor.
    """
    top_marks: list[str] = []
    bottom_marks: list[str] = []
    for element in elements:
        if element.kind is ElementKind.COIL and element.marks[0] not in bottom:
            top_marks.extend(element.marks)
        elif element.kind is ElementKind.EARTH or element.marks[0] in bottom:
            bottom_marks.extend(element.marks)
        else:
            top_marks.append(element.marks[0])
            bottom_marks.extend(element.marks[1:])
    earth = {m for e in elements if e.kind is ElementKind.EARTH for m in e.marks}
    specs = []
    for side, marks in ((Side.TOP, top_marks), (Side.BOTTOM, bottom_marks)):
        for index, mark in enumerate(marks):
            share = (index + 0.5) / len(marks)
            specs.append(TerminalSpec(mark=mark, side=side, x_share=share, capacity=1 if mark in earth else capacity))
    return tuple(specs)
