"""Every kind of lift stands on the pages by itself, and its hatch is drawn."""

import re
from pathlib import Path

import pytest

import isostasis.web
from isostasis.core.lifts.kinds import LIFT_MODELS
from isostasis.web.layup.kinds import HOOKS, PAGES
from tests.support.hooks import missing

STYLES = Path(isostasis.web.__file__).parent / "static" / "css"


@pytest.mark.parametrize("page", PAGES, ids=lambda one: one.__name__)
def test_a_kind_answers_every_hook_of_the_pages(page):
    assert missing(page, HOOKS) == []


def test_each_kind_of_the_core_has_its_page():
    assert [page.KIND for page in PAGES] == [model.model_fields["kind"].default for model in LIFT_MODELS]


def test_each_hatch_has_its_rule():
    css = "".join(path.read_text() for path in STYLES.glob("*.css"))
    for page in PAGES:
        assert f".core-hatch-{page.HATCH} " in css
        assert re.search(rf"\.core-{page.HATCH}[ :]", css)
        assert not page.CUT_HATCH or re.search(rf"\.cut-{page.CUT_HATCH}[ :]", css)
