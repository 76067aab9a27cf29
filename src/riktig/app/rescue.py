"""Owns what is offered where a job file is damaged: a copy of what can be read of it. Must not know how it is read."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMessageBox, QWidget

from riktig.app.files_menu import FilesMenu
from riktig.app.text import tr
from riktig.app.theme.dressing import dress
from riktig.files.job_access import JobFileError


def offer_rescue(window: QWidget, files: FilesMenu, path: Path) -> None:
    """Say what of a damaged file can be read and what cannot, and save the former as a copy if that is wanted; the file is left alone."""
    from riktig.files.salvage import read_salvage

    try:
        found = read_salvage(path)
    except JobFileError:
        return  # nothing can be saved, and the file's own sentence stands there already
    box = QMessageBox(window)
    box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    box.setWindowTitle(tr("Damaged job file"))
    box.setTextFormat(Qt.TextFormat.PlainText)
    revisions = [f"{tr('revision')} {name}" for name, *_ in found.issues]
    there = ", ".join((tr("the job"), f"{len(found.events)} {tr('events of the record')}", *revisions))
    lost = "".join(f"\n{tr('Not in the copy')}: {loss}." for loss in found.losses)
    said = f"{path.name} {tr('is damaged, and is left as it is. What can be read of it can be saved as a copy:')}"
    box.setText(f"{said}\n\n{tr('In the copy')}: {there}.{lost}")  # plain: names come from the file
    save = box.addButton(tr("Save as a copy…"), QMessageBox.ButtonRole.AcceptRole)
    box.addButton(tr("Leave it"), QMessageBox.ButtonRole.RejectRole)
    box.buttonClicked.connect(lambda clicked: files.save_salvage(found, path.name) if clicked is save else None)
    dress(box)
    box.open()
