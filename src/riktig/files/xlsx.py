"""Owns writing a schedule as an XLSX workbook. Must not know what is in it."""

from pathlib import Path

from riktig.files.tables import Table

_WIDEST, _NARROWEST = 60, 8


def write_xlsx(table: Table, path: Path) -> None:
    """Write a table as a workbook of one sheet: headings frozen, numbers as numbers, texts never as formulas."""
    import openpyxl
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet(table.name)
    sheet.freeze_panes = "A2"
    for place, heading in enumerate(table.headings):
        widest = max([len(heading), *(len(str(row[place])) for row in table.rows)])
        sheet.column_dimensions[get_column_letter(place + 1)].width = min(max(widest + 2, _NARROWEST), _WIDEST)
    head = []
    for heading in table.headings:
        cell = WriteOnlyCell(sheet, value=heading)
        cell.font = Font(bold=True)
        head.append(cell)
    sheet.append(head)
    for row in table.rows:
        cells = []
        for value in row:
            cell = WriteOnlyCell(sheet, value=value)
            if isinstance(value, str):
                cell.data_type = "s"
            cells.append(cell)
        sheet.append(cells)
    book.save(path)
