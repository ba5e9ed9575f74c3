"""A long sum beside its own progress, for bridges: the sum runs in a thread, what it says comes out as events."""

import threading
from collections.abc import Callable, Generator
from queue import Empty, SimpleQueue
from typing import TypeVar

T = TypeVar("T")

LOOK = 0.25  # seconds between two words about how far a sum is


def with_progress(run: Callable[[Callable], T], done: int, share: int) -> Generator[tuple, None, T]:
    """Runs ``run(watch)`` beside itself and passes on what it says as ``doing`` events, from ``done`` of 100 over
    ``share`` more; gives back what it gives back.
    """
    given: SimpleQueue = SimpleQueue()
    found: list = []

    def work() -> None:
        try:
            found.append(run(lambda what, part: given.put((what, part))))
        except Exception as error:
            found.append(error)

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    most = done
    while thread.is_alive():
        thread.join(LOOK)
        last = None
        try:
            while True:
                last = given.get_nowait()
        except Empty:
            pass
        if last:
            most = max(most, done + round(share * min(last[1], 1.0)))
            yield ("doing", most, 100, last[0])
    if isinstance(found[0], Exception):
        raise found[0]
    return found[0]
