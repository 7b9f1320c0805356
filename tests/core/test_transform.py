"""Forms moved, turned, scaled, mirrored: together they keep their places to each other, and there and back is the same."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from isostasis.core.document.transform import box_of, places_of, transformed
from isostasis.core.fault import Faults
from isostasis.core.reading import read
from tests.support.scenes import square

IDS = ["pond", "isle", "brook", "hollow"]


def scene():
    return read({
        "isostasis": 1, "name": "Board", "grid_mm": 5, "base": {"width_mm": 600, "depth_mm": 400},
        "forms": [
            {"id": "foam", "kind": "sheet", "outline": square(0, 0, 600, 400), "thickness_mm": 25},
            {"id": "pond", "kind": "basin", "outline": square(220, 150, 300, 210), "depth_mm": 9},
            {"id": "isle", "kind": "mound", "outline": square(310, 160, 350, 200), "crown_mm": 9},
            {"id": "brook", "kind": "channel", "path": [[200, 180], [220, 180]], "width_mm": 12, "depth_mm": 4},
            {"id": "hollow", "kind": "dips", "outline": square(250, 220, 300, 250), "dips": [[270, 230, 3]]},
        ],
    })  # fmt: skip


def apart(document):
    """Distances between all places of the four."""
    places = np.array([place for form in document.forms[1:] for place in places_of(form)])
    return np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1))


@given(st.sampled_from(["shift", "turn", "mirror-x", "mirror-y"]), st.floats(-170, 170), st.floats(-100, 100))
@settings(max_examples=40)
def test_they_keep_their_places_to_each_other_and_come_back(how, by, up):
    begun = scene()
    moved = transformed(begun, IDS, how, (by, up))
    assert np.allclose(apart(moved), apart(begun), atol=0.01)
    west, south, east, north = box_of(moved.forms[1:])
    assert west >= -1e-3 and south >= -1e-3 and east <= 600.001 and north <= 400.001
    back = transformed(moved, IDS, how, (-by, -up))
    off = [np.array(places_of(one)).mean(axis=0) - np.array(places_of(other)).mean(axis=0)
           for one, other in zip(back.forms[1:], begun.forms[1:], strict=True)]  # fmt: skip
    assert np.ptp(off, axis=0).max() < 0.02  # the same, but for where the base has held it
    assert moved.forms[0] == begun.forms[0]


def test_turning_a_quarter_and_scaling_by_half():
    turned = transformed(scene(), ["pond"], "turn", (90, 0)).forms[1]
    assert box_of([turned]) == pytest.approx((230, 140, 290, 220)) and turned.depth_mm == 9
    small = transformed(scene(), IDS, "scale", (0.5, 0))
    assert Polygon(small.forms[1].outline).area == pytest.approx(40 * 30) and small.forms[3].width_mm == 6
    assert small.forms[4].dips[0][2] == 3


def test_what_would_stand_out_moves_back_on_to_the_base():
    moved = transformed(scene(), ["pond"], "shift", (500, -400)).forms[1]
    assert box_of([moved]) == (520, 0, 600, 60)


@pytest.mark.parametrize(("ids", "how", "by", "sentence"), [
    (["gone"], "shift", 1, "no longer there"),
    (["pond"], "scale", 0, "0.05 to 20 times"),
    (["pond"], "scale", 15, "leaves the base"),
])  # fmt: skip
def test_what_cannot_be_is_told(ids, how, by, sentence):
    from isostasis.core.document.read import check

    with pytest.raises(Faults, match=sentence):
        check(transformed(scene(), ids, how, (by, 0)))


def test_a_grid_lies_as_it_was_measured():
    from isostasis.core.ground.forms.survey import Grid

    grid = Grid.of(np.full((4, 4), 20.0), 5.0)
    document = read({"isostasis": 1, "name": "B", "base": {"width_mm": 600, "depth_mm": 400},
                     "forms": [{"id": "grid", "kind": "survey", "grid": grid.model_dump()}]})  # fmt: skip
    with pytest.raises(Faults, match="lies as it was measured"):
        transformed(document, ["grid"], "turn", (10, 0))
