"""Owns a simulated label printer behind the interface of a real one: a tape that comes out, runs out, jams, and a switch. Must not know
labels of a panel.
"""

import json
import threading
from collections.abc import Callable
from pathlib import Path

from riktig.files.label_printer import PROTOCOL
from riktig.standins.line_server import LineServer

FAULTS = ("jam", "off before", "off after", "out")
"""What may happen to a label: jammed, switched off before or after it came out, tape at its end."""
_GAP_MM = 3.0


class SimulatedPrinter:
    """A tape printer on localhost. `tape` is what has come out, line by line, in order; it is kept in a file, as a printer keeps which
    labels it has printed when it is switched off.

    Args:
        memory: the file in which it remembers what came out.
        medium: the code of what is loaded.
        tape_mm: how long the tape is, in mm.
        fault: told how many labels were asked for so far, returns what happens to the next, one of FAULTS or "".
        port: on which it listens, 0 for any that is free.
    """

    def __init__(
        self,
        memory: Path,
        *,
        medium: str = "tape-9",
        tape_mm: float = 8000.0,
        fault: Callable[[int], str] = lambda count: "",
        port: int = 0,
    ) -> None:
        self._memory, self.medium, self.left_mm, self._fault = memory, medium, tape_mm, fault
        self._known: dict[str, str] = {}
        if memory.is_file():
            for row in map(json.loads, memory.read_text(encoding="utf-8").splitlines()):
                self._known[row["id"]] = row["text"]
        self._asked = 0
        self.is_jammed = False
        self._lock = threading.Lock()
        self._server = LineServer(lambda line: (self.answer(line.split("\t")),), port=port)
        self.port = self._server.port

    @property
    def tape(self) -> tuple[str, ...]:
        """What has come out, in order, each label's lines parted by ` / `."""
        return tuple(self._known.values())

    def answer(self, fields: list[str]) -> str | None:
        """Return what the printer answers to a line, None where it goes off in place of an answer."""
        with self._lock:
            if fields == ["HELLO"]:
                return f"TAPE\t{PROTOCOL}\t{self.medium}\t{self.left_mm:.0f}"
            if fields[0] == "PRINT" and len(fields) >= 5:
                return self._print(fields[1], float(fields[2]), " / ".join(fields[4:]))
            return "WHAT"

    def _print(self, name: str, width_mm: float, text: str) -> str | None:
        if name in self._known:
            return f"DONE\t{name}"
        if self.is_jammed:
            return "JAM"
        happens = self._fault(self._asked)
        self._asked += 1
        if happens == "out" or self.left_mm < width_mm:
            return "OUT"
        if happens == "off before":
            return None
        if happens == "jam":
            self.is_jammed = True
            return "JAM"
        self._come_out(name, width_mm, text)
        return None if happens == "off after" else f"OK\t{name}"

    def _come_out(self, name: str, width_mm: float, text: str) -> None:
        self.left_mm -= width_mm + _GAP_MM
        self._known[name] = text
        with self._memory.open("a", encoding="utf-8") as file:
            file.write(json.dumps({"id": name, "text": text}) + "\n")

    def clear(self) -> None:
        """Clear a jam."""
        self.is_jammed = False

    def load(self, tape_mm: float) -> None:
        """Load another tape."""
        self.left_mm = tape_mm

    def close(self) -> None:
        """Switch it off for good."""
        self._server.close()
