"""Owns what parts are told apart by on the plate: handle, dial, window, cooling fins; generic outlines, no part's own face.

All of it lies in the upper and lower quarter of a part, so that its tag has the middle.
"""

from collections.abc import Callable, Mapping

from riktig.drawings.display import Pen, Point, Tone

_LEAST_MM = 15.0
"""What is narrower or lower has no room for a face."""
_LINE_MM = 0.45
_UPPER, _LOWER = (0.74, 0.90), (0.10, 0.26)
"""From where to where the features lie, as shares of the height."""


class _Face:
    """A part's front: features are placed by shares of its width and height, round ones in mm of what is smaller."""

    def __init__(self, pen: Pen, x: float, y: float, w: float, h: float, ref: str) -> None:
        self._pen, self._x, self._y, self._w, self._h, self._ref = pen, x, y, w, h, ref

    def _at(self, x: float, y: float) -> tuple[float, float]:
        return self._x + x * self._w, self._y + y * self._h

    def frame(self, left: float, right: float, band: tuple[float, float] = _UPPER, *, fill: Tone = Tone.NONE) -> None:
        """Draw a handle, window, cover or button of so much of the width."""
        (x, y), (end, top) = self._at(left, band[0]), self._at(right, band[1])
        self._pen.rect(x, y, end - x, top - y, fill=fill, tone=Tone.QUIET, width=_LINE_MM, radius=1, ref=self._ref)

    def ribs(self, count: int, band: tuple[float, float] = _UPPER) -> None:
        """Draw cooling fins or slots as upright strokes, in one line that goes up and down."""
        ends: list[Point] = []
        for k in range(count):
            x = 0.15 + 0.7 * k / max(1, count - 1)
            ends.extend(self._at(x, share) for share in (band if k % 2 else band[::-1]))
        self._pen.line(*ends, width=_LINE_MM, tone=Tone.QUIET, ref=self._ref)

    def across(self, share: float) -> None:
        """Draw the edge of a cover over the whole width."""
        ends = self._at(0.06, share), self._at(0.94, share)
        self._pen.line(*ends, width=_LINE_MM, tone=Tone.QUIET, ref=self._ref)

    def dial(self, x: float = 0.5, band: tuple[float, float] = _UPPER, *, share: float = 1.0) -> None:
        """Draw a dial or rotary handle with its pointer, as large as its band lets it be."""
        cx, cy = self._at(x, sum(band) / 2)
        r = share * min((band[1] - band[0]) * self._h / 2, 0.34 * self._w, 14.0)
        self._pen.circle(cx, cy, r, fill=Tone.NONE, tone=Tone.QUIET, width=_LINE_MM, ref=self._ref)
        self._pen.line((cx, cy), (cx + 0.7 * r, cy + 0.7 * r), width=_LINE_MM, tone=Tone.QUIET, ref=self._ref)

    def dots(self, count: int, band: tuple[float, float] = _UPPER) -> None:
        """Draw a row of lamps or screws."""
        for k in range(count):
            x, y = self._at((k + 1) / (count + 1), sum(band) / 2)
            r = min(1.6, 0.25 * self._w / count)
            self._pen.circle(x, y, r, fill=Tone.NONE, tone=Tone.QUIET, width=_LINE_MM, ref=self._ref)


def _breaker(face: _Face) -> None:
    face.frame(0.28, 0.72, fill=Tone.PAPER)


def _rcd(face: _Face) -> None:
    _breaker(face)
    face.dots(1, _LOWER)


def _motor_breaker(face: _Face) -> None:
    face.dial()
    face.dial(0.5, _LOWER, share=0.6)


def _contactor(face: _Face) -> None:
    face.frame(0.2, 0.8)
    face.frame(0.36, 0.64, (0.78, 0.86), fill=Tone.PAPER)
    face.across(_LOWER[1])


def _overload(face: _Face) -> None:
    face.dial(0.32, share=0.9)
    face.frame(0.62, 0.84, (0.78, 0.88), fill=Tone.PAPER)


def _rotary(face: _Face) -> None:
    face.dial()
    face.across(_LOWER[1])


def _drive(face: _Face) -> None:
    face.ribs(9, (0.90, 0.98))
    face.frame(0.22, 0.78, (0.74, 0.86), fill=Tone.PAPER)
    face.across(0.2)


def _soft_starter(face: _Face) -> None:
    face.ribs(7, (0.88, 0.97))
    face.dots(3, (0.76, 0.84))
    face.across(0.2)


def _supply(face: _Face) -> None:
    face.ribs(6, _UPPER)
    face.dots(1, _LOWER)


def _transformer(face: _Face) -> None:
    face.frame(0.12, 0.88)
    face.ribs(5, _UPPER)


def _relay(face: _Face) -> None:
    face.frame(0.2, 0.8)
    face.dots(1, _LOWER)


def _timer(face: _Face) -> None:
    face.dial()
    face.dots(1, _LOWER)


def _watching(face: _Face) -> None:
    face.dots(3)
    face.dial(0.5, _LOWER, share=0.8)


def _controller(face: _Face) -> None:
    face.dots(8)
    face.dots(8, _LOWER)


def _fuse(face: _Face) -> None:
    face.frame(0.3, 0.7)
    face.frame(0.3, 0.7, _LOWER)


def _arrester(face: _Face) -> None:
    for k in range(3):
        face.frame(0.14 + 0.26 * k, 0.30 + 0.26 * k, (0.78, 0.88), fill=Tone.PAPER)


def _finned(face: _Face) -> None:
    face.ribs(7)
    face.ribs(7, _LOWER)


_FACES: Mapping[str, Callable[[_Face], None]] = {
    "breaker": _breaker, "rcd": _rcd, "motor-breaker": _motor_breaker, "contactor": _contactor, "overload": _overload,
    "disconnect": _rotary, "switch": _rotary, "drive": _drive, "soft-starter": _soft_starter, "psu": _supply, "transformer": _transformer,
    "relay": _relay, "timer": _timer, "phase-relay": _watching, "thermistor-relay": _watching, "safety-relay": _watching,
    "transducer": _watching, "plc": _controller, "network": _controller, "fuse": _fuse, "surge": _arrester, "heater": _finned,
    "resistor": _finned, "filter": _finned,
}  # fmt: skip


def draw_face(pen: Pen, kind: str, at: tuple[float, float], size: tuple[float, float], ref: str) -> None:
    """Draw what a part of a kind is told by; nothing for one that is too small, or has nothing of its own.

    Args:
        pen: what is drawn with.
        kind: of the part.
        at: lower left corner of its outline, in mm.
        size: width and height of that, in mm.
        ref: what it depicts.
    """
    make = _FACES.get(kind)
    if make is not None and min(size) >= _LEAST_MM:
        make(_Face(pen, *at, *size, ref))
