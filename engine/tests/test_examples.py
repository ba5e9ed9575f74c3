"""The examples in docstrings say what the functions give."""

import doctest
import pkgutil
from importlib import import_module
from pathlib import Path

import pytest

import hewel_engine

PROGRAMS = ("hewel_engine.cli", "hewel_engine.io.exact_apart", "hewel_engine.io.step_apart")
"""Modules that run when they are imported, or in a process of their own."""
MODULES = [m.name for m in pkgutil.walk_packages(hewel_engine.__path__, "hewel_engine.") if not m.ispkg]
TOLD = [
    name
    for name in MODULES
    if not name.startswith(PROGRAMS) and ">>>" in Path(import_module(name).__file__).read_text()
]


@pytest.mark.parametrize("name", TOLD)
def test_examples_hold(name):
    module = import_module(name)
    finder, runner = doctest.DocTestFinder(), doctest.DocTestRunner()
    # Compiled functions are no Python functions to the finder; their Python side is.
    found = {k: getattr(v, "py_func", v) for k, v in vars(module).items() if getattr(v, "__module__", None) == name}
    tried = 0
    for key, thing in found.items():
        for test in finder.find(thing, key, module=module, globs=vars(module)):
            failed, count = runner.run(test)
            assert failed == 0, f"{name}.{key}"
            tried += count
    assert tried > 0


def test_the_engine_has_examples():
    assert len(TOLD) >= 7
