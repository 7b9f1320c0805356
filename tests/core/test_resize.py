"""Another size for the base: what lies beyond is cut off there, or drawn in; nothing else moves."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from isostasis.core.document.edit import written
from isostasis.core.document.resize import beyond, resized
from isostasis.core.fault import Faults
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.demo import SCENES, document
from tests.support.scenes import resolved, square


def board(**more):
    return {
        "isostasis": 1, "name": "Board", "grid_mm": 5, "base": {"width_mm": 400, "depth_mm": 200, "joints_x_mm": [100, 300]},
        "forms": [
            {"id": "foam", "kind": "sheet", "outline": square(0, 0, 400, 200), "thickness_mm": 25},
            {"id": "low", "kind": "sheet", "outline": square(20, 20, 120, 120), "thickness_mm": 5},
            {"id": "long", "kind": "sheet", "outline": square(150, 20, 350, 120), "thickness_mm": 5},
            {"id": "far", "kind": "mound", "outline": square(310, 130, 390, 190), "crown_mm": 9},
            {"id": "brook", "kind": "channel", "path": [[10, 150], [390, 160]], "width_mm": 12, "depth_mm": 4},
            {"id": "dug", "kind": "dips", "outline": square(160, 125, 290, 145), "dips": [[170, 135, 3], [280, 135, 4]]},
        ],
        "patches": [
            {"id": "edge", "name": "Edge", "area": {"outline": square(320, 20, 390, 60)}},
            {"id": "rest", "name": "Rest", "area": {"rest": True}},
        ],
        "flats": [{"id": "way", "name": "Way", "path": [[0, 180], [400, 180]], "width_mm": 10, "flat_mm": 1}],
        **more,
    }  # fmt: skip


def test_cut_off_at_the_new_edge():
    scene = read(board())
    assert beyond(scene, 280, 200) == ["Long", "Far", "Brook", "Dug", "Edge", "Way"] and beyond(scene, 400, 250) == []
    out = resized(scene, 280, 200, "cut")
    forms = {form.id: form for form in out.forms}
    assert set(forms) == {"foam", "low", "long", "brook", "dug"} and [one.id for one in out.patches] == ["rest"]
    assert set(forms["foam"].outline) == {(0, 0), (280, 0), (280, 200), (0, 200)}
    assert forms["low"].outline == scene.forms[1].outline and forms["brook"].path == scene.forms[4].path
    assert Polygon(forms["long"].outline).area == 130 * 100 and forms["dug"].dips == ((170, 135, 3), (280, 135, 4))
    assert out.flats[0].path == ((0, 180), (280, 180)) and out.base.joints_x_mm == (100,)
    plan(resolved(written(out)))


def test_drawn_in_with_the_board():
    out = resized(read(board()), 200, 200, "scale")
    assert len(out.forms) == 6 and out.base.joints_x_mm == (50, 150)
    assert out.forms[3].outline[0] == (155, 130) and out.forms[5].dips[0] == (85, 135, 3)
    assert out.forms[3].crown_mm == 9 and out.patches[0].area.outline[0] == (160, 20)
    plan(resolved(written(out)))


def test_a_larger_board_keeps_everything_and_its_foam_grows():
    out = resized(read(board()), 500, 300, "cut")
    assert out.forms[0].outline[2] == (500, 300) and out.forms[1:] == read(board()).forms[1:]


def test_a_round_base_and_a_drawn_one():
    rim = {"width_mm": 400, "depth_mm": 200, "outline": {"disc_mm": 180}}
    assert resized(read(board(base=rim, forms=[], flats=[], patches=[])), 150, 200, "cut").base.outline.disc_mm == 150
    drawn = {"width_mm": 400, "depth_mm": 200, "outline": square(0, 0, 390, 200)}
    assert {
        x for x, _ in resized(read(board(base=drawn, forms=[], flats=[], patches=[])), 300, 200, "cut").base.ring
    } == {0, 300}


def test_a_pour_keeps_its_place_only_on_the_board(pond):
    pond["patches"][0]["lifts"][0] |= {"at_mm": [240, 100], "volume_ml": 30}
    pond["patches"][0]["lifts"][0].pop("level_mm", None)
    cut = resized(read(pond), 220, 200, "cut")
    assert cut.patches[0].lifts[0].at_mm is None
    assert resized(read(pond), 150, 200, "scale").patches[0].lifts[0].at_mm == (120, 100)


@given(st.sampled_from(SCENES), st.floats(0.5, 1.5), st.floats(0.5, 1.5), st.sampled_from(["cut", "scale"]))
@settings(max_examples=30)
def test_nothing_lies_beyond_afterwards(name, across, along, way):
    scene = read(document(name))
    width, depth = round(scene.base.width_mm * across, 1), round(scene.base.depth_mm * along, 1)
    try:
        out = resized(scene, width, depth, way)
    except Faults as told:
        assert str(told)
        return
    runs_out = {form.title for form in out.forms if form.kind == "channel"}
    assert set(beyond(out, width, depth)) <= runs_out
    assert written(resized(out, width, depth, way)) == written(out)


def test_what_would_be_no_board_is_told():
    with pytest.raises(Faults, match="fewer than 4 cells"):
        resized(read(board()), 15, 200, "cut")
