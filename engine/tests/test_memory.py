"""A bad file costs no more than 1 GB, whatever it announces or repeats; measured on the whole process."""

import json
import os
import subprocess
import sys

import pytest
from test_reading import bomb

PLY = (
    b"ply\nformat ascii 1.0\nelement vertex 10000000\nproperty float x\nproperty float y\nproperty float z\n"
    b"element face 1\nproperty list uchar int vertex_indices\nend_header\n"
)
HOSTILE = {
    "noise": (lambda: os.urandom(1 << 20) * 199, "truncated"),
    "facets of a text STL": (lambda: b"solid x\n" + b"facet normal 0 0 0 vertex 1 2 3 " * 3_000_000, "too_large"),
    "vertices of an OBJ": (lambda: b"v 0 0 0\n" + b"v 1 2 3\n" * 4_600_000, "too_large"),
    "vertices of a PLY": (lambda: PLY + b"1 2 3\n" * 10_000_000, "too_large"),
    "points of a STEP file": (
        lambda: b"ISO-10303-21;\n" + b"#1=CARTESIAN_POINT('',(0.,0.,0.));\n" * 4_000_000 + b"END-ISO-10303-21;",
        "no_triangles",
    ),
    "archive bomb": (bomb, "unsafe_archive"),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_bad_file_is_refused_within_a_gigabyte(tmp_path, name):
    make, code = HOSTILE[name]
    file = tmp_path / "bad"
    file.write_bytes(make())
    env = os.environ | {"PYTHONPATH": os.pathsep.join(sys.path)}
    child = subprocess.Popen(
        [sys.executable, "-m", "hewel_engine.cli", "facts", file], stdout=subprocess.PIPE, text=True, env=env
    )
    said = child.stdout.read()
    _, status, used = os.wait4(child.pid, 0)
    assert os.waitstatus_to_exitcode(status) == 2
    assert json.loads(said)["error"]["code"] == code
    assert used.ru_maxrss < 1e6, f"{used.ru_maxrss / 1e6:.2f} GB"
