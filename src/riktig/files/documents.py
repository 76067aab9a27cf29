"""Owns the export of documents to a folder. Must not compute: tables and drawings come from the Plan."""

import os
import tempfile
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from riktig.drawings.plate import draw_plate
from riktig.drawings.sheet_set import draw_sheets
from riktig.files.dxf import drawing_to_dxf
from riktig.files.pdf import write_pdf
from riktig.files.svg import drawing_to_svg
from riktig.files.tables import BUILDERS
from riktig.files.xlsx import write_xlsx
from riktig.plan.plan import Plan

DRAWINGS = ("sheets", "plate")
NAMES = (*BUILDERS, *DRAWINGS)


class ExportError(ValueError):
    """Documents that cannot be written; one sentence with the mend."""


def export_documents(
    plan: Plan, folder: Path, names: Sequence[str] = NAMES, on_file: Callable[[Path], None] = lambda path: None
) -> tuple[Path, ...]:
    """Write schedules as CSV and XLSX, drawings as SVG, DXF and PDF; return the files written.

    Args:
        plan: what to document.
        folder: made if it is missing.
        names: which documents, of NAMES.
        on_file: told of each file when it stands complete.

    Raises:
        ExportError: an unknown name, or a folder or file that cannot be written.
    """
    unknown = [name for name in names if name not in NAMES]
    if unknown:
        raise ExportError(f"no document '{unknown[0]}': choose from {', '.join(NAMES)}")
    written: list[Path] = []

    def write(name: str, fill: Callable[[Path], None]) -> None:
        target = folder / name
        _write_whole(target, fill)
        written.append(target)
        on_file(target)

    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name in names:
            if name in BUILDERS:
                table = BUILDERS[name](plan)
                write(f"{name}.csv", partial(_write_text, text=table.to_csv()))
                write(f"{name}.xlsx", partial(write_xlsx, table))
            else:
                drawings = draw_sheets(plan) if name == "sheets" else (draw_plate(plan),)
                places = {target.id: f"{drawing.name}.svg" for drawing in drawings for target in drawing.targets}
                for drawing in drawings:
                    write(f"{drawing.name}.svg", partial(_write_text, text=drawing_to_svg(drawing, places)))
                    write(f"{drawing.name}.dxf", partial(_write_text, text=drawing_to_dxf(drawing)))
                write(f"{name}.pdf", partial(write_pdf, drawings))
    except OSError as error:
        raise ExportError(
            f"cannot write {error.filename or folder}: {error.strerror}; choose another folder"
        ) from error
    return tuple(written)


def _write_text(path: Path, text: str) -> None:
    path.write_bytes(text.encode("utf-8"))


def _write_whole(target: Path, fill: Callable[[Path], None]) -> None:
    """Write beside the target and move into place, so that no half file is ever seen."""
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}.")
    os.close(handle)
    temporary = Path(name)
    try:
        fill(temporary)
        temporary.chmod(0o644)
        temporary.replace(target)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
