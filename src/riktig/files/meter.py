"""Owns reading a meter that answers lines of text, over TCP or a serial line. Must not know a panel, nor judge readings.

The commands are the common ones of instruments (IEEE 488.2 and what grew on it), one line each, ASCII, docs/testing.md:

    *IDN?            -> maker,model,serial number,version
    MEAS:RES?        -> +1.234000E+02      ohm;    9.9E37 and more: over range
    MEAS:VOLT:AC?    -> +2.301000E+02      volt
    MEAS:VOLT:DC?    -> +2.400000E+01      volt
    MEAS:INS?        -> +5.500000E+02      megohm at the test voltage

An answer says not to which question it belongs. So each question is asked only when nothing waits to be read; an answer that comes late, is
garbled or is another meter's ends the link, and nothing of it is taken for a reading.
"""

import re
from contextlib import suppress
from dataclasses import dataclass
from math import inf, isfinite

import serial

from riktig.prove.steps import Unit
from riktig.refusal import Refusal

ANSWER_S = 5.0
OVER_RANGE = 9.9e37
"""What stands for over range: SCPI-99 volume 1, 7.2.1.5, from memory."""
DEFAULT_PORT = 9151
QUESTIONS = {Unit.OHM: "MEAS:RES?", Unit.VOLT: "MEAS:VOLT:AC?", Unit.MEGOHM: "MEAS:INS?"}
DC_VOLTS = "MEAS:VOLT:DC?"
_NUMBER = re.compile(rb"[+-]?\d+(\.\d*)?([Ee][+-]?\d+)?")
_LONGEST = 120


class MeterError(Refusal):
    """A meter that gives no reading; one sentence with the mend. Nothing is recorded."""


@dataclass(frozen=True, slots=True)
class MeterIdentity:
    """What a meter says of itself."""

    maker: str
    model: str
    serial: str

    def __str__(self) -> str:
        return f"{self.model} no. {self.serial}"


def port_of(address: str) -> str:
    """Return where pyserial finds a meter: `HOST:PORT` over TCP, else the name of a serial device.

    Raises:
        MeterError: it is neither.
    """
    host, colon, port = address.strip().rpartition(":")
    if colon and port.isdecimal() and host and 0 < int(port) < 65536:
        return f"socket://{host}:{port}"
    if address.strip().startswith(("/dev/", "COM")):
        return address.strip()
    raise MeterError(
        f"'{address}' is no address of a meter: write HOST:PORT, as 127.0.0.1:{DEFAULT_PORT}, or /dev/ttyUSB0"
    )


BUSY = b"BUSY"
"""What a meter answers to whoever asks while it serves somebody else."""


class MeterLink:
    """A meter that has said who it is. One question at a time; whoever has lost an answer opens another link.

    Args:
        address: `HOST:PORT` or a serial device.
        expected: serial number of the meter that must answer, "" for any.
        answer_s: how long an answer is waited for.

    Raises:
        MeterError: none answers, it is no meter, or another one.
    """

    def __init__(self, address: str, *, expected: str = "", answer_s: float = ANSWER_S) -> None:
        self._where = address
        try:
            self._way = serial.serial_for_url(port_of(address), timeout=answer_s, write_timeout=answer_s, baudrate=9600)
        except (OSError, ValueError) as error:
            raise MeterError(f"no meter answers at {address}: switch it on, or write another address") from error
        said = self._ask(b"*IDN?").decode("ascii", "replace").split(",")
        if len(said) != 4 or not said[2].strip():
            self.close()
            raise MeterError(f"what answers at {address} is no meter of this protocol: write another address")
        self.identity = MeterIdentity(*(word.strip() for word in said[:3]))
        if expected and self.identity.serial != expected:
            self.close()
            raise MeterError(
                f"meter no. {self.identity.serial} answers at {address}, and no. {expected} is the one in use: choose it anew"
            )

    def read(self, unit: Unit, *, is_dc: bool = False) -> float:
        """Return a reading in its unit, infinite where it is over range.

        Raises:
            MeterError: none came in time, or what came is no reading; the link is closed then.
        """
        answer = self._ask((DC_VOLTS if is_dc and unit is Unit.VOLT else QUESTIONS[unit]).encode())
        if not _NUMBER.fullmatch(answer):
            self.close()
            raise MeterError(f"the meter at {self._where} answered {answer[:30]!r}, which is no reading: measure again")
        value = float(answer)
        if not isfinite(value) or abs(value) >= OVER_RANGE:
            return inf
        return value

    def _ask(self, question: bytes) -> bytes:
        """Return the answer to a question. What waits to be read before it is asked is an answer to something else: the link is closed."""
        try:
            if self._way.in_waiting:
                raise MeterError(f"the meter at {self._where} said something that nobody asked for: measure again")
            self._way.write(question + b"\n")
            answer = self._way.read_until(b"\n", _LONGEST)
            self._refuse_busy(answer)
        except MeterError:
            self.close()
            raise
        except (OSError, ValueError) as error:
            self.close()
            raise MeterError(f"the meter at {self._where} is gone: switch it on, and measure again") from error
        if not answer.endswith(b"\n"):
            self.close()
            words = "answered more than a reading" if len(answer) >= _LONGEST else "gave no answer in time"
            raise MeterError(f"the meter at {self._where} {words}: measure again")
        return bytes(answer).strip()

    def _refuse_busy(self, answer: bytes) -> None:
        """Refuse a meter that serves somebody else.

        Raises:
            MeterError: it does.
        """
        if answer.strip() == BUSY:
            raise MeterError(f"the meter at {self._where} is in another hand: wait until that has let go of it")

    @property
    def is_open(self) -> bool:
        """Whether it can still be asked."""
        return bool(self._way.is_open)

    def close(self) -> None:
        """Let go of the meter, from any thread."""
        line = getattr(self._way, "_socket", None)  # the library leaves it open where the other side is gone already
        with suppress(OSError):
            self._way.close()
        if line is not None:
            line.close()
