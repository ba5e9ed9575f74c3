"""Work of libraries that may fail or go wild, done in a process of its own that is ended when it does."""

import os
import subprocess
import sys
from pathlib import Path

OUT_OF_MEMORY = 3
"""How such a process ends when memory ran out."""


def run_apart(script: str, *words: str | Path, seconds: float, memory: int) -> int:
    """Runs ``script`` of this room with ``words``, ``memory`` bytes and this process's number; how it ended. Raises
    subprocess.TimeoutExpired.
    """
    line = [sys.executable, Path(__file__).with_name(script), *words, str(memory), str(os.getpid())]
    quiet = subprocess.DEVNULL
    return subprocess.run(line, stdin=quiet, stdout=quiet, stderr=quiet, timeout=seconds).returncode
