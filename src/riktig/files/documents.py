"""Owns the export of documents to a folder. Must not compute: tables and drawings come from the Plan."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from riktig.checks.book import inspect_all
from riktig.checks.run import find_impossible
from riktig.drawings.display import Drawing, Pen, Tone
from riktig.drawings.door import draw_door, draw_station
from riktig.drawings.loom import draw_loom
from riktig.drawings.papers.compliance import draw_compliance
from riktig.drawings.papers.scripts import draw_scripts
from riktig.drawings.plate import draw_plate
from riktig.drawings.section import draw_section
from riktig.drawings.sheet_set import draw_sheets
from riktig.drawings.shop_papers import shop_pages
from riktig.drawings.template import door_template, entry_template, plate_template, wall_templates
from riktig.drawings.wall import draw_wall
from riktig.files.dxf import drawing_to_dxf
from riktig.files.label_files import label_files
from riktig.files.pdf import write_pdf
from riktig.files.svg import drawing_to_svg
from riktig.files.tables import BUILDERS, with_stamp
from riktig.files.tiles import write_tiles
from riktig.files.writing import WriteError, check_target, fill_text, kind_of_name, write_whole
from riktig.files.xlsx import write_xlsx
from riktig.live.scripts import play_kept
from riktig.plan.making.loom import loom_of
from riktig.plan.plan import Plan
from riktig.refusal import Refusal

DRAWINGS = ("sheets", "plate", "door", "scripts", "compliance", "print", "loom")
NAMES = (*BUILDERS, *DRAWINGS)
SHOP = frozenset({"plate", "door", "drill", "cuts"})
"""What a workshop drills and cuts by."""


class ExportError(Refusal):
    """Documents that cannot be written; one sentence with the mend."""


def export_documents(
    plan: Plan,
    folder: Path,
    names: Sequence[str] = NAMES,
    on_file: Callable[[Path], None] = lambda path: None,
    *,
    on_share: Callable[[float], None] = lambda share: None,
    inputs: Iterable[Path] = (),
    anyway: bool = False,
) -> tuple[Path, ...]:
    """Write schedules as CSV and XLSX, drawings as SVG, DXF and PDF; return the files written.

    What a workshop drills and cuts by is not written while plate or door are impossible, all else is.

    Args:
        plan: what to document.
        folder: made if it is missing.
        names: which documents, of NAMES.
        on_file: told of each file when it stands complete.
        on_share: told then which share of all is done, 0 to 1; what it raises ends the writing.
        inputs: files that the Plan was read from; none of them is written over.
        anyway: write what is impossible too, with that on every page.

    Raises:
        ExportError: an unknown name, a folder or file that may not or cannot be written, or an impossible plate or door.
    """
    unknown = [name for name in names if name not in NAMES]
    if unknown:
        raise ExportError(f"no document '{unknown[0]}': choose from {', '.join(NAMES)}")
    written: list[Path] = []
    wrong = find_impossible(plan) if SHOP.intersection(names) else ()
    left_out = [name for name in names if name in SHOP and wrong and not anyway]
    stamp = f"IMPOSSIBLE AS DRAWN, do not drill or cut: {wrong[0].message}" if wrong else ""

    wanted = [name for name in names if name not in left_out]
    whole, begun = sum(map(_work_of, wanted)) or 1.0, 0.0
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name in wanted:
            made = _files_of(plan, name, stamp if name in SHOP else "")
            for place, (file_name, fill) in enumerate(made, start=1):
                check_target(folder / file_name, kind_of_name(file_name), inputs)
                write_whole(folder / file_name, fill)
                written.append(folder / file_name)
                on_file(folder / file_name)
                on_share((begun + _work_of(name) * place / len(made)) / whole)
            begun += _work_of(name)
    except WriteError as error:
        raise ExportError(str(error)) from error
    except OSError as error:
        raise ExportError(
            f"cannot write {error.filename or folder}: {error.strerror}; choose another folder"
        ) from error
    if left_out:
        raise ExportError(
            f"not written: {', '.join(left_out)}. {wrong[0].message}; --anyway writes them with that on every page"
        )
    return tuple(written)


def _work_of(name: str) -> float:
    """Return about how much of the time a document takes beside the others."""
    return {"sheets": 20.0, "plate": 5.0, "door": 4.0}.get(name, 0.2)


def _files_of(plan: Plan, name: str, mark: str) -> list[tuple[str, Callable[[Path], None]]]:
    """Return the files of a document with what fills each, stamped where it has a mark."""
    if name in BUILDERS:
        table = with_stamp(BUILDERS[name](plan), mark)
        return [
            (f"{name}.csv", partial(fill_text, text=table.to_csv())),
            (f"{name}.xlsx", partial(write_xlsx, table)),
        ]
    if name == "print":
        return label_files(plan)
    drawn = _stamped(_draw(name, plan), mark)
    places = {target.id: f"{drawing.name}.svg" for drawing in drawn.sheets for target in drawing.targets}
    found: list[tuple[str, Callable[[Path], None]]] = []
    for drawing in (*drawn.sheets, *drawn.templates):
        found.append((f"{drawing.name}.svg", partial(_fill_svg, drawing, places)))
        found.append((f"{drawing.name}.dxf", partial(_fill_dxf, drawing)))
    if pages := (*drawn.sheets, *drawn.papers):
        found.append((f"{name}.pdf", partial(write_pdf, pages)))
    if drawn.templates:
        paper = plan.job.practice.template_paper
        found.append((f"{name}-template.pdf", partial(write_tiles, drawn.templates, paper=paper, stamp=mark)))
    return found


def _fill_svg(drawing: Drawing, places: Mapping[str, str], path: Path) -> None:
    fill_text(path, text=drawing_to_svg(drawing, places))


def _fill_dxf(drawing: Drawing, path: Path) -> None:
    fill_text(path, text=drawing_to_dxf(drawing))


@dataclass(frozen=True, slots=True)
class _Drawn:
    """What a document is made of: its drawings, pages that only its PDF has, and templates at full size."""

    sheets: tuple[Drawing, ...]
    papers: tuple[Drawing, ...] = ()
    templates: tuple[Drawing, ...] = ()


def _stamped(drawn: _Drawn, stamp: str) -> _Drawn:
    """Return drawings with a stamp across their top, as they are where there is none."""
    if not stamp:
        return drawn

    def mark(drawing: Drawing) -> Drawing:
        pen = Pen()
        size = min(5.0, max(2.0, drawing.width / (0.55 * len(stamp))))
        pen.text(4, drawing.height - size - 2, stamp, size=size, tone=Tone.DANGER, bold=True)
        return replace(drawing, items=(*drawing.items, *pen.items))

    return replace(drawn, sheets=tuple(map(mark, drawn.sheets)), papers=tuple(map(mark, drawn.papers)))


def _draw(name: str, plan: Plan) -> _Drawn:
    if name == "sheets":
        return _Drawn(draw_sheets(plan))
    if name == "compliance":
        return _Drawn((), draw_compliance(plan, inspect_all(plan)))
    if name == "loom":
        loom = loom_of(plan)
        return _Drawn((draw_loom(plan, loom),) if loom is not None else ())
    if name == "scripts":
        return _Drawn((), draw_scripts(plan.job, play_kept(plan)))
    if name == "plate":
        return _Drawn((draw_plate(plan),), shop_pages(plan), (plate_template(plan),))
    stations = tuple(draw_station(plan, station) for station in plan.stations)
    walls = tuple(draw_wall(plan, wall) for wall in plan.walls)
    made = (door_template(plan), entry_template(plan), *wall_templates(plan))
    return _Drawn((draw_door(plan), draw_section(plan), *walls, *stations), (), tuple(d for d in made if d is not None))
