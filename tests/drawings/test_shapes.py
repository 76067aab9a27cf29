"""Symbols as shapes: pins where conductors meet them, both standards, upright and turned."""

import pytest

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Circle, Line, Shape, Text
from riktig.drawings.shapes import (
    POLE_PITCH,
    SymbolSet,
    arrow_shape,
    converter_shape,
    earth_shape,
    element_shape,
    motor_shape,
    primary_shape,
    shape_box,
    wide_load_shape,
)
from riktig.drawings.symbols import SPAN

KINDS = [
    ("breaker", ElementKind.POLE), ("motor-breaker", ElementKind.POLE), ("contactor", ElementKind.POLE), ("disconnect", ElementKind.POLE),
    ("overload", ElementKind.POLE), ("fuse", ElementKind.POLE), ("contactor", ElementKind.NO), ("contactor", ElementKind.NC),
    ("pushbutton", ElementKind.NO), ("pushbutton", ElementKind.NC), ("emergency-stop", ElementKind.NC), ("selector", ElementKind.NO),
    ("float", ElementKind.NO), ("limit-switch", ElementKind.NC), ("timer", ElementKind.TIMED_NO), ("contactor", ElementKind.COIL),
    ("lamp", ElementKind.LAMP), ("horn", ElementKind.SOUNDER), ("transformer", ElementKind.SECONDARY), ("link", ElementKind.THROUGH),
    ("motor", ElementKind.WINDING), ("relay", None),
]  # fmt: skip


def ends(shape: Shape) -> set[tuple[float, float]]:
    """Return where lines of a shape begin or end, and the edge of its circles above and below the conductor."""
    found = {p for i in shape.items if isinstance(i, Line) for p in (i.points[0], i.points[-1])}
    return {(round(x, 2), round(y, 2)) for x, y in found}


@pytest.mark.parametrize("standard", SymbolSet)
@pytest.mark.parametrize(("kind", "element"), KINDS)
def test_a_line_of_the_symbol_ends_at_each_pin_upright_and_turned(
    standard: SymbolSet, kind: str, element: ElementKind | None
) -> None:
    upright = element_shape(standard, kind, element, None, is_turned=False)
    turned = element_shape(standard, kind, element, None, is_turned=True)
    assert {(0.0, 0.0), (0.0, -SPAN)} <= ends(upright) and upright.pins == ((0, 0), (0, -SPAN))
    assert {(0.0, 0.0), (SPAN, 0.0)} <= ends(turned) and set(turned.pins) == {(0, 0), (SPAN, 0)}
    left, bottom, right, top = shape_box(upright)
    assert shape_box(turned) == pytest.approx((-top, -right, -bottom, -left), abs=2.0), "letters are not turned"


def test_the_two_standards_draw_switches_coils_and_breakers_each_in_its_own_way() -> None:
    for kind, element in KINDS[:9] + KINDS[15:17]:
        iec, nema = (element_shape(s, kind, element, None, is_turned=False) for s in SymbolSet)
        assert iec.items != nema.items, (kind, element)
        assert iec.title == nema.title and iec.name != nema.name


@pytest.mark.parametrize("standard", SymbolSet)
def test_make_break_and_the_halves_of_a_changeover_are_told_apart(standard: SymbolSet) -> None:
    make, open_ = (element_shape(standard, "relay", e, None, is_turned=False) for e in (ElementKind.NO, ElementKind.NC))
    closes, opens = (element_shape(standard, "relay", ElementKind.CO, s, is_turned=False) for s in ("no", "nc"))
    assert make.items != open_.items and closes.items == make.items and opens.items == open_.items


def test_a_coil_is_a_box_in_one_standard_and_a_circle_in_the_other() -> None:
    """IEC 60617 S00305 and IEEE 315 4.5, from memory."""
    iec, nema = (element_shape(s, "relay", ElementKind.COIL, None, is_turned=False) for s in SymbolSet)
    assert not any(isinstance(i, Circle) for i in iec.items) and any(isinstance(i, Circle) for i in nema.items)


def test_protective_earth_stands_in_a_circle_in_one_standard_only() -> None:
    """IEC 60617 S00202, IEEE 315 3.9, from memory."""
    assert any(isinstance(i, Circle) for i in earth_shape(SymbolSet.IEC).items)
    assert not any(isinstance(i, Circle) for i in earth_shape(SymbolSet.NEMA).items)


@pytest.mark.parametrize(
    ("shape", "pins"),
    [
        (motor_shape(3), 4), (motor_shape(3, is_through=True), 7), (motor_shape(2), 3), (converter_shape(3, ("~", "f")), 6),
        (wide_load_shape(4), 4), (primary_shape(SymbolSet.IEC, 2), 2),
        (primary_shape(SymbolSet.NEMA, 2), 2),
    ],
)  # fmt: skip
def test_wide_symbols_have_a_pin_for_each_conductor_a_pitch_apart_and_motors_one_for_earth(
    shape: Shape, pins: int
) -> None:
    assert len(shape.pins) == pins
    heads = [x for x, y in shape.pins if y == 0]
    assert heads == [i * POLE_PITCH for i in range(len(heads))]


def test_a_motor_says_how_many_phases_it_has() -> None:
    words = [{i.text for i in motor_shape(n).items if isinstance(i, Text)} for n in (2, 3)]
    assert words == [{"M", "1~"}, {"M", "3~"}]


def test_an_arrow_that_goes_begins_at_its_pin_and_one_that_comes_ends_there() -> None:
    goes, comes = shape_box(arrow_shape("down")), shape_box(arrow_shape("down comes"))
    assert goes[3] == 0 and goes[1] < -2 and comes[1] == 0 and comes[3] > 2
