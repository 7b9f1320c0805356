"""How the code is built: no circle of imports, one registry of stages, the catalogue passed in, nothing overlong."""

import ast
import re
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import grimp

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "isostasis"
PYTHON = sorted(SOURCE.rglob("*.py"))
TESTS = sorted((ROOT / "tests").rglob("*.py"))
TEMPLATES = sorted((SOURCE / "web").rglob("*.html"))
OURS = [path for path in (SOURCE / "web" / "static").rglob("*.*") if "vendor" not in path.parts]


@cache
def tree(path):
    return ast.parse(path.read_text())


def functions(path):
    return [node for node in ast.walk(tree(path)) if isinstance(node, ast.FunctionDef)]


def public_functions(path):
    return [node for node in tree(path).body if isinstance(node, ast.FunctionDef) and not node.name.startswith("_")]


def wrong(paths, faults_of):
    """The faults of each file that has some, by its name."""
    return {path.relative_to(ROOT).as_posix(): faults for path in paths if (faults := list(faults_of(path)))}


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


def test_nothing_is_cached_beside_the_registry():
    assert len(PYTHON) > 400
    assert wrong([path for path in PYTHON if path.name != "stages.py"], caches) == {}


def caches(path):
    return re.findall("lru_cache", path.read_text())


# Where the shipped catalogue is taken up; everywhere else it is passed in.
EDGES = {"cli", "solver", "store", "demo"}


def test_the_catalogue_is_passed_in():
    assert wrong([path for path in PYTHON if path.relative_to(SOURCE).parts[0] not in EDGES], takes_the_shipped) == {}


def takes_the_shipped(path):
    calls = (node.func for node in ast.walk(tree(path)) if isinstance(node, ast.Call))
    return [call.lineno for call in calls if isinstance(call, ast.Name) and call.id == "shipped"]


def test_test_modules_import_no_test_modules():
    assert wrong(TESTS, imported_tests) == {}


def imported_tests(path):
    for node in ast.walk(tree(path)):
        names = [node.module or ""] if isinstance(node, ast.ImportFrom) else []
        names += [one.name for one in node.names] if isinstance(node, ast.Import) else []
        yield from (name for name in names if re.search(r"(^|\.)(test_\w+|conftest)$", name))


def test_no_file_is_overlong():
    texts = [path for path in (*PYTHON, *TESTS, *OURS, *TEMPLATES) if path.suffix in (".py", ".html", ".css", ".js")]
    assert wrong(texts, overlong) == {}


def overlong(path):
    lines = path.read_text().splitlines()
    if len(lines) > 500:
        yield f"{len(lines)} lines"
    yield from (f"line {number}: {len(line)}" for number, line in enumerate(lines, start=1) if len(line) > 160)


def test_what_raises_says_so():
    assert wrong(PYTHON, silent) == {}


def silent(path):
    for function in public_functions(path):
        if raises(function) and not re.search(r"Raises|Refuse|exit 2", ast.get_docstring(function) or ""):
            yield function.name


def raises(function):
    """Whether a function raises something by itself, not through another."""
    inside = {id(node) for one in ast.walk(function) if one is not function and isinstance(one, ast.FunctionDef)
              for node in ast.walk(one)}  # fmt: skip
    return any(
        isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call) and id(node) not in inside
        for node in ast.walk(function)
    )


# Where the laws of the craft are; numbers of the craft say that they are estimates, all else its source.
LAWS = [path for path in PYTHON if path.parent.name in ("hardening", "mixing", "colour")]


def test_a_law_has_a_source():
    said = [path for path in LAWS if path.name != "__init__.py"]
    assert [path for path in said if not re.search("Source|craft estimate", path.read_text())] == []


# What they give is tested against published values at length; an example would need a page.
WITHOUT_EXAMPLE = {"blended", "judge", "nearest", "wave_kept", "wave_window", "solved", "solve_reference"}


def test_a_law_has_an_example():
    assert wrong(LAWS, without_example) == {}


def without_example(path):
    laws = (function for function in public_functions(path) if function.name not in WITHOUT_EXAMPLE)
    return [law.name for law in laws if ">>>" not in (ast.get_docstring(law) or "")]


PASSING = {"found", "made", "told", "own", "here", "one"}  # names that say nothing of what they hold
INNER = (ast.FunctionDef, ast.Lambda, ast.ListComp, ast.SetComp, ast.DictComp, ast.GeneratorExp)


def test_what_lasts_is_named_by_what_it_holds():
    assert wrong(PYTHON, lasting) == {}


def lasting(path):
    for function in functions(path):
        inside = {id(part) for node in ast.walk(function) if node is not function and isinstance(node, INNER)
                  for part in ast.walk(node)}  # fmt: skip
        lines = {}
        for node in ast.walk(function):
            name = getattr(node, "id", getattr(node, "arg", None))
            if name in PASSING and isinstance(node, ast.Name | ast.arg) and id(node) not in inside:
                lines.setdefault(name, []).append(node.lineno)
        yield from (f"{function.name}: {name}" for name, at in lines.items() if max(at) - min(at) > 2)
