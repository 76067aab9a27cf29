"""Owns which parts are made to stand side by side under one comb or bridge. Must not know which of them do."""

from riktig.catalogue.model import ElementKind, Part, Side

COMB_KINDS = frozenset({"breaker", "fuse", "rcd", "motor-breaker"})
PITCHES_MM = (18.0, 15.0)
"""Pole to pole of modular devices (DIN 43880, from memory) and of motor breakers in 45 mm frames (common practice, no source)."""


def pole_pitch(part: Part) -> float | None:
    """Return the distance in mm from pole to pole of a device that takes a comb, None if it takes none."""
    poles = len(line_marks(part))
    if part.kind not in COMB_KINDS or not poles:
        return None
    return next((pitch for pitch in PITCHES_MM if abs(part.width / poles - pitch) < 1e-6), None)


def snug_key(part: Part) -> str:
    """Return what parts stand without a gap beside: those of one comb or one bridge; "" for all others."""
    pitch = pole_pitch(part)
    if pitch is not None:
        return f"comb {pitch:g}"
    return f"bridge {part.width:g}" if part.rating("bridge") else ""


def line_marks(part: Part) -> tuple[str, ...]:
    """Return the marks of the poles' terminals on top, from left to right; none unless every pole has one there."""
    first = {e.marks[0] for e in part.elements if e.kind is ElementKind.POLE}
    tops = sorted((t for t in part.terminals if t.mark in first and t.side is Side.TOP), key=lambda t: t.x_share)
    return tuple(t.mark for t in tops) if len(tops) == len(first) else ()
