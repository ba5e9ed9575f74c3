"""One heavy task, one process: started ahead of time so that its libraries are already in memory.

The child runs a bridge function, a generator of events, and sends each through a pipe: ``("doing", done, total,
text)`` or ``("result", name, value)``. Cancelling is ending the process.
"""

import importlib
import multiprocessing
import os
import resource
import signal
import threading
from collections.abc import Iterator

_spawn = multiprocessing.get_context("spawn")
HEAD_START = 3.0  # seconds that a task has for itself before the next process is started
WARM = ("parts.bridge",)


def _serve(pipe, memory: int) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    os.nice(5)  # pages stay quick while a task computes
    for name in WARM:
        importlib.import_module(name).warm_up()
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
    def __init__(self, memory: int):
        self.pipe, other = _spawn.Pipe()
        self.process = _spawn.Process(target=_serve, args=(other, memory), daemon=True)
        self.process.start()
        other.close()

    def run(self, module: str, function: str, arguments: dict, wait: float) -> Iterator[tuple | None]:
        """Events as they come; None whenever ``wait`` seconds passed without one, so that the caller can look up."""
        try:
            self.pipe.send((module, function, arguments))
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
        finally:
            self.end()

    def end(self) -> None:
        self.process.kill()
        self.process.join()
        self.pipe.close()


class Spare:
    """Holds one child ready; whoever takes it causes the next to be started."""

    def __init__(self):
        self._lock = threading.Lock()
        self._child: Child | None = None

    def prepare_soon(self, memory: int) -> None:
        """Not at once: what a task finds first needs the machine itself."""
        timer = threading.Timer(HEAD_START, self.prepare, [memory])
        timer.daemon = True
        timer.start()

    def prepare(self, memory: int) -> None:
        with self._lock:
            if self._child is None or not self._child.process.is_alive():
                self._child = Child(memory)

    def take(self, memory: int) -> Child:
        with self._lock:
            child, self._child = self._child, None
        if child is not None and child.process.is_alive():
            return child
        return Child(memory)


spare = Spare()
