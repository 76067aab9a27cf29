"""Owns what is kept from one start to the next: jobs that were opened, who was signed in, where printer and meter are. Must not know a
job.
"""

from pathlib import Path

from PySide6.QtCore import QSettings

MOST_RECENT = 8


class Remembered:
    """The settings of this user."""

    def __init__(self) -> None:
        self._settings = QSettings(QSettings.Format.IniFormat, QSettings.Scope.UserScope, "riktig", "riktig")

    def recent(self) -> list[str]:
        """Return the paths opened last, newest first."""
        found = self._settings.value("recent", [])
        if isinstance(found, str):
            return [found]
        return [str(path) for path in found] if isinstance(found, list) else []

    def add(self, path: Path) -> None:
        """Keep a path as the one opened last."""
        paths = [str(path.resolve()), *(p for p in self.recent() if p != str(path.resolve()))]
        self._settings.setValue("recent", paths[:MOST_RECENT])

    @property
    def person(self) -> str:
        """Who was signed in last, "" for nobody; an empty name is not kept."""
        return str(self._settings.value("person", ""))

    @person.setter
    def person(self, name: str) -> None:
        if name:
            self._settings.setValue("person", name)

    @property
    def printer(self) -> str:
        """The address of the label printer that was used last."""
        return str(self._settings.value("printer", "127.0.0.1:9150"))

    @printer.setter
    def printer(self, address: str) -> None:
        self._settings.setValue("printer", address)

    @property
    def meter(self) -> str:
        """Where the meter is that was used last; the simulated one at first."""
        return str(self._settings.value("meter", "simulated"))

    @meter.setter
    def meter(self, address: str) -> None:
        self._settings.setValue("meter", address)

    @property
    def calibration(self) -> str:
        """What is known of the meter in use: its number, when it was calibrated."""
        return str(self._settings.value("calibration", ""))

    @calibration.setter
    def calibration(self, words: str) -> None:
        self._settings.setValue("calibration", words)
