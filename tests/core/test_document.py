"""Reading documents: what is right goes through unchanged, what is wrong is said where, what, and what would be right."""

import copy
import json
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.fault import Faults
from isostasis.core.plan import plan
from isostasis.core.reading import json_schema, read
from tests.support.scenes import resolved, scene_data, square


def change(data, path, value):
    """A copy of the data with one place changed; a value of `...` takes the key away."""
    data = copy.deepcopy(data)
    here = data
    for name in path[:-1]:
        here = here[name]
    if value is ...:
        del here[path[-1]]
    else:
        here[path[-1]] = value
    return data


WATER = ("patches", 0, "lifts", 2)
WRONG = [
    (("isostasis",), 2, "isostasis: document version 2 is not known; write \"isostasis\": 1"),
    (("isostasis",), ..., "isostasis: is missing"),
    (("name",), "", "name: "),
    (("colour",), 1, "colour: is not a key that is known here; leave it out or correct its spelling"),
    (("base", "width_mm"), 0, "base.width_mm: 0 does not fit; it must be above 0"),
    (("base", "width_mm"), -3, "it must be above 0"),
    (("base", "width_mm"), "wide", "base.width_mm: \"wide\" does not fit; write a number"),
    (("base", "width_mm"), 1e9, "it must be at most 20000"),
    (("base", "depth_mm"), ..., "base.depth_mm: is missing; add it"),
    (("base", "dammed"), ["up"], "base.dammed[0]: \"up\" does not fit; write 'north'"),
    (("base", "dam_mm"), -1, "base.dam_mm"),
    (("base", "outline"), {"disc_mm": 900}, "a disc of 900 mm does not fit"),
    (("base", "joints_x_mm"), [400], "a joint lies outside the board"),
    (("base", "board"), "oak", "base.board: there is no material 'oak'; one of"),
    (("room", "rh"), 40, "room.rh: a humidity of 40 is above 1; 40 percent is written 0.4"),
    (("room", "rh"), -0.1, "outside 0 to 1"),
    (("room", "temp_c"), 400, "room.temp_c: 400 does not fit; it must be at most 50"),
    (("room", "temp_c"), float("nan"), "room.temp_c: is not a finite number"),
    (("grid_mm",), 0, "grid_mm: 0 does not fit; it must be at least 0.1"),
    (("grid_mm",), 90, "fewer than 4 cells"),
    (("copies",), 0, "copies: 0 does not fit; it must be at least 1"),
    (("forms", 0, "kind"), "ramp", "forms[0].path: is missing; add it"),
    (("forms", 0, "kind"), "hill", "forms[0].kind: 'hill' is no kind that is known here; write one of sheet, mound, ramp, rim, basin, "),
    (("forms", 0, "kind"), ..., "forms[0].kind: is missing; write one of sheet, mound, ramp, rim, basin, "),
    (("forms", 0, "thickness_mm"), 0, "forms[0].thickness_mm: 0 does not fit; it must be above 0"),
    (("forms", 0, "thicknes"), 3, "forms[0].thicknes: is not a key"),
    (("forms", 0, "outline"), [[0, 0], [10, 0]], "forms[0].outline: [[0, 0], [10, 0]] does not fit; give at least 3"),
    (("forms", 0, "outline"), [[0, 0], [100, 100], [100, 0], [0, 100]], "the outline crosses itself near 50, 50"),
    (("forms", 0, "outline"), [[0, 0], [9, 0], [9, 9], [0, 0]], "the point 0, 0 stands twice"),
    (("forms", 0, "outline"), [[0, 0], [9, 0], [20, 0]], "forms[0].outline: "),
    (("forms", 0, "outline"), square(0, 0, 400, 50), "forms[0].outline: the outline leaves the base at 400, 0"),
    (("forms", 1, "id"), "slab", "forms[1].id: 'slab' is already the id of forms[0]; give it another"),
    (("forms", 0, "id"), "a.b", "forms[0].id: \"a.b\" does not fit"),
    (("forms", 2, "bank_deg"), 95, "forms[2].bank_deg: 95 does not fit; it must be at most 90"),
    (("forms", 0, "material"), "foam-xp", "forms[0].material: there is no material 'foam-xp'; did you mean 'foam-xps'?"),
    (("patches", 0, "area"), {}, "patches[0].area: does not say which area it means"),
    (("patches", 0, "area"), {"face_mm2": 0}, "patches[0].area.face_mm2: 0 does not fit; it must be above 0"),
    (("patches", 0, "area"), {"steeper_deg": 95}, "patches[0].area.steeper_deg: 95 does not fit; it must be below 90"),
    (("patches", 0, "area"), {"near": "slap", "within_mm": 5}, "there is no 'slap' to be near to; write one of bank, edge"),
    (("patches", 0, "area"), {"near": "slab", "within_mm": 0}, "within_mm: 0 does not fit; it must be above 0"),
    (("gates",), [{"id": "van", "name": "Van", "blocks": []}], "gates[0].blocks: [] does not fit; give at least 1"),
    (("gates",), [{"id": "van", "name": "Van", "blocks": ["stone"]}],
     "gates[0].blocks: there is no 'stone' that could wait; name a lift or a form of this scene"),
    (("forms", 0, "place"), "shed", "forms[0].place: there is no place 'shed'; add it to `places` first"),
    (("places",), [{"id": "yard", "name": "Yard", "hours": "daily"}],
     "places[0]: “daily” is no day with its hours; write something like"),
    (("protect",), [{"id": "rails", "name": "Rails", "path": [[0, 5], [300, 5]]}], "protect[0]: a path has a width"),
    (("protect",), [{"id": "rails", "name": "Rails"}], "protect[0]: it needs an outline, or a path with its width"),
    (("protect",), [{"id": "slab", "name": "Slab", "outline": square(0, 0, 9, 9)}], "'slab' is already the id of forms[0]"),
    (("flats",), [{"id": "way", "name": "Way", "path": [[0, 5], [400, 5]], "width_mm": 9, "flat_mm": 1}],
     "flats[0].path: the path leaves the base at 400, 5; keep every point on the base"),
    (("flats",), [{"id": "way", "name": "Way", "outline": square(0, 0, 9, 9), "flat_mm": 0}], "flats[0].flat_mm: 0"),
    (("forms", 0, "after"), "nothing", "forms[0].after: 'nothing' is no lift of this scene; name the lift"),
    (("forms", 2), {"id": "r", "kind": "ramp", "path": [[0, 5], [9, 5]], "width_mm": 5, "start_mm": 5},
     "forms[2]: a ramp needs end_mm or grade; give just one of them"),
    (("forms", 2), {"id": "r", "kind": "ramp", "path": [[0, 5], [0, 5]], "width_mm": 5, "start_mm": 5, "end_mm": 9},
     "forms[2].path: the path stands still at 0, 5; leave out the repeated point"),
    (("forms", 2), {"id": "r", "kind": "rim", "width_mm": 5, "height_mm": 5}, "a rim needs a path or a closed outline"),
    (("forms", 2), {"id": "s", "kind": "survey"}, "a survey needs points or a grid; give just one of them"),
    (("forms", 2), {"id": "s", "kind": "survey", "points": [[0, 0, 1], [5, 5, 1], [9, 9, 2]]}, "the spots lie on one line"),
    (("forms", 2), {"id": "s", "kind": "survey", "points": [[0, 0, 1], [5, 5, 1], [5, 5, 2]]}, "have the same place, x 5 y 5 mm"),
    (("forms", 2), {"id": "s", "kind": "survey", "grid": {"columns": 9, "rows": 9, "cell_mm": 5, "step_mm": 1,
     "heights": "eNpjYAAAAAIAAQ=="}}, "the heights are fewer than 9 x 9"),
    (("forms", 2), {"id": "s", "kind": "survey", "grid": {"columns": 9, "rows": 9, "cell_mm": 5, "step_mm": 1,
     "heights": "no grid"}}, "the heights are no packed grid; import the grid's file again"),
    (("forms", 2), {"id": "s", "kind": "survey", "grid": {"columns": 4000, "rows": 4000, "cell_mm": 5, "step_mm": 1,
     "heights": ""}}, "a grid of 4000 x 4000 has 16,000,000 heights, more than 4,000,000; thin it out"),
    (("patches", 0, "area"), {"rest": True}, "patches[1].area: a second patch takes the rest"),
    (("patches", 0, "lifts", 0, "kind"), "mud", "'mud' is no kind that is known here; write one of shell, skin, texture,"),
    (("patches", 0, "lifts", 0, "mix"), "paper-plast", "did you mean 'paper-plaster'?"),
    (("patches", 0, "lifts", 0, "after"), ["nobody"], "'nobody' is no other lift of this scene"),
    (("patches", 0, "lifts", 0, "after"), ["tarn-water"], "wait for each other in a circle"),
    (("patches", 0, "lifts", 1, "mix"), "glue-water-1-1", "a coat needs a material or a mix; name one of the two"),
    (("patches", 0, "lifts", 1, "coats"), 1.5, "patches[0].lifts[1].coats"),
    ((*WATER, "depth_mm"), 3, "a pour needs one of level_mm, depth_mm and volume_ml; give just one"),
    ((*WATER, "at_mm"), [5, 5], "at_mm goes with volume_ml; leave it out"),
    ((*WATER, "lifts"), "some", "patches[0].lifts[2].lifts"),
    ((*WATER, "tint"), [{"material": "tea", "drops_per_100_ml": 1}], "tint[0].material: there is no material 'tea'"),
    (("mixes",), [{"id": "m", "name": "m", "family": "resin", "source": "x", "ingredients": [
        {"material": "water", "parts": 0}, {"material": "plaster", "parts": 0}]}],
     "mixes[0]: a ratio of 0:0 mixes nothing; at least one part must be above 0"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value", "sentence"), WRONG, ids=lambda one: str(one)[:48])
def test_what_is_wrong_is_told(tarn, path, value, sentence):
    data = change(tarn, path, value)
    with pytest.raises(Faults) as refused:
        resolve(read(data), shipped())
    assert sentence in str(refused.value)
    assert "[type=" not in str(refused.value)
    assert not re.search(r"(above|below|least|most) \d+\.0\b", str(refused.value))


PLAN_WRONG = [
    ((*WATER, "level_mm"), 60, "patches[0].lifts[2].level_mm: 60 mm stands above the lip: from 30 mm up it runs over the "
                               "open west edge", "at most 30 mm, or dam the west edge"),
    ((*WATER, "level_mm"), 5, "5 mm fills nothing: the lowest ground of Tarn stands at 18 mm", "above 18 and at most 30 mm"),
    ((*WATER, "lifts"), [2, 2], "they add up to 4 mm, but the pool is 6 mm deep", "make them add up to 6"),
    ((*WATER, "mix"), "paper-plaster", "'paper-plaster' neither reacts nor is it poured in coats", "name a two-part resin"),
    (("forms", 2, "depth_mm"), 30, "forms[2].depth_mm: 30 mm cuts through the board", "at most 25"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value", "what", "right"), PLAN_WRONG, ids=lambda one: str(one)[:40])
def test_what_the_ground_cannot_hold_is_told(tarn, path, value, what, right):
    with pytest.raises(Faults) as refused:
        plan(resolved(change(tarn, path, value)))
    assert what in str(refused.value)
    assert right in str(refused.value)


def test_a_huge_fine_board_is_refused_before_memory_is_touched(tarn):
    data = change(change(tarn, ("base", "width_mm"), 10_000_000), ("grid_mm",), 1)
    with pytest.raises(Faults, match=r"base\.width_mm: 10000000 does not fit; it must be at most 20000"):
        read(data)
    data = change(change(change(tarn, ("base", "width_mm"), 20_000), ("base", "depth_mm"), 20_000), ("grid_mm",), 1)
    with pytest.raises(Faults, match=r"400,000,000 cells, more than 4,000,000; a grid_mm of 10 or more would do"):
        read(data)


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("{", "line 1, column 2: this is no JSON"),
        ("[1]", "not an object"),
        ('{"isostasis": 1, "isostasis": 1}', "the key 'isostasis' stands twice"),
        (b"\xc3\x28", "no text in UTF-8"),
        ("[" * 100_000, "nested too deep"),
        ('{"isostasis": 1, "name": ' + "[" * 100_000 + "]" * 100_000 + "}", "nested too deep"),
        ('{"isostasis": 1, "n": ' + "9" * 5000 + "}", "thousands of figures"),
        ('{"isostasis": true}', "document version true is not known"),
    ],
)
def test_broken_text_is_told(text, sentence):
    with pytest.raises(Faults) as refused:
        read(text)
    assert sentence in str(refused.value)


def test_all_faults_are_told_at_once(tarn):
    data = change(change(tarn, ("room", "rh"), 40), ("forms", 0, "thickness_mm"), -1)
    with pytest.raises(Faults) as refused:
        read(data)
    assert len(refused.value.faults) == 2


def test_the_example_of_the_format_is_read_and_resolved():
    scene = resolved(scene_data("tarn"))
    assert [lift.kind for lift in scene.patches[1].lifts] == ["shell", "texture", "fix"]


def test_defaults(tarn):
    small = read({"isostasis": 1, "name": "A", "base": {"width_mm": 299, "depth_mm": 100}})
    large = read({"isostasis": 1, "name": "B", "base": {"width_mm": 300, "depth_mm": 100}})
    assert (small.cell_mm, large.cell_mm) == (2, 5)
    assert read(change(tarn, ("base", "dammed"), "all")).base.dammed == ("all",)


def test_resolving_embeds_every_label_and_is_stable(tarn):
    scene = resolved(tarn)
    assert {mix.id for mix in scene.mixes} == {"paper-plaster", "casting-resin"}
    assert {"water", "paper-fibre-powder", "acrylic-ink-blue", "plywood-9", "foam-xps"} <= {
        one.id for one in scene.materials
    }
    written = scene.model_dump(mode="json", exclude_none=True)
    again = resolve(read(json.loads(json.dumps(written))), shipped())
    assert again == scene


def test_the_documents_own_labels_win(tarn):
    own = shipped().mixes["casting-resin"].model_dump(mode="json", exclude_none=True)
    own["reacts"]["hard_h"] = 10
    quick = plan(resolved({**tarn, "mixes": [own]}))
    assert quick.lifts["tarn-water"].hours.full.number < plan(resolved(tarn)).lifts["tarn-water"].hours.full.number


def test_the_published_schema_is_up_to_date():
    published = json.loads((Path(__file__).parents[2] / "docs" / "scene.schema.json").read_text("utf-8"))
    assert published == json_schema()


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=8),
        lambda inner: (
            st.lists(inner, max_size=3)
            | st.dictionaries(
                st.sampled_from(
                    ["isostasis", "name", "base", "forms", "patches", "kind", "outline", "lifts", "area", "rest", "id"]
                ),
                inner,
                max_size=5,
            )
        ),
        max_leaves=20,
    )
)
def test_no_data_breaks_the_reader(data):
    try:
        read({"isostasis": 1, "name": "x", "base": {"width_mm": 100, "depth_mm": 100}, "forms": data, "patches": data})
    except Faults as faults:
        assert all(fault.where and fault.what and fault.right for fault in faults.faults)


def test_of_thousands_of_faults_the_first_are_told():
    flats = [{"id": f"f{number}", "moods": 1} for number in range(900)]
    with pytest.raises(Faults) as refused:
        read({"isostasis": 1, "name": "A", "base": {"width_mm": 100, "depth_mm": 80}, "flats": flats})
    assert len(refused.value.faults) == 101
    assert "more faults stand in it; mend these first" in str(refused.value)
