"""Find: everything that is kept and help, by the beginnings of words; every hit leads somewhere; nothing goes stale."""

import html
import re

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.core.document.edit import set_fields
from isostasis.store import finding, scenes
from isostasis.store.finding import Entry, Index
from isostasis.web.find.help import MET, PAGES
from isostasis.web.shared.help import GLOSSARY, PURPOSES


def hits(reader, asked):
    page = reader.get(f"/find?q={asked}").text
    found = re.findall(r'class="kind[^>]*>([^<]+)</span><strong>([^<]+)</strong>', page)
    return [(what, html.unescape(title)) for what, title in found]


@pytest.mark.parametrize(
    ("asked", "kind", "title"),
    [
        ("kettle", "scene", "Kettle Fen"), ("east+pond", "spot", "East pond water"), ("GLUE+wat", "mix", "Glue water, 1:1"),
        ("ballast+holds", "swatch", "What holds the ballast?"), ("floor+skin+batch", "batch", "Floor skin, batch 2"),
        ("knocked+bowl", "record", "Crust skin"), ("tacky", "help", "stays tacky or soft"), ("how+far", "help", "How far will it go"),
        ("touch", "help", "Touch"), ("backup", "help", "Everything in one file"), ("teal", "material", "Acrylic ink, teal"),
    ],
)  # fmt: skip
def test_all_kinds_are_found(reader, database, asked, kind, title):
    found = [(what, one.casefold()) for what, one in hits(reader, asked)]
    assert (kind, title.casefold()) in found, found


def test_every_hit_leads_somewhere(reader, database):
    letters = "abcdefghijklmnoprstuw"
    urls = {html.unescape(one).partition("#")[0] for letter in letters
            for one in re.findall(r'<li><a href="([^"]+)"', reader.get(f"/find?q={letter}").text)}  # fmt: skip
    assert len(urls) > 60
    for url in sorted(urls):
        assert reader.client.get(url).status_code == 200, url


def test_a_name_that_is_changed_is_found_at_once(reader, database, clock):
    assert not hits(reader, "sedge")
    with database.writing() as session:
        row = scenes.find(session, "kettle-fen")
        scenes.save(
            session, row, row.head.number, set_fields(scenes.document(row.head), {"name": "Sédge Mire"}), "x", clock.at
        )
    assert hits(reader, "sedge+mi")[0] == ("scene", "Sédge Mire")
    assert not [one for one in hits(reader, "kettle+fen") if one[0] == "scene" and one[1] == "Kettle Fen"]
    reader.post("/s/kettle-fen/undo", here="/")
    assert hits(reader, "kettle+fen")[0] == ("scene", "Kettle Fen")


def test_what_has_some_of_the_words_is_said_to(reader, database):
    assert "Nothing has all of these words" in reader.text("/find?q=kettle+spaceship")
    assert "Nothing is called that" in reader.text("/find?q=xyzzy")
    assert "Type; arrows" in reader.text("/find")


@pytest.mark.parametrize(
    "asked", ['"', "*", "AND", "a OR", "NEAR(", "title:", "x" * 5000, "'; drop", "-", "ß", "😀 kettle", "%00"]
)
def test_no_question_breaks_it(reader, database, asked):
    answer = reader.client.get("/find", query_string={"q": asked})
    assert answer.status_code == 200


def test_only_the_list_is_sent_while_one_types(reader, database):
    answer = reader.client.get("/find?q=fen", headers={"HX-Request": "true", "HX-Target": "found"})
    assert answer.text.lstrip().startswith('<div id="found"') and "<html" not in answer.text


def test_titles_come_before_what_only_mentions_it():
    index = Index([Entry("mix", "b", "Sand, pale", "", "with grout"), Entry("scene", "a", "Grout works", "", "")])
    assert [one.key for one in index.find("grout").entries] == ["a", "b"]
    assert index.find("gro san").entries[0].key == "b" and not index.find("gro san").some


def test_help_knows_every_place_and_every_word_that_it_uses(reader):
    assert len({title for title, *_ in PAGES}) == len(PAGES) and set(MET) <= set(GLOSSARY)
    for place in PURPOSES.values():
        assert set(place.words) <= set(GLOSSARY) and place.for_.endswith(".") and place.first.endswith(".")
    for url, said in (
        ("/", "All of your boards"),
        ("/s/kettle-fen/pour", "Drag the level"),
        ("/swatches", "left alone, or done as always"),
    ):
        assert said in reader.text(url)


def test_the_verb_finds_the_same(reader, database):
    result = CliRunner().invoke(main, ["find", "kettle", "--db", str(database.path)])
    assert result.exit_code == 0 and "scene      Kettle Fen" in result.output
    with database.reading() as session:
        own = finding.find(session, "kettle").entries
    assert len(result.output.splitlines()) == len(own)
    assert "nothing" in CliRunner().invoke(main, ["find", "xyzzy", "--db", str(database.path)]).output
