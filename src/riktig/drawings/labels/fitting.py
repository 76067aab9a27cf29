"""Owns fitting the text of a label to a medium: letter height, lines, length; nothing is ever cut off. Must not lay out pages."""

import re
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import ceil, floor

from riktig.catalogue.media import Medium, all_media
from riktig.drawings.text_width import ASCENT, DESCENT, text_width
from riktig.job.edits import replace
from riktig.job.ledger import Choice, ChoiceState
from riktig.job.model import Job
from riktig.plan.making.labels import LabelKind, Sticker, stickers_of
from riktig.plan.plan import Plan

EDGE_MM = 0.8
"""What stays free beside the letters (common practice, no source)."""
_EDGES_MM = {"plate": (1.5, 1.0), "sheet": (2.0, 1.5)}
_LEAST_EDGES_MM = (EDGE_MM, 0.4)
"""The same beside and above the letters, by the form of a medium."""
LINE = 1.55
"""From one line to the next, in letter heights."""
SHOCK, SIGN_MM = "warning:shock:", 24.0
"""The warning that has the sign of electric shock on its left, and the side of that."""
CODE_MM = 11.0
"""The side of a code that opens the thing in Riktig: modules of about 0.4 mm."""
_LIST_GAIN = 1.2
"""The lines of a list are broken only where that makes its letters so much larger."""
_GOES_ON = "\u00a0\u00a0"
"""Before what goes on of a line of a list."""
_STEP_MM = 0.1
"""Letters are as large as fits, in steps of this."""
_CODED = frozenset({"plate", "wrap"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Fitted:
    """A label as it comes out: its lines, their letter height and the size of the label in mm; `has_code` tells that a code stands on its
    right, `is_turned` that the text runs upward. `refused` says why no medium takes it, with the mend; then it has no medium.
    """

    sticker: Sticker
    medium: Medium | None
    lines: tuple[str, ...]
    letter_mm: float
    width_mm: float
    height_mm: float
    has_code: bool = False
    is_turned: bool = False
    refused: str = ""


def fit_text(
    text: str, medium: Medium, *, room_less: float = 0.0, is_turned: bool = False
) -> tuple[tuple[str, ...], float, float] | None:
    """Return the lines of a text, their letter height and the width of the label in mm, None where the medium does not take it.

    Large letters come first, then more lines, then smaller letters down to the least that is allowed.

    Args:
        text: what it says; line ends are kept.
        medium: what it is printed on.
        room_less: what of the width something else takes, in mm.
        is_turned: the text runs upward.
    """
    if medium.form == "characters":
        long = len(text) * medium.step
        is_fit = set(text) <= set(medium.signs) and long <= medium.most_width + 1e-9
        return ((text,), medium.letters[1], long) if is_fit else None
    return _fit_text(_UNIT.sub("\\1\u00a0\\2", text), medium, room_less, is_turned)


_UNIT = re.compile(r"(\d) (mm²|AWG|kcmil|[kmM]?[AVW]|Hz|min|mm|°C)(?=\W|$)")
"""A number stays with its unit."""


@lru_cache(maxsize=20_000)
def _fit_text(
    text: str, medium: Medium, room_less: float, is_turned: bool
) -> tuple[tuple[str, ...], float, float] | None:
    least, most = medium.letters
    across, high = (medium.height, medium.width) if is_turned else (medium.width or medium.most_width, medium.height)
    edge, edge_y = _EDGES_MM.get(medium.form, _LEAST_EDGES_MM)
    wide, room = across - 2 * edge - room_less, high - 2 * edge_y
    given = tuple(text.split("\n"))
    best: tuple[float, tuple[str, ...]] | None = None
    rows = len(given)
    while wide > 0:
        top = min(most, room / (ASCENT + DESCENT + LINE * (rows - 1)))
        if top < least - 1e-9 or (best is not None and top <= best[0] + 1e-9):
            break
        found = _largest(given, wide, rows, top, max(least, best[0] if best is not None else 0.0))
        if found is not None and (best is None or found[0] > best[0] * (_LIST_GAIN if len(given) > 1 else 1.0) + 1e-9):
            best = found
        if best is not None and medium.is_endless:
            break  # it is made longer, not higher
        rows += 1
    if best is None:
        return None
    letter, lines = best
    needed = max(_em(line) for line in lines) * letter + 2 * edge + room_less
    return lines, letter, _length(needed, medium)


def _largest(
    given: Sequence[str], wide: float, rows: int, top: float, least: float
) -> tuple[float, tuple[str, ...]] | None:
    """Return the largest letter height from `top` down to `least` with which lines broken at blanks are no more than `rows`, and the lines;
    None where there is none.
    """
    if rows == len(given):
        letter = _down(min(top, wide / max(max(map(_em, given)), 1e-9)))
        return (letter, tuple(given)) if letter >= least - 1e-9 else None
    letter = _down(top)
    while letter >= least - 1e-9:
        lines = _broken(given, wide / letter)
        if lines and len(lines) <= rows:
            return letter, lines
        letter = _down(letter - _STEP_MM)
    return None


def _down(letter: float) -> float:
    """Return a letter height in whole tenths, no larger."""
    return round(floor(letter / _STEP_MM + 1e-6) * _STEP_MM, 1)


@lru_cache(maxsize=50_000)
def _em(text: str) -> float:
    """Return how long a text is in letter heights."""
    return text_width(text, 1.0, is_bold=True)


def _length(needed: float, medium: Medium) -> float:
    """Return how long a label of what is cut as wanted comes out, in mm."""
    if not medium.is_endless:
        return medium.width
    return (
        min(ceil(needed / medium.step - 1e-9) * medium.step, medium.most_width)
        if medium.step
        else round(needed + 0.05, 1)
    )


def _broken(given: Sequence[str], wide: float) -> tuple[str, ...]:
    """Return lines broken at blanks that are each as long as there is room, in letter heights; () where a word is longer than that."""
    lines: list[str] = []
    for part in given:
        line = ""
        for word in part.split(" "):
            longer = f"{line} {word}" if line else word
            if _em(longer) <= wide + 1e-9:
                line = longer
                continue
            if not line or _em(word) > wide + 1e-9:
                return ()
            lines.append(line)
            line = f"{_GOES_ON}{word}" if len(given) > 1 else word
        lines.append(line)
    return tuple(lines)


def choose_media(sticker: Sticker, media: Sequence[Medium]) -> list[Medium]:
    """Return the media on which a label may be printed, the usual one for its kind first; what goes round a wire, a cable or a terminal
    only where it is made for that diameter or pitch.
    """
    first = [m for m in media if sticker.kind.value in m.kinds and m.goes_round(sticker.size_mm)]
    forms = {medium.form for medium in media if sticker.kind.value in medium.kinds}
    others = [m for m in media if m.form in forms and m not in first and m.goes_round(sticker.size_mm)]
    return [*first, *sorted(others, key=lambda m: m.height * (m.width or 1.0))]


def fit_label(sticker: Sticker, media: Sequence[Medium], chosen: str = "") -> Fitted:
    """Return a label as it comes out: on the medium that somebody chose, else on the usual one for its kind.

    Where the one that was chosen is not made for this diameter or pitch, another of its form is taken. A text that is too long is refused
    with the shortest medium that takes it.
    """
    possible = choose_media(sticker, media)
    form = next((m.form for m in media if m.code == chosen), "")
    wanted = sorted((m for m in possible if m.form == form), key=lambda m: m.code != chosen)
    medium = next(iter((*wanted, *possible)), None)
    if medium is None:
        around = f" for {sticker.size_mm:.1f} mm" if sticker.size_mm else ""
        return _refused(sticker, f"no medium{around} takes a label of kind {sticker.kind.value}: add one to media.toml")
    has_code = (
        bool(sticker.link)
        and medium.form in _CODED
        and medium.width >= 2 * CODE_MM + 10
        and medium.height >= CODE_MM + 2 * EDGE_MM
    )
    beside = SIGN_MM + EDGE_MM if sticker.key.startswith(SHOCK) else CODE_MM + EDGE_MM if has_code else 0.0
    found = fit_text(sticker.text, medium, room_less=beside)
    if found is None and has_code:
        has_code, found = False, fit_text(sticker.text, medium)
    is_turned = found is None and medium.form == "strip"
    if is_turned:
        found = fit_text(sticker.text, medium, is_turned=True)
    if found is None:
        larger = next((m for m in possible if m is not medium and fit_text(sticker.text, m) is not None), None)
        mend = f"take {larger.title} ({larger.code})" if larger is not None else "write it shorter"
        return _refused(
            sticker,
            f"{_why_not(sticker.text, medium)}: {mend}",
        )
    lines, letter, width = found
    return Fitted(
        sticker=sticker,
        medium=medium,
        lines=lines,
        letter_mm=letter,
        width_mm=width,
        height_mm=medium.height,
        has_code=has_code,
    )


def _refused(sticker: Sticker, words: str) -> Fitted:
    return Fitted(sticker=sticker, medium=None, lines=(), letter_mm=0.0, width_mm=0.0, height_mm=0.0, refused=words)


def _why_not(text: str, medium: Medium) -> str:
    """Return why a medium does not take a text."""
    lacking = dict.fromkeys(sign for sign in text if sign not in medium.signs) if medium.signs else {}
    if lacking:
        return f"there is no {' '.join(map(repr, lacking))} among {medium.title}, for '{_short(text)}'"
    return f"'{_short(text)}' does not fit {medium.title} with letters of {medium.letters[0]:g} mm"


def _short(text: str) -> str:
    flat = " ".join(text.split())
    return flat if len(flat) <= 40 else f"{flat[:38]}…"


def fit_labels(plan: Plan, media: Sequence[Medium] | None = None) -> tuple[Fitted, ...]:
    """Return all labels of a panel as they come out, on the media that its ledger chose."""
    shelf = all_media() if media is None else tuple(media)
    stickers, texts = stickers_of(plan), plan.job.ledger.texts
    chosen = tuple((key, choice.value) for key, choice in texts.items() if key.startswith(MEDIUM))
    for known, fitted in _fitted:
        if known[0] is stickers and known[1:] == (shelf, chosen):
            return fitted
    codes = dict(chosen)
    made = tuple(fit_label(sticker, shelf, codes.get(f"{MEDIUM}{sticker.kind.value}", "")) for sticker in stickers)
    _fitted.appendleft(((stickers, shelf, chosen), made))
    return made


MEDIUM = "medium:"
"""Before the kind of labels in the ledger's texts, where somebody chose another medium for them."""
_Key = tuple[tuple[Sticker, ...], tuple[Medium, ...], tuple[tuple[str, str], ...]]
_fitted: deque[tuple[_Key, tuple[Fitted, ...]]] = deque(maxlen=2)


def choose_medium(job: Job, kind: LabelKind, code: str) -> Job:
    """Return the Job in which labels of a kind are printed on another medium; on the usual one again where there is no code."""
    texts = {key: choice for key, choice in job.ledger.texts.items() if key != f"{MEDIUM}{kind.value}"}
    if code:
        texts[f"{MEDIUM}{kind.value}"] = Choice(code, ChoiceState.KEPT)
    return replace(job, ledger=job.ledger.with_sorts(texts=texts))
