"""The shipped labels make sense, each by itself and together; the cautions cover their hazards."""

import pytest
from pydantic import ValidationError

from isostasis.core.catalogue import Bench, Caution, Material, Mix, Part, Reacts, shipped
from isostasis.core.colour.light import lab
from isostasis.core.fault import Fault, Faults, fault
from isostasis.core.figure import Figure, Term, at_path, to_jsonable
from isostasis.core.hardening.climate import Climate
from isostasis.core.hardening.layer import heat_from_label
from isostasis.core.lifts.colours import colour_of
from isostasis.core.lifts.kinds.pour.heat import by_heat
from isostasis.core.lifts.labels import Labels

LABELS = shipped()
RESINS = sorted(mix for mix in LABELS.mixes if LABELS.mixes[mix].reacts)


def test_what_files_may_count_on_is_there():
    assert {"water", "plaster", "white-glue", "acrylic-sealer", "gloss-varnish", "acrylic-ink-blue", "acrylic-ink-teal",
            "foam-xps", "foam-eps", "plywood-9", "hardboard-3"} <= set(LABELS.materials)  # fmt: skip
    assert {
        "paper-plaster",
        "plaster-2-3",
        "glue-water-1-1",
        "coating-resin",
        "day-resin",
        "casting-resin",
        "deep-resin",
    } <= set(LABELS.mixes)


@pytest.mark.parametrize(("name", "ratio", "hours", "depth"), [
    ("coating-resin", (1, 1), 8, 6), ("day-resin", (1, 1), 16, 10), ("casting-resin", (2, 1), 24, 12), ("deep-resin", (2, 1), 48, 50),
])  # fmt: skip
def test_resins_are_as_the_format_promises(name, ratio, hours, depth):
    mix = LABELS.mixes[name]
    assert tuple(part.parts for part in mix.ingredients) == ratio
    assert mix.basis == "volume"
    assert (mix.reacts.hard_h, mix.reacts.max_depth_mm, mix.reacts.temp_c) == (hours, depth, 23)


@pytest.mark.parametrize("entry", [*LABELS.materials.values(), *LABELS.mixes.values()], ids=lambda one: one.id)
def test_every_entry_says_where_its_values_come_from(entry):
    assert len(entry.source) > 8
    assert entry.name[0].isupper()


@pytest.mark.parametrize("material", LABELS.materials.values(), ids=lambda one: one.id)
def test_materials_make_sense(material):
    assert 0.01 < material.density < 3
    assert material.particle_density is None or material.particle_density > material.density
    if material.family in ("foam", "board"):
        assert material.thermal is not None
        assert material.thickness_mm is not None
    if material.family in ("binder", "seal", "varnish", "colour") and not material.weighed:
        assert material.dries is not None
        assert material.film_mm is not None
        assert 0.1 < material.dries.solids < 0.7
    if material.family == "resin":
        assert {part for part, _ in material.part_density} == {"A", "B"}
        assert "resin" in material.hazards
    if material.hemihydrate:
        assert {"plaster", "dust"} <= set(material.hazards)


def test_every_hazard_has_a_caution_with_its_reason():
    named = {hazard for material in LABELS.materials.values() for hazard in material.hazards}
    # A flame comes of how bubbles are burst, drips of how a fall is draped, not of a tin.
    assert named | {"flame", "drips"} == {caution.hazard for caution in LABELS.rules.cautions}
    for caution in LABELS.rules.cautions:
        assert len(caution.text) < 130
        assert caution.reason.endswith(".")
    assert len({caution.code for caution in LABELS.rules.cautions}) == len(LABELS.rules.cautions)


def test_mixes_name_materials_that_there_are():
    for mix in LABELS.mixes.values():
        assert {part.material for part in mix.ingredients} <= set(LABELS.materials)


@pytest.mark.parametrize("name", RESINS)
def test_a_labels_own_depth_at_its_own_temperature_is_one_lift(name):
    mix = LABELS.mixes[name]
    heat = heat_from_label(mix.reacts, mix.thermal)
    assert 100 <= heat.j_g <= 450
    thick_foam = (
        (4.0, LABELS.mixes["paper-plaster"].thermal),
        (75.0, LABELS.materials["foam-xps"].thermal),
        (9.0, LABELS.materials["plywood-9"].thermal),
    )
    split = by_heat(mix.reacts.max_depth_mm, thick_foam, mix, mix.reacts, Climate((0.0,), (23.0,), (0.5,)))
    assert split.depths == (mix.reacts.max_depth_mm,)
    more = by_heat(mix.reacts.max_depth_mm * 1.01, thick_foam, mix, mix.reacts, Climate((0.0,), (23.0,), (0.5,)))
    assert len(more.depths) == 2
    assert sum(more.depths) == pytest.approx(mix.reacts.max_depth_mm * 1.01)


def test_hazards_of_a_mix_come_from_what_is_in_it():
    labels = Labels(LABELS.materials, LABELS.mixes)
    assert labels.hazards(LABELS.mixes["casting-resin"]) == {"resin"}
    assert labels.hazards(LABELS.mixes["glue-water-1-1"], ("plaster",)) == {"plaster", "dust", "slurry"}


@pytest.mark.parametrize("broken", [
    lambda: Reacts(hard_h=8, max_depth_mm=6, working_min=25, gel=0.9),
    lambda: Reacts(hard_h=0, max_depth_mm=6, working_min=25),
    lambda: Reacts(hard_h=2, max_depth_mm=6, working_min=300),
    lambda: Bench(cup_ml=0),
    lambda: Bench(mugs=3),
    lambda: Mix(id="m", name="M", family="skin", ingredients=(), source="x"),
    lambda: Mix(id="m", name="M", family="skin", ingredients=(Part(material="water", parts=0),), source="x"),
    lambda: Material(id="a b", name="M", family="water", density=1, source="x"),
    lambda: Material(id="m", name="M", family="water", density=float("inf"), source="x"),
    lambda: Caution(code="c", hazard="h", text="t"),
])  # fmt: skip
def test_labels_that_make_no_sense_are_refused(broken):
    with pytest.raises(ValidationError):
        broken()


def test_labels_are_frozen():
    with pytest.raises(ValidationError):
        LABELS.materials["water"].density = 2


def test_figures_become_plain_data():
    figure = Figure(3.5, "ml", "a law", (Term("part", 2, "ml"),), 3, 4)
    assert to_jsonable({"a": figure, "b": [figure, None], "c": (1, "x")}) == {"a": 3.5, "b": [3.5, None], "c": [1, "x"]}
    assert figure.term("in place") == Term("in place", 3.5, "ml")
    never = Figure(None, "h", code="wont-dry")
    assert to_jsonable(never) is None
    assert never.term("dry").value == "wont-dry"
    with pytest.raises(ValueError, match="wont-dry"):
        _ = never.number


def test_paths_lead_through_dicts_tuples_and_dataclasses():
    figure = Figure(1, "ml", working=(Term("x", 2),))
    assert at_path({"a": (figure,)}, "a.0.working.0.value") == 2
    for wrong in ("b", "a.1", "a.-1", "a.0.nothing", "a.0.unit.more", "a.x"):
        with pytest.raises(KeyError):
            at_path({"a": (figure,)}, wrong)


def test_faults_read_as_sentences():
    faults = Faults(
        [Fault("base.width_mm", "0 does not fit", "it must be above 0"), Fault("name", "is missing", "add it")]
    )
    assert str(faults).splitlines() == ["base.width_mm: 0 does not fit; it must be above 0", "name: is missing; add it"]
    assert str(fault("a", "b", "c")) == "a: b; c"


def test_pale_grout_makes_sand_paler_and_dark_grout_darker():
    plain, pale, dark = (lab(colour_of(LABELS.mixes[name], LABELS))[0] for name in ("sand", "sand-pale", "sand-dark"))
    assert dark < plain < pale


def test_a_changed_copy_of_an_entry_has_a_hash_of_its_own():
    mix = LABELS.mixes["casting-resin"]
    known = hash(mix)
    changed = mix.model_copy(update={"name": "Another"})
    assert hash(changed) != known == hash(Mix.model_validate(mix.model_dump()))
