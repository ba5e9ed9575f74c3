"""Every check and every test, one after the other; all of them run even when one has failed."""

import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from itertools import chain
from pathlib import Path
from typing import IO

from house import steps
from house.database import Cluster
from house.journeys import run_journeys
from house.places import ROOT, VENV, WEB, data_home, environment

BIN = VENV / "bin"


def _lint() -> list[list]:
    return [
        [BIN / "ruff", "check", "."],
        [BIN / "ruff", "format", "--check", "."],
        [BIN / "lint-imports", "--config", ROOT / "pyproject.toml", "--no-cache"],
        [BIN / "mypy", "--cache-dir", ROOT / ".mypy_cache"],
    ]


def _node(*words) -> list:
    return ["node", steps.node_environment()["HEWEL_NPM"], *words]


def run_checks(only: list[str]) -> int:
    """Runs the named groups (all when none is named); the last line of each is its verdict."""
    groups = [name for batch in BATCHES for lane in batch for name in lane]
    unknown = set(only) - set(groups)
    if unknown:
        raise SystemExit(f"There is no group {', '.join(sorted(unknown))}; there are {', '.join(groups)}.")
    wanted = only or groups
    print("Hewel: setting up for tests", flush=True)
    # Stale types keep the front end from building, so making them anew must not need the build.
    steps.set_up(
        web=bool(set(wanted) - {"engine", "solids", "strength"}),
        tests=True,
        browser="e2e" in wanted,
        build=bool({"server", "e2e"} & set(wanted)) and "types" not in wanted,
    )
    failed = []
    for batch in BATCHES:
        lanes = [names for lane in batch if (names := [name for name in lane if name in wanted])]
        run = _timed if len(lanes) > 1 else _aloud
        with ThreadPoolExecutor() as pool:
            told = pool.map(lambda names, run=run: [(name, run(name)) for name in names], lanes)
            for name, (good, seconds, said) in chain.from_iterable(told):
                if name == "types" and good and {"server", "e2e"} & set(wanted):
                    steps.web_build()
                if said:
                    print(f"\n== {name}\n{said}", flush=True)
                print(f"== {name}: {'passed' if good else 'FAILED'} in {seconds:.0f} s", flush=True)
                failed += [] if good else [name]
    print(f"\nHewel: {'all checks passed' if not failed else 'failed: ' + ', '.join(failed)}")
    return 1 if failed else 0


BATCHES = (
    (("lint",), ("types", "web")),
    (("solids", "strength"), ("server", "engine", "house"), ("studied",)),
    (("e2e",),),
)
"""Lanes that run beside each other, the groups of each one after the other; the browser has the machine to itself. What
its journeys begin with, the studied demo, is made beside the others: by itself it leaves most of the machine idle.
"""
SOLIDS = (
    "adapting", "afterwards", "blocks_and_numbers", "closing", "exact", "moving", "pieces", "plates", "random_bodies",
    "sizing", "walling",
)  # fmt: skip
"""The engine's longest tests, nearly all of changed solids."""
STRENGTH = (
    "bolted", "clamping", "distributions", "edges", "finite_elements", "gentle", "made", "marks", "reading", "strength",
    "sweep", "torsion", "validation", "voxels", "widths",
)  # fmt: skip
"""Those that solve, or try what is made on bodies: with the solids they take as long as the server's and the rest.
"""

OWN = {"solids": SOLIDS, "strength": STRENGTH}


def _aloud(name: str) -> tuple[bool, float, str]:
    """A group by itself: what it says is on the screen at once."""
    started = time.monotonic()
    print(f"\n== {name}", flush=True)
    return _group(name, sys.stdout), time.monotonic() - started, ""


def _timed(name: str) -> tuple[bool, float, str]:
    """Whether a group is good, its seconds, and what it said."""
    started = time.monotonic()
    with tempfile.TemporaryFile("w+", errors="replace") as said:
        good = _group(name, said)
        said.seek(0)
        return good, time.monotonic() - started, said.read()


def _group(name: str, said: IO[str]) -> bool:
    if name == "lint":
        return _all(_lint(), ROOT, environment(Path()), said) & _all(
            [_node("run", "-s", "lint")], WEB, steps.node_environment(), said
        )
    if name == "web":
        return _all([_node("run", "-s", "test")], WEB, steps.node_environment(), said)
    if name == "house":
        words = [
            "-q",
            "-c",
            "/dev/null",
            "--rootdir",
            "house",
            "-p",
            "no:cacheprovider",
            "-p",
            "no:django",
            "house/tests",
            "simulated_farm/tests",
            "simulated_stand/tests",
        ]
        return _all([[BIN / "python", "-m", "pytest", *words]], ROOT, environment(Path()), said)
    if name in ("engine", "solids", "strength"):
        files = {of: [f"tests/test_{file}.py" for file in own] for of, own in OWN.items()}
        words = files.get(name, [f"--ignore={file}" for own in files.values() for file in own])
        return _all([[BIN / "python", "-m", "pytest", *words]], ROOT / "engine", environment(Path()), said)
    if name == "studied":
        return _all([[BIN / "python", "studied.py"]], ROOT / "e2e", environment(Path()), said)
    if name == "e2e":  # by itself it makes what it begins with; without that no journey is begun
        return _group("studied", said) and run_journeys(said)
    home = data_home("test")
    cluster = Cluster(home)
    cluster.create()
    cluster.start()
    try:
        env = environment(home, cluster.dsn("postgres"))
        if name == "types":
            return _types(env, said)
        return _all([[BIN / "python", "-m", "pytest"]], ROOT / "server", env, said)
    finally:
        cluster.stop()


def _types(env: dict[str, str], said: IO[str]) -> bool:
    """Makes the schema and its types anew; they must be what is committed, and the front end must compile with them."""
    made = subprocess.run([BIN / "python", "-m", "hewel.schema"], env=env, capture_output=True, text=True)
    if made.returncode:
        print(made.stderr, file=said)
        return False
    files = [WEB / "openapi.json", WEB / "src/api/schema.ts"]
    before = [f.read_text() for f in files]
    files[0].write_text(made.stdout)
    good = _all(
        [_node("run", "-s", "types"), _node("exec", "--", "tsc", "--noEmit")], WEB, steps.node_environment(), said
    )
    stale = [f.relative_to(ROOT) for f, text in zip(files, before, strict=True) if f.read_text() != text]
    if stale:
        print("These were out of date and have been made anew; look at them and commit:", *stale, file=said)
    return good and not stale


def _all(commands: list[list], folder: Path, env: dict[str, str], said: IO[str]) -> bool:
    run = lambda words: subprocess.run(words, cwd=folder, env=env, stdout=said, stderr=subprocess.STDOUT)
    codes = [run([str(w) for w in c]).returncode for c in commands]
    return not any(codes)
