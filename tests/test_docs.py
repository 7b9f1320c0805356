"""Whatever has a name that people write or read stands in docs/."""

import re
from pathlib import Path

import pytest

from isostasis.cli import main
from isostasis.core.catalogue import shipped
from isostasis.core.ground.forms import FORM_MODELS
from isostasis.core.lifts.kinds import LIFT_MODELS
from isostasis.store.settings import Settings
from isostasis.web.shared.views import PLACES

ROOT = Path(__file__).parents[1]
DOCS = {path.name: path.read_text() for path in (ROOT / "docs").glob("*.md")}
ALL = "\n".join(DOCS.values())
RULES = shipped().rules
SOURCE = "\n".join(path.read_text() for path in (ROOT / "src" / "isostasis" / "core").rglob("*.py"))


def kind(model):
    return model.model_fields["kind"].default


@pytest.mark.parametrize("name", [kind(model) for model in (*FORM_MODELS, *LIFT_MODELS)])
def test_a_kind_is_described(name):
    assert f"`{name}`" in DOCS["formats.md"]


@pytest.mark.parametrize("name", ["Scenes", *(name for name, *_ in PLACES)])
def test_a_place_is_described(name):
    assert re.search(rf"\*\*{name}\*\*", DOCS["architecture.md"])


@pytest.mark.parametrize("name", sorted(main.commands))
def test_a_verb_is_described(name):
    assert f"`isostasis {name}" in DOCS["formats.md"]


@pytest.mark.parametrize("name", sorted(Settings.model_fields))
def test_a_setting_is_described(name):
    assert f"`{name}`" in DOCS["formats.md"]


CODES = sorted(
    {rule.code for rule in (*RULES.neighbours, *RULES.order)} | set(re.findall(r'Notice\(\s*"([a-z-]+)"', SOURCE))
)


@pytest.mark.parametrize("code", CODES)
def test_a_check_is_described(code):
    assert f"`{code}`" in DOCS["formats.md"]


def test_there_are_checks_to_describe():
    assert len(CODES) > 20


@pytest.mark.parametrize("path", [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").rglob("*.md"))])
def test_links_lead_somewhere(path):
    for target in re.findall(r"\]\(([^)#]+)\)", path.read_text()):
        assert "://" in target or (path.parent / target).exists(), target


@pytest.mark.parametrize("path", sorted((ROOT / "docs").glob("*.md")))
def test_paths_that_are_named_are_there(path):
    for name in re.findall(r"`((?:src|core|web|store|tests|tools|benchmarks)/[\w/.]+)`", path.read_text()):
        assert any(
            (base / f"{name}{end}").exists() for base in (ROOT, ROOT / "src" / "isostasis") for end in ("", ".py")
        )
