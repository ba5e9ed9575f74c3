"""Whoever calls a function of ours sees what it takes: the type checker looks at what is annotated only."""

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
OURS = ("engine/hewel_engine", "server", "house", "bench", "demo", "simulated_farm", "simulated_stand")


def public(tree: ast.Module) -> Iterator[ast.FunctionDef]:
    """Functions and methods of a module that others call."""
    for node in tree.body:
        inside = node.body if isinstance(node, ast.ClassDef) and not node.name.startswith("_") else [node]
        yield from (n for n in inside if isinstance(n, ast.FunctionDef) and (n.name == "__init__" or n.name[0] != "_"))


@pytest.mark.parametrize("room", OURS)
def test_parameters_of_public_functions_are_annotated(room):
    looked_at, bare = 0, []
    for file in (ROOT / room).rglob("*.py"):
        if {"tests", "migrations"} & set(file.parts):
            continue
        for function in public(ast.parse(file.read_text())):
            asks = function.args
            for given in asks.posonlyargs + asks.args + asks.kwonlyargs:
                looked_at += given.arg not in ("self", "cls")
                if given.annotation is None and given.arg not in ("self", "cls"):
                    bare.append(f"{file.relative_to(ROOT)}: {function.name}({given.arg})")
    assert looked_at > 10 and not bare, "\n".join(bare)
