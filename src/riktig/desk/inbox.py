"""Owns the worker's end of the pipe: what comes from the window, and in which order it is taken off. Must not answer."""

import threading
from collections import deque
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from riktig.desk.messages import Answer, Ask, Wish
from riktig.desk.packing import pack, unpack

IDLE_S = 2.0
QUESTION, ORDER, STOP, END = b"q", b"o", b"s", b"e"


class Inbox:
    """The worker's side of the pipe. A thread takes messages off it at once, so that the window never waits to send one.

    Questions stand in a queue of their own: they overtake what follows from a Job, and make nothing of it be skipped.
    """

    def __init__(self, pipe: Connection) -> None:
        self._pipe = pipe
        self._news = threading.Condition()
        self._orders: deque[bytes | None] = deque()
        self._questions: deque[bytes] = deque()
        self.stopped = 0
        """The number of the newest long edit that is to stop."""
        threading.Thread(target=self._read, daemon=True, name="riktig-inbox").start()

    def _read(self) -> None:
        try:
            while True:
                raw = self._pipe.recv_bytes()
                if raw[:1] == END:
                    break
                if raw[:1] == STOP:
                    self.stopped = int(raw[1:])
                    continue
                self._put(self._questions if raw[:1] == QUESTION else self._orders, raw)
        except (EOFError, OSError):
            pass
        self._put(self._orders, None)

    def _put(self, queue: Any, raw: bytes | None) -> None:
        with self._news:
            queue.append(raw)
            self._news.notify()

    def recv(self, on_idle: Callable[[], None] | None = None) -> tuple[int, Wish]:
        """Return the next wish with its number, orders first; what is given is done once, where none comes for a while.

        Raises:
            EOFError: the window is gone.
        """
        if on_idle is not None and not self._wait(IDLE_S):
            on_idle()
        self._wait(None)
        with self._news:
            raw = self._orders.popleft() if self._orders else self._questions.popleft()
        if raw is None:
            raise EOFError
        return _unpack(raw)

    def _wait(self, seconds: float | None) -> bool:
        with self._news:
            return bool(self._news.wait_for(lambda: self._orders or self._questions, seconds))

    def send(self, answer: Answer) -> None:
        """Send an answer to the window."""
        self._pipe.send_bytes(pack(answer))

    def question(self) -> tuple[int, Wish] | None:
        """Return the next question that waits, None if none does."""
        with self._news:
            raw = self._questions.popleft() if self._questions else None
        return None if raw is None else _unpack(raw)

    def poll(self) -> bool:
        """Return whether a newer order waits."""
        return bool(self._orders)


def _unpack(raw: bytes) -> tuple[int, Wish]:
    number, wish = unpack(raw[1:])
    return number, wish


def pack_wish(number: int, wish: Wish) -> bytes:
    """Return a wish as it goes through the pipe: what sort it is, and the rest packed."""
    return (QUESTION if isinstance(wish, Ask) else ORDER) + pack((number, wish))


def pack_stop(number: int) -> bytes:
    """Return the wish that the long edit of that number should stop."""
    return STOP + str(number).encode()


def pack_end() -> bytes:
    """Return the wish that the process should end once what is before it is answered."""
    return END
