"""Owns the colours of drawings on paper. Screens take theirs from their theme."""

from riktig.drawings.display import Tone

PAPER: dict[Tone, str] = {
    Tone.INK: "#1E2B2F",
    Tone.QUIET: "#5A676A",
    Tone.FAINT: "#C9CEC8",
    Tone.PAPER: "#FFFFFF",
    Tone.STEEL: "#D9DDD8",
    Tone.PART: "#EDEFEA",
    Tone.DUCT: "#E3E6E1",
    Tone.DONE: "#1F5F4A",
    Tone.ATTENTION: "#B86E00",
    Tone.DANGER: "#A81E3B",
}
WIRE: dict[Tone, str] = {
    Tone.BLACK: "#20201F",
    Tone.RED: "#C4262E",
    Tone.BLUE: "#1D3F94",
    Tone.LIGHT_BLUE: "#6FB1DC",
    Tone.ORANGE: "#E07B1A",
    Tone.YELLOW: "#E8C32A",
    Tone.WHITE: "#F7F7F4",
    Tone.WHITE_BLUE: "#CBD9F2",
    Tone.WHITE_YELLOW: "#F3E9B6",
    Tone.BROWN: "#7A4A2B",
    Tone.VIOLET: "#7B4A9E",
    Tone.GREY: "#8C9192",
    Tone.GREEN: "#2E8B3D",
    Tone.GREEN_YELLOW: "#6FA52B",
}
"""Real insulation colours; drawn over a casing so that the light ones read on paper."""
CASING = "#4A5254"
CASING_EXTRA_MM = 0.5


def paper_colour(tone: Tone) -> str | None:
    """Return the colour of a tone on paper as `#RRGGBB`, None for none."""
    return None if tone is Tone.NONE else {**PAPER, **WIRE}[tone]
