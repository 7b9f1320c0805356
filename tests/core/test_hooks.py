"""Every kind of lift answers every hook by itself; what is left out is found."""

from types import ModuleType

import pytest

from isostasis.core.document.scene import Lift
from isostasis.core.lifts.kinds import HOOKS, KINDS, LIFT_MODELS, TAGS, kind_of
from tests.support.hooks import missing


@pytest.mark.parametrize("kind", KINDS, ids=lambda one: one.__name__)
def test_a_kind_answers_every_hook(kind):
    assert missing(kind, HOOKS) == []
    assert [tag for tag in TAGS if tag not in vars(kind.MODEL)] == []


def test_the_base_gives_no_tag_by_itself():
    assert [tag for tag in TAGS if hasattr(Lift, tag)] == []


def test_a_hook_that_is_left_out_is_found():
    toy = ModuleType("isostasis.core.lifts.kinds.toy")
    vars(toy).update({name: vars(KINDS[0])[name] for name in HOOKS})
    assert "estimate" in missing(toy, HOOKS)  # that of another kind is none of its own
    vars(toy)["SOONEST"] = ""
    del vars(toy)["MODEL"]
    assert "MODEL" in missing(toy, HOOKS)
    assert "SOONEST" not in missing(toy, HOOKS)


def test_a_lift_leads_to_its_kind():
    assert len({model.model_fields["kind"].default for model in LIFT_MODELS}) == len(KINDS)
    for kind in KINDS:
        lift = kind.MODEL.model_construct(kind=kind.MODEL.model_fields["kind"].default)
        assert kind_of(lift) is kind
