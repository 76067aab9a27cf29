"""Owns the files that labels are printed, slid and engraved from: a page file and a list for each medium. Must not fit any."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from riktig.catalogue.media import Medium
from riktig.drawings.display import Drawing
from riktig.drawings.labels.fitting import Fitted, fit_labels
from riktig.drawings.labels.pages import by_medium, label_pages
from riktig.files.pdf import write_pdf
from riktig.files.svg import drawing_to_svg
from riktig.files.tables import Table
from riktig.files.writing import fill_text
from riktig.files.xlsx import write_xlsx
from riktig.plan.plan import Plan

Filling = tuple[str, Callable[[Path], None]]
HEADINGS = ("key", "kind", "text", "lines", "letter_mm", "width_mm", "height_mm", "on", "place", "when", "code")


def label_table(plan: Plan, medium: Medium, labels: list[Fitted]) -> Table:
    """Return the labels of a medium as a marking machine reads them, one in a row, lines parted by ` / `."""
    rows = tuple(
        (
            label.sticker.key, label.sticker.kind.value, label.sticker.text.replace("\n", " / "), " / ".join(label.lines), label.letter_mm,
            label.width_mm, label.height_mm, plan.tags.get(label.sticker.on, label.sticker.on), label.sticker.place,
            label.sticker.when.value,
            label.sticker.link if label.has_code else "",
        )
        for label in labels
    )  # fmt: skip
    return Table(name=f"labels-{medium.code}", headings=HEADINGS, rows=rows)


def refused_table(labels: tuple[Fitted, ...]) -> Table:
    """Return the labels that no medium takes, with the mend."""
    refused = (x for x in labels if x.refused)
    rows = tuple((x.sticker.key, x.sticker.kind.value, x.sticker.text.replace("\n", " / "), x.refused) for x in refused)
    return Table(name="labels-refused", headings=("key", "kind", "text", "mend"), rows=rows)


def label_files(plan: Plan) -> list[Filling]:
    """Return the files of all media with what fills each: PDF at true size, CSV and XLSX, and SVG of what is engraved."""
    labels = fit_labels(plan)
    info = plan.job.info
    pages = label_pages(labels, plan.job.practice.template_paper, f"{info.number} {info.title}".strip())
    found: list[Filling] = []
    for medium, members in by_medium(labels).items():
        table = label_table(plan, medium, members)
        drawings = tuple(page.drawing for page in pages if page.medium == medium)
        found.append((f"labels-{medium.code}.pdf", partial(write_pdf, drawings)))
        found.append((f"labels-{medium.code}.csv", partial(fill_text, text=table.to_csv())))
        found.append((f"labels-{medium.code}.xlsx", partial(write_xlsx, table)))
        if medium.form == "plate":
            found.extend((f"{drawing.name}.svg", partial(_fill_svg, drawing)) for drawing in drawings)
    refused = refused_table(labels)
    if refused.rows:
        found.append(("labels-refused.csv", partial(fill_text, text=refused.to_csv())))
    return found


def _fill_svg(drawing: Drawing, path: Path) -> None:
    fill_text(path, text=drawing_to_svg(drawing, {}))
