"""Owns what the ids of terminals and wires are, on which records hang: texts that name one thing for good, whatever it is called on
paper. Must not know what they name.
"""

from typing import NewType

TerminalId = NewType("TerminalId", str)
"""A terminal: `DEVICE:MARK` of a device, `STRIP:NUMBER` of a strip, `BAR:NUMBER` of a bar or block."""
WireId = NewType("WireId", str)
"""A conductor: its two terminals in the order of their texts, and an ordinal."""


def terminal_id(device: str, mark: str) -> TerminalId:
    """Return the id of a terminal."""
    return TerminalId(f"{device}:{mark}")
