"""How the web server runs: two processes whose threads are many, so that slow connections leave enough for others."""

import socket
import struct
from typing import Any

SILENCE = 20
"""Seconds after which a connection that was begun and says nothing more, or takes nothing more, is given up."""

wsgi_app = "hewel.wsgi"
worker_class = "gthread"
workers = 2
threads = 48
preload_app = True  # what both processes hold alike is loaded once
timeout = 120
control_socket_disable = True


def when_ready(server: Any) -> None:
    """What is set on the listening socket holds for all that it accepts; gunicorn has no limit of its own for this."""
    for listener in server.LISTENERS:
        for option in (socket.SO_RCVTIMEO, socket.SO_SNDTIMEO):
            listener.sock.setsockopt(socket.SOL_SOCKET, option, struct.pack("ll", SILENCE, 0))
