"""Owns writing a drawing as SVG. Must not know what it depicts."""

from collections.abc import Mapping
from html import escape

from riktig.drawings.display import EM_PER_HEIGHT, Drawing, Line, Primitive, Rect, Text, Tone
from riktig.drawings.palette import CASING, CASING_EXTRA_MM, WIRE, paper_colour

_ANCHORS = {"left": "start", "middle": "middle", "right": "end"}


def drawing_to_svg(drawing: Drawing, places: Mapping[str, str] | None = None) -> str:
    """Return the drawing as an SVG document, sizes in mm.

    Args:
        drawing: what to write.
        places: target of a link -> file name that it is in; without them nothing leads anywhere.
    """
    where = places or {}
    w, h = f"{drawing.width:g}", f"{drawing.height:g}"
    marks = [
        f'<g id="{escape(t.id)}" transform="translate({t.x:.2f} {drawing.height - t.y:.2f})"/>' for t in drawing.targets
    ]
    body = "\n".join([*(_linked(item, drawing.height, where) for item in drawing.primitives()), *marks])
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}" '
        f'font-family="B612, sans-serif" fill="none" stroke-linejoin="round" stroke-linecap="round">\n'
        f"<title>{escape(drawing.title)}</title>\n{body}\n</svg>\n"
    )


def _linked(item: Primitive, height: float, where: Mapping[str, str]) -> str:
    element = _element(item, height)
    if isinstance(item, Text) and item.link is not None and item.link in where:
        return f'<a href="{escape(f"{where[item.link]}#{item.link}")}">{element}</a>'
    return element


def _element(item: Primitive, height: float) -> str:
    if isinstance(item, Line):
        return _line(item, height)
    if isinstance(item, Text):
        return _text(item, height)
    ref = _ref(item)
    paint = f'fill="{paper_colour(item.fill) or "none"}" stroke="{paper_colour(item.tone) or "none"}"'
    if isinstance(item, Rect):
        return (
            f'<rect x="{item.x:.2f}" y="{height - item.y - item.h:.2f}" width="{item.w:.2f}" height="{item.h:.2f}" '
            f'rx="{item.radius:g}" {paint} stroke-width="{item.width:g}"{ref}/>'
        )
    return (
        f'<circle cx="{item.x:.2f}" cy="{height - item.y:.2f}" r="{item.r:.2f}" {paint} '
        f'stroke-width="{item.width:g}"{ref}/>'
    )


def _line(item: Line, height: float) -> str:
    points = " ".join(f"{x:.2f},{height - y:.2f}" for x, y in item.points)
    dash = ' stroke-dasharray="1.2 0.9"' if item.is_dashed else ""
    stroke = f'<polyline points="{points}" stroke="{paper_colour(item.tone)}" stroke-width="{item.width:g}"{dash}{_ref(item)}/>'
    if item.tone in WIRE:
        wide = item.width + 2 * CASING_EXTRA_MM
        return f'<polyline points="{points}" stroke="{CASING}" stroke-width="{wide:g}"/>{stroke}'
    return stroke


def _text(item: Text, height: float) -> str:
    y = height - item.y
    turn = f' transform="rotate(-90 {item.x:.2f} {y:.2f})"' if item.is_upright else ""
    weight = ' font-weight="bold"' if item.is_bold else ""
    family = ' font-family="B612 Mono, monospace"' if item.is_mono else ""
    return (
        f'<text x="{item.x:.2f}" y="{y:.2f}" font-size="{item.size * EM_PER_HEIGHT:.2f}" '
        f'text-anchor="{_ANCHORS[item.anchor]}" fill="{paper_colour(item.tone)}"{weight}{family}{turn}{_ref(item)}>'
        f"{escape(item.text)}</text>"
    )


def _ref(item: Primitive) -> str:
    return f' data-ref="{escape(item.ref)}"' if item.ref and item.tone is not Tone.NONE else ""
