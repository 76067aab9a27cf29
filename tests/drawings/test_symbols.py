"""Symbols and the single-line diagram as recorded primitives."""

import pytest

from riktig.catalogue.model import ElementKind
from riktig.drawings.display import Circle, Line, Pen, Rect, Text, Tone
from riktig.drawings.single_line import draw_single_line
from riktig.drawings.symbols import SPAN, draw_element
from support import HEAD, STARTER, plan_of, small_text

KINDS = [
    ("breaker", ElementKind.POLE),
    ("contactor", ElementKind.POLE),
    ("disconnect", ElementKind.POLE),
    ("overload", ElementKind.POLE),
    ("contactor", ElementKind.NO),
    ("pushbutton", ElementKind.NC),
    ("emergency-stop", ElementKind.NC),
    ("overload", ElementKind.NC),
    ("float", ElementKind.NO),
    ("relay", ElementKind.CO),
    ("contactor", ElementKind.COIL),
    ("lamp", ElementKind.LAMP),
    ("horn", ElementKind.SOUNDER),
    ("transformer", ElementKind.SECONDARY),
    ("link", ElementKind.THROUGH),
    ("motor", ElementKind.WINDING),
    ("relay", None),
]


def drawn(kind: str, element: ElementKind | None) -> list[Line | Rect | Circle | Text]:
    pen = Pen()
    draw_element(pen, 100, 200, "X", kind, element)
    return pen.items


@pytest.mark.parametrize(("kind", "element"), KINDS)
def test_a_symbol_begins_at_its_upper_pin_and_ends_at_its_lower_one(kind: str, element: ElementKind | None) -> None:
    points = [p for item in drawn(kind, element) if isinstance(item, Line) for p in item.points]
    assert (100, 200) in points and (100, 200 - SPAN) in points
    assert all(item.ref == "X" for item in drawn(kind, element))
    assert all(88 <= x <= 106 and 200 - SPAN - 0.1 <= y <= 200 for x, y in points)


def test_no_two_symbols_are_drawn_alike() -> None:
    shapes = {repr(drawn(kind, element)) for kind, element in KINDS if element is not ElementKind.CO}
    assert len(shapes) == len(KINDS) - 1


def test_a_contact_that_the_part_lacks_is_framed_in_the_colour_of_danger() -> None:
    assert any(isinstance(i, Rect) and i.tone is Tone.DANGER for i in drawn("relay", None))


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_the_single_line_diagram_shows_every_branch_with_its_values(world: str) -> None:
    plan = plan_of(small_text(world))
    drawing = draw_single_line(plan)
    texts = {item.text for item in drawing.items if isinstance(item, Text)}
    assert {plan.tags[d] for d in ("Q0", "M1", "M1.Q", "M1.K", "M1.F", "C1.T", "C1.F")} <= texts
    power = "1.5 kW" if world == "iec" else "10 hp"
    assert {power, "Control supply", "C1"} <= texts


def test_the_single_line_diagram_grows_with_each_motor() -> None:
    sizes = []
    for count in (1, 2, 5):
        text = HEAD + "".join(STARTER.replace("M1", f"M{n}") for n in range(1, count + 1))
        drawing = draw_single_line(plan_of(text))
        assert all(0 <= i.x <= drawing.width for i in drawing.items if isinstance(i, Text))
        sizes.append(drawing.height)
    assert sizes == sorted(sizes) and len(set(sizes)) == 3
