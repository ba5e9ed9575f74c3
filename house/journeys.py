"""The browser's journeys: three lanes beside each other; a file that failed is run once more, on a fresh product."""

import subprocess
import tempfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import IO
from xml.etree import ElementTree

from house.places import ROOT, VENV, environment

LANES = (
    ("survival", "whole_job", "hardware", "fit", "walk", "machines", "cards"),
    ("operations", "strength", "week", "batch", "walls", "shelf", "trials", "overhangs"),
    ("beginning", "release", "pieces", "choose_a_direction", "desk", "remedies", "requirements", "views", "unseen"),
)
"""The files of journeys in three lanes, about as long as each other; each lane has a product and a browser of its own.
Half of a journey is waiting, so two cores hold three.
"""

MOST_UNSTEADY = 2
"""Files that may fail once and hold the second time; with more of them, or one that fails twice, the run fails."""


def run_journeys(said: IO[str], folder: Path = ROOT / "e2e", lanes: tuple[tuple[str, ...], ...] = LANES) -> bool:
    """Whether all of them hold. Journeys of a file may share a page, so it is the file that is tried again."""
    with ThreadPoolExecutor() as pool:
        ended = list(pool.map(partial(_run, folder), range(len(lanes)), lanes))
    for words, _ in ended:
        print(words, file=said, flush=True)
    if any(failed is None for _, failed in ended):
        return False
    failed = {file: why for _, of in ended for file, why in (of or {}).items()}
    if not failed:
        return True
    if len(failed) > MOST_UNSTEADY:
        print(f"{len(failed)} files failed; not more than {MOST_UNSTEADY} are tried again.", file=said, flush=True)
        return False
    words, again = _run(folder, 0, tuple(failed))
    print(words, file=said)
    for file, why in failed.items():
        verdict = "unsteady" if again is not None and file not in again else "failed twice"
        print(f"{verdict}: {why}", file=said, flush=True)
    return again == {}


def _run(folder: Path, lane: int, files: tuple[str, ...]) -> tuple[str, dict[str, str] | None]:
    """What the run of some files said, and of each that failed its first failure; None where it came to no end."""
    with tempfile.TemporaryDirectory() as own:
        report = Path(own) / "report.xml"
        words = [VENV / "bin/python", "-m", "pytest", f"--junitxml={report}", *(f"test_{name}.py" for name in files)]
        done = subprocess.run(
            [str(w) for w in words],
            cwd=folder,
            env=environment(Path()) | {"HEWEL_LANE": str(lane)},
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            errors="replace",
        )
        cases = list(ElementTree.parse(report).iter("testcase")) if report.exists() else []
    first = _first_failures(cases)
    ended = done.returncode == 0 or (done.returncode == 1 and first)
    return done.stdout + _seconds(cases), first if ended else None


def _file_of(case: ElementTree.Element) -> str:
    return case.get("classname", "").rsplit(".", 1)[-1].removeprefix("test_")


def _seconds(cases: list[ElementTree.Element]) -> str:
    """How long each file took, by which lanes are kept alike."""
    total: Counter[str] = Counter()
    for case in cases:
        total[_file_of(case)] += float(case.get("time", 0))
    return "seconds: " + ", ".join(f"{file} {seconds:.0f}" for file, seconds in total.items())


def _first_failures(cases: list[ElementTree.Element]) -> dict[str, str]:
    """Of every file that failed its first journey that did, with what it failed of; files in the run's order."""
    first: dict[str, str] = {}
    for case in cases:
        why = case.find("failure") if case.find("failure") is not None else case.find("error")
        if why is not None:
            file = _file_of(case)
            first.setdefault(file, f"{file}: {case.get('name')} ({(why.get('message') or '').splitlines()[0][:140]})")
    return first
