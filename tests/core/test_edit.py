"""Documents are changed in one place: ids that nothing has, lists that keep their order, references that never dangle."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isostasis.core.catalogue import shipped
from isostasis.core.document import edit
from isostasis.core.document.read import check
from isostasis.core.fault import Faults
from isostasis.core.reading import read
from isostasis.demo import SCENES, document
from tests.support.scenes import scene_data

BLEND = {
    "name": "Sea", "family": "colour", "mass": False, "water_ratio": None,
    "ingredients": [{"material": "paint-white", "parts": 1}],
}  # fmt: skip


def tarn():
    return read(scene_data())


@given(
    stem=st.sampled_from(["tarn", "hole", "white-glue", "casting-resin", "new", "flat", "x" * 64]),
    turns=st.integers(1, 4),
)
def test_an_id_is_never_given_twice(stem, turns):
    scene, catalogue = tarn(), shipped()
    for _ in range(turns):
        name = edit.new_id(scene, catalogue, stem)
        assert name not in {*edit.ids(scene), *catalogue.materials, *catalogue.mixes}
        assert len(name) <= 64
        scene = edit.duplicate(scene, "forms", "hole", name)
    check(scene)


def test_an_id_of_any_list_is_taken():
    scene, catalogue = read(document("hollin-delf")), shipped()
    for name in edit.ids(scene):
        assert edit.new_id(scene, catalogue, name) != name


@pytest.mark.parametrize("part", ["flats", "protect"])
def test_a_second_place_is_kept(part):
    scene = tarn()
    for number in range(3):
        made = {"id": edit.new_id(scene, shipped(), "place"), "name": f"Place {number}",
                "outline": [[0, 0], [20, 0], [20, 20]], **({"flat_mm": 1} if part == "flats" else {})}  # fmt: skip
        scene = edit.add(scene, part, made)
    check(scene)
    assert [one.id for one in getattr(scene, part)] == ["place", "place-2", "place-3"]


def test_a_name_that_is_taken_comes_with_a_free_one():
    with pytest.raises(Faults, match="call it “sea 3”"):
        edit.refuse_taken("sea", ["Sea", "Sea 2"], "a blend")
    named = edit.duplicate(edit.rename(tarn(), "forms", "hole", "Hole"), "forms", "hole", "twin")
    with pytest.raises(Faults, match="already"):
        edit.rename(named, "forms", "twin", "hole")


@pytest.mark.parametrize("name", SCENES)
def test_what_is_not_touched_stays_itself(name):
    scene = read(document(name))
    form = scene.forms[-1]
    changed = edit.update(scene, "forms", form.id, {"name": "Other"})
    assert changed.forms[:-1] == scene.forms[:-1]
    assert changed.patches is scene.patches
    assert scene.forms[-1] is form
    assert edit.move(edit.move(scene, "forms", form.id, -1), "forms", form.id, 1) == scene
    order = [one.id for one in scene.forms]
    assert edit.reorder(edit.reorder(scene, "forms", order[::-1]), "forms", order) == scene
    with pytest.raises(Faults, match="each of them once"):
        edit.reorder(scene, "forms", order[1:])


def test_what_is_removed_is_waited_for_no_more():
    scene = tarn()
    waits = edit.update(scene, "lifts", "tarn-water", {"after": ["tarn-skin"]})
    freed = edit.remove(waits, "lifts", "tarn-skin")
    check(freed)
    assert edit.find(freed, "lifts", "tarn-water").after == ()
    with pytest.raises(Faults, match="no longer there"):
        edit.remove(freed, "lifts", "tarn-skin")


def test_written_and_read_is_the_same():
    for name in SCENES:
        scene = read(document(name))
        assert read(edit.written(scene)) == scene
