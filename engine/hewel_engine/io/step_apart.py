"""The process that reads one STEP file: ``SOURCE ANSWER CHORD TURN MEMORY PARENT``.

It ends 3 when memory ran out, 4 when the file is unreadable. It is started as a script and imports nothing of the
engine, so that it is there at once.
"""

import ctypes
import os
import resource
import signal
import sys
from pathlib import Path


def main(source: str, answer: str, chord_mm: str, turn_rad: str, memory: str, parent: str) -> int:
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG: whoever asked is gone, so is this
    if os.getppid() != int(parent):
        return 4
    resource.setrlimit(resource.RLIMIT_DATA, (int(memory), int(memory)))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        import cascadio

        glb = cascadio.load(
            Path(source).read_bytes(),
            tol_linear=float(chord_mm),
            tol_angular=float(turn_rad),
            use_parallel=False,
            include_brep=True,
        )
        Path(answer).write_bytes(glb)
    except MemoryError:
        return 3
    return 0 if glb else 4


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
