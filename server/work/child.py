"""One heavy task, one process, forked from one that has its libraries in memory already.

The child runs a bridge function, a generator of events, and sends each through a pipe: ``("doing", done, total,
text)`` or ``("result", name, value)``. Cancelling is ending the process.
"""

import importlib
import multiprocessing
import os
import resource
import signal
from collections.abc import Iterator
from contextlib import suppress

PRELOADED = [
    "parts.preloaded", "studies.bridge", "overhangs.bridge", "strength.bridge", "remedies.bridge", "walls.bridge",
    "batch.bridge", "week.bridge",
]  # fmt: skip
"""Modules of the process that children are forked from: all that a task computes with, and no Django."""
_fork = multiprocessing.get_context("forkserver")
_fork.set_forkserver_preload(PRELOADED)


def get_ready() -> None:
    """Starts the process that children are forked from, and waits until it has loaded everything: a worker that took a
    task before would seem dead while its first child comes.
    """
    first = _fork.Process(target=_nothing)
    first.start()
    first.join()


def _nothing() -> None:
    pass


def _serve(pipe, memory: int, niceness: int) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    os.nice(niceness)  # pages stay quick while a task computes
    try:
        module, function, arguments = pipe.recv()
    except EOFError:
        return
    try:
        for event in getattr(importlib.import_module(module), function)(**arguments):
            pipe.send(event)
        pipe.send(("done",))
    except MemoryError:
        pipe.send(("refused", {
            "code": "too_large",
            "message": "The part needs more memory than one task may use.",
            "hint": "Export it with a coarser tolerance.",
        }))  # fmt: skip
    except Exception as error:
        problem = getattr(error, "as_dict", None)
        if problem:
            pipe.send(("refused", problem()))
        else:
            import traceback

            traceback.print_exc()
            pipe.send(("failed", f"{type(error).__name__}"))


class Child:
    """The process of one task; it ends with the ``with`` that it stands in."""

    def __init__(self, memory: int, niceness: int = 5):
        self.pipe, other = _fork.Pipe()
        self.process = _fork.Process(target=_serve, args=(other, memory, niceness), daemon=True)
        self.process.start()
        other.close()

    def __enter__(self) -> "Child":
        return self

    def __exit__(self, *_) -> None:
        self.process.kill()
        self.process.join()
        self.pipe.close()

    def run(self, module: str, function: str, arguments: dict) -> None:
        """What it is to do; of a large part that takes a while. A child that has ended says so among its events."""
        with suppress(BrokenPipeError, ConnectionResetError):
            self.pipe.send((module, function, arguments))

    def events(self, wait: float) -> Iterator[tuple | None]:
        """Events as they come; None whenever ``wait`` seconds passed without one, so that the caller can look up."""
        try:
            while True:
                if not self.pipe.poll(wait):
                    if not self.process.is_alive() and not self.pipe.poll(0):
                        yield ("lost", "The computing process was ended from outside.")
                        return
                    yield None
                    continue
                event = self.pipe.recv()
                yield event
                if event[0] in ("done", "refused", "failed"):
                    return
        except (EOFError, BrokenPipeError, ConnectionResetError):
            yield ("lost", "The computing process ended before its task did.")
