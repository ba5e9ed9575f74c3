"""A connection between a browser and the product that a journey can cut."""

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress

HERE = "127.0.0.1"


class Line:
    """Hands on what comes to a port of its own; cut, it refuses whoever comes and drops whoever is there."""

    def __init__(self, port: int):
        self.behind, self.open, self.pairs = port, True, set[socket.socket]()
        self.listener = socket.create_server((HERE, 0))
        self.port = self.listener.getsockname()[1]
        threading.Thread(target=self._accept, daemon=True).start()

    def cut(self) -> None:
        self.open = False
        for end in list(self.pairs):
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def mend(self) -> None:
        self.open = True

    def _accept(self) -> None:
        with suppress(OSError):
            while True:
                near, _ = self.listener.accept()
                if not self.open:
                    near.close()
                    continue
                far = socket.create_connection((HERE, self.behind))
                self.pairs |= {near, far}
                for one, other in ((near, far), (far, near)):
                    threading.Thread(target=self._hand_on, args=(one, other), daemon=True).start()

    def _hand_on(self, one: socket.socket, other: socket.socket) -> None:
        with suppress(OSError):
            while data := one.recv(65536):
                other.sendall(data)
        for end in (one, other):
            self.pairs.discard(end)
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
                end.close()


@contextmanager
def line_to(address: str) -> Iterator[tuple[Line, str]]:
    """A line to the product at ``address``, and the address that stands at its near end."""
    line = Line(int(address.rstrip("/").rpartition(":")[2]))
    try:
        yield line, f"http://{HERE}:{line.port}/"
    finally:
        line.listener.close()
        line.cut()
