"""The process that reads one STEP file: ``SOURCE ANSWER CHORD TURN MEMORY PARENT``.

It ends 3 when memory ran out, 4 when the file is unreadable. It is started as a script and imports nothing of the
engine, so that it is there at once.
"""

import sys
from pathlib import Path

from limits import live_no_longer  # beside this script


def main(source: str, answer: str, chord_mm: str, turn_rad: str, memory: str, parent: str) -> int:
    if not live_no_longer(int(parent), int(memory)):
        return 4
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
