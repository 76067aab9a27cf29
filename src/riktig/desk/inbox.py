"""Owns the pipe between window and worker process: what goes through it, and in which order it is taken off. Must not answer."""

import pickle
import threading
from collections import deque
from multiprocessing.connection import Connection
from typing import Any

QUESTION, ORDER, STOP = b"q", b"o", b"s"
Message = tuple[str, int, Any]


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
        self.send = pipe.send
        threading.Thread(target=self._read, daemon=True, name="riktig-inbox").start()

    def _read(self) -> None:
        try:
            while True:
                raw = self._pipe.recv_bytes()
                if raw[:1] == STOP:
                    self.stopped = int(raw[1:])
                    continue
                self._put(self._questions if raw[:1] == QUESTION else self._orders, raw)
        except (EOFError, OSError):
            self._put(self._orders, None)

    def _put(self, queue: Any, raw: bytes | None) -> None:
        with self._news:
            queue.append(raw)
            self._news.notify()

    def recv(self) -> Message:
        """Return the next message, orders first.

        Raises:
            EOFError: the window is gone.
        """
        with self._news:
            self._news.wait_for(lambda: self._orders or self._questions)
            raw = self._orders.popleft() if self._orders else self._questions.popleft()
        if raw is None:
            raise EOFError
        message: Message = pickle.loads(raw[1:])
        return message

    def question(self) -> Message | None:
        """Return the next question that waits, None if none does."""
        with self._news:
            raw = self._questions.popleft() if self._questions else None
        return None if raw is None else pickle.loads(raw[1:])

    def poll(self) -> bool:
        """Return whether a newer order waits."""
        return bool(self._orders)


def pack_message(kind: str, number: int, value: Any) -> bytes:
    """Return a message as it goes through the pipe: what sort it is, and the rest pickled."""
    return (QUESTION if kind == "ask" else ORDER) + pickle.dumps((kind, number, value))


def pack_stop(number: int) -> bytes:
    """Return the wish that the long edit of that number should stop."""
    return STOP + str(number).encode()
