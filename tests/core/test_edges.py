"""Documents at the edge of what can be: planned, or refused with a sentence; never a traceback."""

import pytest

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.fault import Faults
from isostasis.core.plan import plan
from isostasis.core.reading import read
from tests.support.scenes import DATA


def planned(name):
    return plan(resolve(read((DATA / f"{name}.json").read_bytes()), shipped()))


@pytest.mark.parametrize(("name", "said"), [("fix-empty", "covers no ground"), ("skin-thick", "binds")])
def test_what_cannot_be_is_refused_with_a_sentence(name, said):
    with pytest.raises(Faults, match=said):
        planned(name)


def test_a_pour_that_its_bed_drinks_whole_is_planned_and_told():
    gel = planned("gel-drunk").lifts["w"]
    assert gel.pools == ()
    assert gel.drunk_ml.number == gel.volume_ml.number == 10
    assert "drunk-whole" in {notice.code for notice in gel.warnings}
