"""The last few things that were dear to make, kept in memory by name."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")


class SingleFlightCache(Generic[T]):
    """``most`` things. Whoever asks for one that is just being made waits for it; others are not held up."""

    def __init__(self, most: int):
        self._most = most
        self._lock = Lock()
        self._slots: OrderedDict[Hashable, _Slot[T]] = OrderedDict()

    def get(self, name: Hashable, make: Callable[[], T]) -> T:
        """What is kept under ``name``, else what ``make`` gives; where that raises, nothing is kept."""
        with self._lock:
            slot = self._slots.setdefault(name, _Slot())
            self._slots.move_to_end(name)
            while len(self._slots) > self._most:
                self._slots.popitem(last=False)
        with slot.lock:
            if slot.made is None:
                slot.made = make()
            return slot.made


class _Slot(Generic[T]):
    def __init__(self):
        self.lock = Lock()
        self.made: T | None = None
