"""Limits of a process that is run apart; imports nothing of the engine, so that the process is there at once."""

import ctypes
import os
import resource
import signal


def live_no_longer(parent: int, memory: int) -> bool:
    """Ends this process with its parent, and holds it to ``memory`` bytes; False where the parent is gone already."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG: whoever asked is gone, so is this
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    return os.getppid() == parent
