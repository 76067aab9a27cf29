"""Owns writing a drawing as DXF: a layer for each sort of thing, symbols as blocks. Must not know what it depicts."""

from io import StringIO
from typing import Any

from riktig.drawings.display import Anchor, Circle, Drawing, Layer, Line, Primitive, Rect, Symbol, Text, Tone
from riktig.drawings.palette import paper_colour

_STYLE = "B612"
_TAG, _PINS = "TAG", "TERMINALS"
_COLOURS = {
    Layer.SHEET: 8, Layer.WIRE: 7, Layer.SYMBOL: 7, Layer.TAG: 7, Layer.NUMBER: 3, Layer.REFERENCE: 3, Layer.TERMINAL: 8, Layer.NOTE: 8,
    Layer.OUTLINE: 7, Layer.HOLE: 1, Layer.CENTRE: 8, Layer.RAIL: 5, Layer.DUCT: 3, Layer.PART: 4,
}  # fmt: skip
"""AutoCAD colour indexes of the layers; items carry their own true colour."""


def layer_name(layer: Layer) -> str:
    """Return the name of a layer in the file."""
    return f"RIKTIG_{layer.value.upper()}"


def drawing_to_dxf(drawing: Drawing) -> str:
    """Return the drawing as a DXF document (R2010), sizes in mm, origin lower left.

    Each symbol is an insert of a block with two attributes that are not shown: the tag of what it depicts, and the terminals at its
    pins in their order.
    """
    from ezdxf import units
    from ezdxf._options import options
    from ezdxf.document import Drawing as Document
    from ezdxf.tools.standards import setup_linetypes

    options.write_fixed_meta_data_for_testing = True  # the same drawing gives the same file
    doc = Document.new("R2010")
    setup_linetypes(doc)
    doc.units = units.MM
    doc.styles.add(_STYLE, font="B612-Regular.ttf")
    for layer in Layer:
        doc.layers.add(layer_name(layer), color=_COLOURS[layer])
    space = doc.modelspace()
    for item in drawing.items:
        if isinstance(item, Symbol):
            _insert(doc, space, item)
        else:
            _add(space, item, layer_name(item.layer))
    out = StringIO()
    doc.write(out)
    return out.getvalue()


def _insert(doc: Any, space: Any, symbol: Symbol) -> None:
    name = _block_name(symbol.shape.name)
    if name not in doc.blocks:
        block = doc.blocks.new(name)
        for item in symbol.shape.items:
            _add(block, item, "0")
        for tag in (_TAG, _PINS):
            block.add_attdef(tag, (0, 0), dxfattribs={"height": 2.5, "style": _STYLE, "flags": 1})
    made = space.add_blockref(name, (symbol.x, symbol.y), dxfattribs={"layer": layer_name(symbol.layer)})
    values = {_TAG: symbol.tag, _PINS: " ".join(symbol.terminals)}
    for attribute in made.add_auto_attribs(values).attribs:
        attribute.is_invisible = True


def _block_name(name: str) -> str:
    """Return a name that every reader of DXF takes."""
    return "".join(c if c.isalnum() else "_" for c in name).upper()


def _look(tone: Tone, layer: str) -> dict[str, Any]:
    colour = paper_colour(tone)
    look: dict[str, Any] = {"layer": layer}
    if colour is not None and tone is not Tone.INK:
        look["true_color"] = int(colour[1:], 16)
    return look


def _add(space: Any, item: Primitive, layer: str) -> None:
    if isinstance(item, Text):
        _add_text(space, item, layer)
        return
    if item.tone is Tone.NONE:
        return  # the paper itself
    look = _look(item.tone, layer)
    if isinstance(item, Line):
        if item.is_dashed:
            look["linetype"] = "DASHED"
            look["ltscale"] = 0.1
        space.add_lwpolyline(item.points, dxfattribs={**look, "const_width": item.width})
    elif isinstance(item, Rect):
        corners = [
            (item.x, item.y),
            (item.x + item.w, item.y),
            (item.x + item.w, item.y + item.h),
            (item.x, item.y + item.h),
        ]
        _fill(space, item.fill, corners, layer)
        space.add_lwpolyline(corners, close=True, dxfattribs={**look, "const_width": item.width})
    else:
        _fill_circle(space, item, layer)
        space.add_circle((item.x, item.y), item.r, dxfattribs=look)


def _fill(space: Any, fill: Tone, corners: list[tuple[float, float]], layer: str) -> None:
    if fill not in {Tone.NONE, Tone.PAPER}:
        hatch = space.add_hatch(dxfattribs=_look(fill, layer))
        hatch.paths.add_polyline_path(corners, is_closed=True)


def _fill_circle(space: Any, item: Circle, layer: str) -> None:
    if item.fill not in {Tone.NONE, Tone.PAPER}:
        hatch = space.add_hatch(dxfattribs=_look(item.fill, layer))
        hatch.paths.add_edge_path().add_arc((item.x, item.y), item.r, 0, 360)


def _add_text(space: Any, item: Text, layer: str) -> None:
    from ezdxf.enums import TextEntityAlignment

    places = {
        Anchor.LEFT: TextEntityAlignment.LEFT, Anchor.MIDDLE: TextEntityAlignment.CENTER, Anchor.RIGHT: TextEntityAlignment.RIGHT,
    }  # fmt: skip
    look = {**_look(item.tone, layer), "style": _STYLE, "rotation": 90 if item.is_upright else 0}
    made = space.add_text(item.text, height=item.size, dxfattribs=look)
    made.set_placement((item.x, item.y), align=places[item.anchor])
