"""How the code is built: no circle of imports, one registry of stages, the catalogue passed in, nothing overlong."""

import ast
import re
from graphlib import TopologicalSorter
from pathlib import Path

import grimp
import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "isostasis"
PYTHON = sorted(SOURCE.rglob("*.py"))
TESTS = sorted((ROOT / "tests").rglob("*.py"))
TEMPLATES = sorted((SOURCE / "web").rglob("*.html"))
OURS = [path for path in (SOURCE / "web" / "static").rglob("*.*") if "vendor" not in path.parts]


def named(path):
    return path.relative_to(ROOT).as_posix()


def test_modules_import_in_no_circle():
    graph = grimp.build_graph("isostasis", cache_dir=None)
    imports = {
        module: {
            other
            for other in graph.find_modules_directly_imported_by(module)
            # A package's `__init__` gathers what is inside it.
            if not module.startswith(other + ".")
        }
        for module in graph.modules
    }
    assert len(imports) > 150
    TopologicalSorter(imports).prepare()


@pytest.mark.parametrize("path", PYTHON, ids=named)
def test_nothing_is_cached_beside_the_registry(path):
    if path.name != "stages.py":
        assert "lru_cache" not in path.read_text()


# Where the shipped catalogue is taken up; everywhere else it is passed in.
EDGES = {"cli", "solver", "store", "demo"}


@pytest.mark.parametrize("path", [path for path in PYTHON if path.relative_to(SOURCE).parts[0] not in EDGES], ids=named)
def test_the_catalogue_is_passed_in(path):
    calls = [
        node.func.id
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
    ]
    assert "shipped" not in calls


@pytest.mark.parametrize("path", TESTS, ids=named)
def test_test_modules_import_no_test_modules(path):
    for node in ast.walk(ast.parse(path.read_text())):
        names = [node.module or ""] if isinstance(node, ast.ImportFrom) else []
        names += [one.name for one in node.names] if isinstance(node, ast.Import) else []
        for name in names:
            assert not re.search(r"(^|\.)(test_\w+|conftest)$", name), name


@pytest.mark.parametrize("path", [*PYTHON, *TESTS, *OURS, *TEMPLATES], ids=named)
def test_no_file_is_overlong(path):
    if path.suffix in (".py", ".html", ".css", ".js"):
        lines = path.read_text().splitlines()
        assert len(lines) <= 500
        assert max((len(line) for line in lines), default=0) <= 160


def raised(function):
    """Whether a function raises something by itself, not through another."""
    inside = {id(node) for one in ast.walk(function) if one is not function and isinstance(one, ast.FunctionDef)
              for node in ast.walk(one)}  # fmt: skip
    return any(
        isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call) and id(node) not in inside
        for node in ast.walk(function)
    )


@pytest.mark.parametrize("path", PYTHON, ids=named)
def test_what_raises_says_so(path):
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and raised(node):
            said = ast.get_docstring(node) or ""
            assert re.search(r"Raises|Refuse|exit 2", said), node.name


# Where the laws of the craft are; numbers of the craft say that they are estimates, all else its source.
LAWS = [path for path in PYTHON if path.parent.name in ("hardening", "mixing", "colour")]


@pytest.mark.parametrize("path", LAWS, ids=named)
def test_a_law_has_a_source(path):
    assert "Source" in path.read_text() or "craft estimate" in path.read_text() or path.name == "__init__.py"


# What they give is tested against published values at length; an example would need a page.
WITHOUT_EXAMPLE = {"blended", "judge", "nearest", "wave_kept", "wave_window", "solved", "solve_reference"}


@pytest.mark.parametrize("path", LAWS, ids=named)
def test_a_law_has_an_example(path):
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and node.name not in WITHOUT_EXAMPLE:
            assert ">>>" in (ast.get_docstring(node) or ""), node.name


PASSING = {"found", "made", "told", "own", "here", "one"}  # names that say nothing of what they hold
INNER = (ast.FunctionDef, ast.Lambda, ast.ListComp, ast.SetComp, ast.DictComp, ast.GeneratorExp)


@pytest.mark.parametrize("path", PYTHON, ids=named)
def test_what_lasts_is_named_by_what_it_holds(path):
    for function in (node for node in ast.walk(ast.parse(path.read_text())) if isinstance(node, ast.FunctionDef)):
        inside = {id(part) for node in ast.walk(function) if node is not function and isinstance(node, INNER)
                  for part in ast.walk(node)}  # fmt: skip
        lines = {}
        for node in ast.walk(function):
            name = getattr(node, "id", getattr(node, "arg", None))
            if name in PASSING and isinstance(node, ast.Name | ast.arg) and id(node) not in inside:
                lines.setdefault(name, []).append(node.lineno)
        assert not [name for name, at in lines.items() if max(at) - min(at) > 2], function.name
