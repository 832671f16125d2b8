"""Imports run one way (the contracts are in pyproject.toml), and what else can be counted."""

import ast
import re
import subprocess
import sys
from collections import Counter
from pathlib import Path

import pytest

from tests.conftest import ROOT


def test_the_import_contracts_hold() -> None:
    checked = subprocess.run(
        [Path(sys.executable).parent / "lint-imports", "--no-cache"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert checked.returncode == 0, checked.stdout
    assert "7 kept, 0 broken" in checked.stdout


SOURCES = [p for p in sorted((ROOT / "src").rglob("*.py")) if "migrations" not in p.parts]


def test_no_class_name_stands_twice() -> None:
    named = [
        (node.name, path.relative_to(ROOT))
        for path in SOURCES
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.ClassDef)
    ]
    twice = {
        name: [str(path) for other, path in named if other == name]
        for name, count in Counter(name for name, _ in named).items()
        if count > 1
    }
    assert not twice


def test_no_handler_of_the_web_opens_the_database() -> None:
    asking = [
        path.name
        for path in (ROOT / "src" / "sequor" / "web").glob("*.py")
        if re.search(r"\.database\.(write|reading)\b", path.read_text())
    ]
    assert not asking


def test_only_one_function_makes_a_recipe_from_a_recipe() -> None:
    # `changed` of a recipe's parts is called by rules of edits, and by nothing else.
    allowed = {"core/recipe.py", "core/advance.py"}
    found = {
        str(path.relative_to(ROOT / "src" / "sequor"))
        for path in SOURCES
        if re.search(r"\.changed\(|recipe\.model_copy\(", path.read_text())
    }
    assert {name for name in found if not name.startswith("core/edits/")} <= allowed


@pytest.mark.parametrize(("most", "kind"), [(560, "lines of a file"), (75, "lines of a function")])
def test_files_and_functions_stay_small(most: int, kind: str) -> None:
    sizes = {}
    for path in SOURCES:
        text = path.read_text()
        if kind == "lines of a file":
            sizes[path.name] = text.count("\n")
            continue
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef) and not _is_kernel(node):
                sizes[f"{path.name}: {node.name}"] = _length(node)
    assert not {name: size for name, size in sizes.items() if size > most}


def _is_kernel(node: ast.FunctionDef) -> bool:
    return any("njit" in ast.unparse(decorator) for decorator in node.decorator_list)


def _length(node: ast.FunctionDef) -> int:
    """Lines of a function without its docstring."""
    first = node.body[1] if ast.get_docstring(node) and len(node.body) > 1 else node.body[0]
    return (node.end_lineno or 0) - first.lineno + 1
