"""Owns the report of the scripts that a job keeps: what is done, what is so then, how it comes out on the circuit. Must not play."""

from collections.abc import Iterator, Sequence

from riktig.drawings.display import Drawing, Layer, Tone
from riktig.drawings.frame import LEFT
from riktig.drawings.papers.paper import TOP, Cell, Column, finish, table_pages, wrapped_rows
from riktig.job.model import Job
from riktig.live.scripts import KeptPlay, Played

CAUTION = "Simulated on the drawing, and no proof: the real panel is tested by a competent person, with the supply it will have."
_COLUMNS = tuple(
    Column(heading=heading, width=width)
    for heading, width in (
        ("Step", 14), ("What is done", 92), ("What is so then", 92), ("What must never be", 76), ("How it came out", 106),
    )
)  # fmt: skip


def draw_scripts(job: Job, plays: Sequence[KeptPlay]) -> tuple[Drawing, ...]:
    """Return the report as sheets, A3 across; none where the job keeps no script."""
    if not plays:
        return ()
    rows = [row for play in plays for row in _rows(play)]
    passing = sum(play.passes for play in plays)
    pages = table_pages(f"Kept scripts: {passing} of {len(plays)} pass", "Kept scripts", _COLUMNS, rows)
    for page in pages:
        page.pen.text(LEFT + 130, TOP + 5.0, CAUTION, size=2.7, tone=Tone.DANGER, bold=True, layer=Layer.NOTE)
    return tuple(finish(job, page, n) for n, page in enumerate(pages, start=1))


def _rows(play: KeptPlay) -> Iterator[tuple[Cell, ...]]:
    script = play.script
    outcome = "passes" if play.passes else play.refusal or "does not pass"
    yield from wrapped_rows(_COLUMNS, ("", script.title or script.name, "", "", outcome), bold=range(len(_COLUMNS)))
    for number, step in enumerate(script.steps, start=1):
        done = play.played[number - 1] if number <= len(play.played) else None
        texts = (str(number), ", ".join(step.do), ", ".join(step.expect), ", ".join(step.never), _outcome(done))
        yield from wrapped_rows(_COLUMNS, texts)
    yield tuple(Cell(text="") for _ in _COLUMNS)


def _outcome(done: Played | None) -> str:
    if done is None:
        return "not played"
    said = "; ".join(
        f"{miss.expected}: {miss.was}{f', {miss.because}' if miss.because else ''}" for miss in done.misses
    )
    return said or f"as it should, at {done.time:.1f} s"
