"""Prints the table of stages with what each reads and how long it takes, and draws it as docs/stages.svg."""

import os
import sys
import tempfile
from pathlib import Path

os.environ["XDG_DATA_HOME"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="riktig-stages-")

from jobs import mixed_brief_of  # noqa: E402

from riktig.drawings.display import Drawing, Pen, Tone  # noqa: E402
from riktig.files.brief_reader import parse_brief  # noqa: E402
from riktig.files.svg import drawing_to_svg  # noqa: E402
from riktig.plan.plan import compute_plan  # noqa: E402
from riktig.plan.stages import STAGES, memory  # noqa: E402

COLUMN_MM, ROW_MM, BOX_W_MM, BOX_H_MM, MARGIN_MM = 42.0, 13.0, 39.0, 6.0, 6.0
PICTURE = Path(__file__).parent.parent / "docs" / "stages.svg"


def depths() -> dict[str, int]:
    """Return for each stage how many stages stand one behind the other before it."""
    found: dict[str, int] = {}
    for stage in STAGES:
        found[stage.name] = 1 + max((found[name] for name in stage.needs), default=-1)
    return found


def print_table(starters: int) -> None:
    """Print stage by stage: its time with so many mixed starters from nothing, what it allocates and what it reads."""
    compute_plan(parse_brief(mixed_brief_of(6)))
    memory().seconds.clear()
    compute_plan(parse_brief(mixed_brief_of(starters)))
    seconds = memory().seconds
    print(f"{'stage':16} {'ms':>6}  {'allocates':9}  reads   ({starters} mixed starters, from nothing)")
    for stage in STAGES:
        print(
            f"{stage.name:16} {1000 * seconds.get(stage.name, 0):6.1f}  {stage.allocates:9}  {' '.join(stage.inputs)}"
        )
    print(f"{'together':16} {1000 * sum(seconds.values()):6.1f}")


def draw_table() -> Drawing:
    """Return the stages as boxes in rows, each below all that it reads; what allocates a sort of the ledger is filled."""
    depth = depths()
    rows: dict[int, list[str]] = {}
    for stage in STAGES:
        rows.setdefault(depth[stage.name], []).append(stage.name)
    width = 2 * MARGIN_MM + COLUMN_MM * max(map(len, rows.values())) - (COLUMN_MM - BOX_W_MM)
    height = 2 * MARGIN_MM + ROW_MM * len(rows) - (ROW_MM - BOX_H_MM)
    at: dict[str, tuple[float, float]] = {}
    for row, names in rows.items():
        left = (width - COLUMN_MM * len(names) + COLUMN_MM - BOX_W_MM) / 2
        at.update(
            {name: (left + COLUMN_MM * n, height - MARGIN_MM - BOX_H_MM - ROW_MM * row) for n, name in enumerate(names)}
        )
    pen = Pen()
    pen.rect(0, 0, width, height, fill=Tone.PAPER, tone=Tone.NONE)
    for stage in STAGES:
        x, y = at[stage.name]
        for name in stage.needs:
            from_x, from_y = at[name]
            pen.line((from_x + BOX_W_MM / 2, from_y), (x + BOX_W_MM / 2, y + BOX_H_MM), width=0.15, tone=Tone.QUIET)
    for stage in STAGES:
        x, y = at[stage.name]
        fill = Tone.STEEL if stage.allocates else Tone.PAPER
        pen.rect(x, y, BOX_W_MM, BOX_H_MM, fill=fill, width=0.3)
        pen.text(x + 1.5, y + 1.9, stage.name, size=3.2)
    return Drawing(name="stages", title="Stages", width=width, height=height, items=tuple(pen.items))


if __name__ == "__main__":
    print_table(int(sys.argv[1]) if len(sys.argv) > 1 else 100)
    PICTURE.write_text(drawing_to_svg(draw_table(), {}), encoding="utf-8")
    print(f"drawn in {PICTURE}")
