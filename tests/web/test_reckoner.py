"""The reckoner's pages and its verb: the same figures, what if, and a scene that begins with a sum."""

import html
import json
import re

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.reckoner import SUMS
from isostasis.store import far, scenes
from tests.support.pages import document


def run(*words):
    return CliRunner().invoke(main, ["reckon", *words])


@pytest.mark.parametrize("name", sorted(SUMS))
def test_every_sum_has_a_page_with_its_answer(reader, name):
    page = reader.text(f"/reckon/{name}")
    assert SUMS[name].title in page and "how that comes" in page
    reader.get(f"/reckon/{name}/ifs")


def test_page_and_verb_give_the_same_figures(reader, database):
    page = reader.text("/reckon/pour?shape=bowl&width=80+mm&deep=12")
    told = json.loads(run("pour", "shape=bowl", "width=80mm", "deep=12", "--json", "--db", database.name).output)
    assert f"{told['value']:.1f} ml" in page and told["scene"]["forms"] and told["unit"] == "ml"
    holds = next(one for one in told["others"] if one["what"] == "the shape holds")
    assert holds["value"] == pytest.approx(31.064, rel=1e-4)


def test_what_cannot_be_is_told_on_the_page_and_nothing_breaks(reader):
    page = reader.text("/reckon/pour?width=wide&deep=8")
    assert "“wide” is no length" in page and "between 5 and 3000 mm" in page
    assert reader.text("/reckon/pour/ifs?width=wide") == ""
    assert "weaker" in reader.text("/reckon/stock?wanted=60&stock=50")
    reader.get("/reckon/nothing", 404)


def test_what_if_answers_beside(reader):
    told = reader.text("/reckon/pour/ifs?deep=8")
    assert "2 mm deeper" in told and "the room at 15 °C" in told and "ml" in told


def test_a_sum_becomes_a_scene_with_the_same_figure(reader, database):
    told = json.loads(run("pour", "width=150mm", "deep=6", "--json", "--db", database.name).output)
    answer = reader.post("/reckon/pour/scene", width="150 mm", deep="6")
    slug = answer.location.split("/")[2]
    with database.reading() as session:
        from isostasis.core.plan import plan

        made = plan(scenes.resolve(session, scenes.find(session, slug).head))
    assert made.lifts["pour"].mix_ml.value == pytest.approx(told["value"])
    reader.post("/reckon/mass/scene", 422)


def test_the_verb_lists_and_refuses_in_sentences(database):
    assert "pour      A pour on a plain shape" in run().output
    assert run("tea").exit_code == 2 and "no sum 'tea'" in run("tea").output
    assert run("pour", "wide").exit_code == 2
    assert "deepest: 9000 is outside" in run("pour", "deep=9000", "--db", database.name).output
    assert "to mix: " in run("parts", "total=1cup", "--db", database.name).output


def test_how_far_on_the_page_and_as_a_verb(reader, database, clock):
    page = reader.text("/reckon/far?mix=casting-resin&left=400+ml")
    assert " spots In this order" in page and "Pit lake" in page and "then buy this much" in page
    told = json.loads(
        CliRunner().invoke(main, ["far", "casting-resin", "400ml", "--json", "--db", database.name]).output
    )
    assert f"{len(told['done'])} of {len(told['done']) + len(told['left_out'])} spots" in page
    assert told["short_ml"] > 0 and sum(one["ml"] for one in told["done"]) <= 400.1
    assert "neither a mass nor a volume" in reader.text("/reckon/far?mix=casting-resin&left=tea")
    assert "outside 0 to" in reader.text("/reckon/far?mix=casting-resin&left=90000+ml")
    assert "too little for any spot" in reader.text("/reckon/far?mix=casting-resin&left=1+ml")
    assert "It is enough" in reader.text("/reckon/far?mix=casting-resin&left=9000+ml")
    with database.reading() as session:
        cup = far.in_cups(session, far.open_scenes(session, clock.at), "casting-resin")
    assert cup > 100 and f"by what is in the cup: {cup:.0f} ml" in page
    told = json.loads(CliRunner().invoke(main, ["far", "casting-resin", "cup", "--json", "--db", database.name]).output)
    assert told["there_ml"] == cup
    none = CliRunner().invoke(main, ["far", "tea", "--db", database.name])
    assert none.exit_code == 2 and "casting-resin" in none.output


def test_a_sum_becomes_a_lift_of_a_scene(reader, database):
    page = reader.get("/reckon/compound/spots").text
    assert "Kettle Fen, " in page
    before = document(database, "kettle-fen")[1]
    patch = before["patches"][0]
    reader.post("/reckon/compound/lift", to=f"kettle-fen/{patch['id']}", anyway="do")
    after = document(database, "kettle-fen")[1]["patches"][0]
    assert len(after["lifts"]) == len(patch["lifts"]) + 1
    assert after["lifts"][-1]["id"] not in {one["id"] for one in patch["lifts"]}
    assert "not there any more" in reader.post("/reckon/compound/lift", 422, to="kettle-fen/nowhere").text
    assert "is no lift" in reader.post("/reckon/mass/lift", 422, to=f"kettle-fen/{patch['id']}").text


def test_a_pour_in_a_traced_outline(reader):
    page = reader.get("/reckon/traced").text
    corners = html.unescape(re.search(r'outline=([^"]+)">Kettle Fen', page)[1])
    traced = reader.get(f"/reckon/traced?outline={corners}").text
    assert 'class="water"' in traced and "Start a scene from it" in traced
    for typed, said in (("0,0 10,0", "has 2 corners"), ("tea", "is no outline"), ("0,0 50,50 50,0 0,50", "crosses itself"),
                        ("0,0 9000,0 0,50", "3000 at most"), ("0,0 nan,0 0,5", "3 corners")):  # fmt: skip
        assert said in html.unescape(reader.get(f"/reckon/traced?outline={typed}").text)


def test_a_part_is_told_once_and_its_mass_has_its_working(reader):
    page = reader.text("/reckon/pour")
    assert page.count("Casting resin, two-part, A ") == 1
    assert "164 g on a scale" in page and "on a scale: volume × density" in page
