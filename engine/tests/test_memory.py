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


MEASURE = """
import resource, subprocess, sys
code = subprocess.call(sys.argv[1:])
print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss, file=sys.stderr)
sys.exit(code)
"""
"""A small process between: a child begins with the greatest memory of who started it, and tests may have used a lot."""


@pytest.mark.parametrize("name", HOSTILE)
def test_a_bad_file_is_refused_within_a_gigabyte(tmp_path, name):
    make, code = HOSTILE[name]
    file = tmp_path / "bad"
    file.write_bytes(make())
    env = os.environ | {"PYTHONPATH": os.pathsep.join(sys.path)}
    words = [sys.executable, "-m", "hewel_engine.cli", "facts", file]
    result = subprocess.run([sys.executable, "-c", MEASURE, *words], capture_output=True, text=True, env=env)
    assert result.returncode == 2
    assert json.loads(result.stdout)["error"]["code"] == code
    used = int(result.stderr.splitlines()[-1])
    assert used < 1e6, f"{used / 1e6:.2f} GB"
