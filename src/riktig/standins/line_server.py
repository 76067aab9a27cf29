"""Owns answering lines of text on localhost, as instruments do. Must not know what they say."""

import socketserver
import threading
from collections.abc import Callable, Iterable
from contextlib import suppress

Answers = Callable[[str], Iterable[str | None]]
"""What is answered to a line, None where the line is cut in place of an answer."""


class LineServer:
    """A server in a thread of its own.

    Args:
        answers: what it answers to each line.
        port: on which it listens, 0 for any that is free.
        busy: what whoever comes while another is served gets for the first question, and no more; "" lets everybody in.

    Raises:
        OSError: the port is taken.
    """

    def __init__(self, answers: Answers, *, port: int = 0, busy: str = "") -> None:
        held = threading.Lock()

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                if not busy:
                    self._serve()
                elif held.acquire(blocking=False):
                    try:
                        self._serve()
                    finally:
                        held.release()
                else:
                    with suppress(OSError):
                        self.rfile.readline()  # a line cut while somebody asks loses what was said, one told before may be cleared unread
                        self.wfile.write(f"{busy}\n".encode())

            def _serve(self) -> None:
                with suppress(OSError):  # whoever asked is gone
                    for raw in self.rfile:
                        said = list(answers(raw.decode("utf-8", "replace").rstrip("\r\n")))
                        kept = said[: said.index(None)] if None in said else said
                        self.wfile.write("".join(f"{answer}\n" for answer in kept).encode())
                        if len(kept) < len(said):
                            return

        class Server(socketserver.ThreadingTCPServer):
            allow_reuse_address = True
            daemon_threads = True

        self._server = Server(("127.0.0.1", port), Handler)
        self.port: int = self._server.server_address[1]
        self._thread = threading.Thread(target=self._server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Listen no more."""
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()
