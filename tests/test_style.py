"""Sizes and habits of the code, as CONTRIBUTING.md states them."""

import ast
import importlib
import re
import statistics
from importlib.util import find_spec
from pathlib import Path

import pytest

SRC = Path(__file__).parent.parent / "src" / "riktig"
MODULES = sorted(SRC.rglob("*.py"))


def functions(tree: ast.Module) -> list[ast.FunctionDef]:
    return [node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)]


def length(node: ast.FunctionDef) -> int:
    """Return the lines of a function without its docstring."""
    lines = (node.end_lineno or node.lineno) - node.lineno + 1
    first = node.body[0]
    has_doc = (
        isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant) and isinstance(first.value.value, str)
    )
    return lines - ((first.end_lineno or 0) - first.lineno + 1 if has_doc else 0)


@pytest.mark.parametrize("path", MODULES, ids=lambda p: str(p.relative_to(SRC)))
def test_modules_functions_and_classes_stay_small(path: Path) -> None:
    tree = ast.parse(path.read_text())
    assert len(path.read_text().splitlines()) <= 600
    assert [f.name for f in functions(tree) if length(f) > 60] == []
    for node in ast.walk(tree):
        if isinstance(node, ast.ClassDef):
            assert sum(isinstance(item, ast.FunctionDef) for item in node.body) <= 25, node.name


def test_functions_of_the_plan_have_few_parameters() -> None:
    paths = sorted((SRC / "plan").rglob("*.py"))
    found = {
        f"{path.name}:{f.name}": [a.arg for a in (*f.args.posonlyargs, *f.args.args, *f.args.kwonlyargs)]
        for path in paths
        for f in functions(ast.parse(path.read_text()))
    }
    assert len(found) > 500
    assert [name for name, given in found.items() if len(set(given) - {"self", "cls"}) > 7] == []


def test_most_functions_are_short() -> None:
    lengths = [length(f) for path in MODULES for f in functions(ast.parse(path.read_text()))]
    assert statistics.median(lengths) < 10


def test_modules_say_what_they_own_and_public_functions_what_they_return() -> None:
    for path in MODULES:
        tree = ast.parse(path.read_text())
        assert ast.get_docstring(tree), path
        for node in tree.body:
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                assert ast.get_docstring(node), (path, node.name)


def test_colours_and_style_sheets_stand_in_the_theme_only() -> None:
    for path in MODULES:
        inside = path.relative_to(SRC).as_posix()
        if inside.startswith("app/theme/") or inside == "drawings/palette.py":
            continue
        text = path.read_text()
        assert not re.search(r"#[0-9A-Fa-f]{6}\b", text), path
        assert "setStyleSheet" not in text, path


BENCH = Path(__file__).parent.parent / "bench"


def is_there(module: str, name: str) -> bool:
    return hasattr(importlib.import_module(module), name) or find_spec(f"{module}.{name}") is not None


@pytest.mark.parametrize("path", sorted(BENCH.glob("*.py")), ids=lambda p: p.name)
def test_what_the_bench_takes_from_riktig_is_there(path: Path) -> None:
    """It is run seldom, and must not break unseen."""
    taken = [node for node in ast.walk(ast.parse(path.read_text())) if isinstance(node, ast.ImportFrom)]
    names = [(node.module, alias.name) for node in taken for alias in node.names if node.module is not None]
    core = [(module, name) for module, name in names if module.startswith("riktig") and ".app" not in module]
    assert [one for one in core if not is_there(*one)] == []
