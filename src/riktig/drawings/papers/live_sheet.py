"""Owns a sheet of the circuit as it is printed while live: what is laid over it, the key of its looks, when it was so. Must not compute."""

from dataclasses import replace

from riktig.drawings.circuit.live import line_in_look
from riktig.drawings.display import Drawing, Pen, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.scripts import CAUTION
from riktig.drawings.text_width import text_width
from riktig.live.currents import Look

_CAUTION_Y, _KEY_Y, _SIZE = 33.4, 37.6, 2.4
_SAMPLE, _APART = 14.0, 6.0


def stamp_live(sheet: Drawing, words: str) -> Drawing:
    """Return a sheet that something is laid over with words, key and caution above its title block."""
    pen = Pen()
    pen.text(LEFT + 2, _KEY_Y, words, size=_SIZE, bold=True)
    x = LEFT + 2 + text_width(words, _SIZE, is_bold=True) + 2 * _APART
    for look in Look:
        a, b = (x, _KEY_Y + 0.9), (x + _SAMPLE, _KEY_Y + 0.9)
        if look is Look.DEAD:
            pen.line(a, b, width=0.25)
        pen.items.extend(line_in_look((a, b), look))
        pen.text(x + _SAMPLE + 2, _KEY_Y, look.value, size=_SIZE)
        x += _SAMPLE + 2 + text_width(look.value, _SIZE) + _APART
    pen.text(LEFT + 2, _CAUTION_Y, CAUTION, size=2.6, tone=Tone.DANGER, bold=True)
    return replace(sheet, items=(*sheet.items, *pen.items))
