"""Owns the way of every text to its translation."""

from PySide6.QtCore import QCoreApplication


def tr(text: str) -> str:
    """Return the text in the language of the window."""
    return QCoreApplication.translate("riktig", text)
