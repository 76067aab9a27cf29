"""Owns printing labels on a printer by lines of text over TCP, each exactly once. Must not know how a printer works inside.

The protocol, UTF-8, one line a message, tabs between fields (docs/production.md):

    HELLO                              -> TAPE <TAB> 1 <TAB> medium <TAB> mm left
    PRINT <TAB> id <TAB> width mm <TAB> letter mm <TAB> line <TAB> ...   -> OK <TAB> id | DONE <TAB> id | JAM | OUT

A printer remembers the ids that it has printed, also when it was switched off, and answers DONE to one that comes again: who has lost an
answer sends the same again, and no label comes out twice.
"""

import socket
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from hashlib import sha256
from typing import TextIO

from riktig.drawings.labels.fitting import Fitted
from riktig.record.labels import LabelState
from riktig.refusal import Refusal

PROTOCOL = "1"
ANSWER_S = 10.0
DEFAULT_PORT = 9150


class PrinterError(Refusal):
    """A printer that does not print any more; one sentence with the mend. What was printed before is noted."""


def read_address(text: str) -> tuple[str, int]:
    """Return host and port of `HOST:PORT`.

    Raises:
        PrinterError: it is no such address.
    """
    host, _, port = text.rpartition(":")
    if not host or not port.isdecimal() or not 0 < int(port) < 65536:
        raise PrinterError(f"'{text}' is no address of a printer: write HOST:PORT, as 127.0.0.1:{DEFAULT_PORT}")
    return host, int(port)


@contextmanager
def connected(host: str, port: int) -> Iterator["PrinterLink"]:
    """Yield a link to a printer that is there and speaks this protocol.

    Raises:
        PrinterError: there is none, or it speaks another one.
    """
    try:
        link = socket.create_connection((host, port), timeout=ANSWER_S)
    except OSError as error:
        raise PrinterError(
            f"no printer answers at {host}:{port} ({error.strerror or error}): switch it on, or write another address"
        ) from error
    with link, link.makefile("rw", encoding="utf-8", newline="\n") as lines:
        yield PrinterLink(lines, f"{host}:{port}", link)


class PrinterLink:
    """What is said to a printer and what it answers."""

    def __init__(self, lines: TextIO, where: str, way: socket.socket) -> None:
        self._lines, self._where, self._way = lines, where, way
        sort, *said = self._ask("HELLO")
        if sort != "TAPE" or len(said) != 3 or said[0] != PROTOCOL:
            raise PrinterError(f"what answers at {where} is no label printer of this protocol: write another address")
        self.medium = said[1]
        """What is loaded: the code of a medium."""

    def break_off(self) -> None:
        """Say no more, and let go of who waits for an answer; from any thread."""
        with suppress(OSError):
            self._way.shutdown(socket.SHUT_RDWR)

    def _ask(self, *fields: str) -> list[str]:
        try:
            self._lines.write("\t".join(fields) + "\n")
            self._lines.flush()
            answer = self._lines.readline()
        except (OSError, ValueError) as error:
            raise PrinterError(
                f"{self._where} does not answer any more ({error}): switch the printer on, then print again"
            ) from error
        if not answer.endswith("\n"):
            raise PrinterError(
                f"{self._where} went off in the middle: switch the printer on, then print again; none comes out twice"
            )
        return answer.rstrip("\n").split("\t")

    def print_label(self, name: str, label: Fitted) -> None:
        """Print a label, or see that it was printed already.

        Raises:
            PrinterError: it did not come out: the tape is jammed or at its end, or the printer went off.
        """
        lines = (line.replace("\t", " ") for line in label.lines)
        sort, *said = self._ask("PRINT", name, f"{label.width_mm:.1f}", f"{label.letter_mm:.1f}", *lines)
        if sort in {"OK", "DONE"} and said == [name]:
            return
        words = {
            "JAM": "its tape is jammed: clear it, then print again",
            "OUT": "its tape is at its end: load another, then print again",
        }
        raise PrinterError(f"{self._where} stands still: {words.get(sort, 'it answered ' + repr(sort))}")


def print_name(job: str, unit: str, label: Fitted, state: LabelState | None) -> str:
    """Return by what a printer knows a label: the same for the same words of the same thing, until somebody says that it is to be printed
    again.
    """
    rounds = state.rounds if state is not None else 0
    text = "\n".join((job, unit, label.sticker.key, label.sticker.text, str(rounds)))
    return sha256(text.encode()).hexdigest()[:20]


def print_labels(
    link: PrinterLink,
    labels: Sequence[Fitted],
    done: Mapping[str, LabelState],
    job: str,
    unit: str,
    on_printed: Callable[[Fitted], None],
) -> int:
    """Print labels in order that are not printed as they are now; return how many came out.

    Args:
        link: the printer.
        labels: of the medium that is loaded.
        done: what the Record says of them.
        job: the number of the job, and `unit` that of the panel.
        unit: serial number of the panel.
        on_printed: told of each as soon as it is out, before the next one is sent.

    Raises:
        PrinterError: one did not come out; those before it did.
    """
    printed = 0
    for label in labels:
        state = done.get(label.sticker.key)
        if state is not None and state.printed == label.sticker.text:
            continue
        link.print_label(print_name(job, unit, label, state), label)
        on_printed(label)
        printed += 1
    return printed
