"""A file of journeys that failed is tried once more; two may be unsteady, none may fail twice."""

import io
from pathlib import Path

import pytest

from house.journeys import LANES, run_journeys
from house.places import ROOT

HOLDS = "def test_it(): pass\n"
FAILS = "def test_first(): pass\ndef test_it(): assert 1 + 1 == 3, 'the page said so'\n"
UNSTEADY = """
from pathlib import Path
def test_it():
    seen = Path(__file__).with_suffix(".seen")
    first, _ = not seen.exists(), seen.touch()
    assert not first, "lost a press"
def test_what_rests_on_it(): assert not Path(__file__).with_suffix(".once").exists()
"""
ENDS_AT_ONCE = "import os\ndef test_it(): os._exit(1)\n"


def run(folder: Path, *files: str) -> tuple[bool, list[str]]:
    """Whether a run of these files holds, and the last lines it says."""
    names = [f"{i}" for i in range(len(files))]
    (folder / "pytest.ini").write_text("[pytest]\naddopts = -q -p no:cacheprovider -p no:django\n")
    for name, text in zip(names, files, strict=True):
        (folder / f"test_{name}.py").write_text(text)
    said = io.StringIO()
    good = run_journeys(said, folder, (tuple(names[::2]), tuple(names[1::2])))
    return good, said.getvalue().strip().splitlines()


def test_every_file_is_in_one_lane():
    files = sorted(f.stem.removeprefix("test_") for f in (ROOT / "e2e").glob("test_*.py"))
    assert sorted(name for lane in LANES for name in lane) == files


def test_a_file_that_holds_the_second_time_is_told_as_unsteady(tmp_path):
    good, said = run(tmp_path, HOLDS, HOLDS, UNSTEADY)
    assert good and said[-1].startswith("unsteady: 2: test_it (AssertionError: lost a press")
    assert run(tmp_path, HOLDS, HOLDS, UNSTEADY)[0], "it holds from then on"


def test_a_file_that_fails_twice_fails_the_run(tmp_path):
    good, said = run(tmp_path, FAILS, HOLDS)
    assert not good and said[-1].startswith("failed twice: 0: test_it (AssertionError: the page said so")


def test_more_than_two_unsteady_files_fail_the_run(tmp_path):
    good, said = run(tmp_path, UNSTEADY, UNSTEADY, UNSTEADY, HOLDS)
    assert not good and said[-1] == "3 files failed; not more than 2 are tried again."


@pytest.mark.parametrize("files", [(ENDS_AT_ONCE, HOLDS), ("import nothing_of_this_name\n", HOLDS)])
def test_a_run_that_does_not_come_to_its_end_fails(tmp_path, files):
    assert not run(tmp_path, *files)[0]
