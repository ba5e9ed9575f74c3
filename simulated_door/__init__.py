"""The door of what stands in for machines: JSON over HTTP at an address of this machine, for who knows a word."""

import json
import os
import signal
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer


class Refused(Exception):
    """What cannot be done now, in words."""


class Door(BaseHTTPRequestHandler):
    """``token`` is what every caller has to know, ``name`` what stands behind the door."""

    timeout = 20
    token: str
    name: str

    @property
    def length(self) -> int:
        """Bytes that the caller sends."""
        return int(self.headers.get("Content-Length") or 0)

    def given(self) -> dict:
        """What the caller sends; raises ValueError where it is no JSON."""
        return json.loads(self.rfile.read(self.length) or b"{}")

    def answer(self, act: Callable[[], dict | None], there: bool) -> None:
        """Tells what ``act`` answers, where its address is ``there``; its refusals in words."""
        if self.headers.get("Authorization") != f"Bearer {self.token}":
            return self._send(401, {"message": f"This {self.name} does not know the caller."})
        if not there:
            return self._send(404, {"message": "There is nothing here."})
        try:
            told = act()
        except Refused as no:
            return self._send(409, {"message": str(no)})
        except (KeyError, TypeError, ValueError) as error:
            return self._send(400, {"message": f"This cannot be read: {error}."})
        return self._send(200, told or {})

    def _send(self, status: int, what: dict) -> None:
        body = json.dumps(what).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, format: str, *args: object) -> None:
        """Errors alone stand in the log."""


def serve(port: int, door: type[Door]) -> None:
    """Until the process is ended."""
    server = ThreadingHTTPServer(("127.0.0.1", port), door)
    server.daemon_threads = True
    signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
    server.serve_forever()
