"""Labels as files: out as JSON and TOML and in again alike, one alone, and what is wrong told by label and field."""

import json
from pathlib import Path

import pytest

import isostasis.core.catalogue
from isostasis.core.catalogue import Material, shipped
from isostasis.core.fault import Faults
from isostasis.exchange.labels_file import labels_schema, read_labels, write_labels

TINS = shipped()
ALL = [*TINS.materials.values(), *TINS.mixes.values()]
FILES = sorted(Path(isostasis.core.catalogue.__file__).parent.glob("m*/*.toml"))


@pytest.mark.parametrize("form", ["json", "toml"])
def test_every_label_goes_out_and_comes_in_alike(form):
    text = write_labels(ALL, form)
    assert read_labels(f"mine.{form}", text.encode()) == ALL
    assert read_labels("", text.encode()) == ALL


@pytest.mark.parametrize("path", FILES[::9], ids=lambda path: path.stem)
def test_the_projects_own_files_come_in(path):
    (label,) = read_labels(path.name, path.read_bytes())
    known = TINS.materials if isinstance(label, Material) else TINS.mixes
    assert label == known[path.stem]


MIX = {"name": "Mine", "family": "skin", "ingredients": [{"material": "water", "parts": 1}], "source": "my own tin"}


@pytest.mark.parametrize(("text", "words"), [
    ("{", "it is no JSON"), ("density = ", "it is no TOML"), ("{}", "no|required|missing"), ('{"materials": 3}', "it is no list"),
    ('{"materials": [3]}', "it is no label"), ('{"materials": [], "tins": []}', "“tins” is no list of labels"),
    ('{"materials": []}', "there is no label in it"),
    (json.dumps({"mixes": [{**MIX, "id": "a"}, {**MIX, "id": "a"}]}), "“a” stands in it twice"),
    (json.dumps({"mixes": [{**MIX, "id": "a", "film_mm": -1}]}), r"mixes\[0\] \(Mine\).*film_mm"),
    (json.dumps({"mixes": [{**MIX, "id": "a b"}]}), r"mixes\[0\]"),
    (json.dumps({"mixes": [{**MIX, "id": "a", "ingredients": [{"material": "water", "parts": 0}]}]}), "mixes nothing"),
    (json.dumps({"mixes": [{"id": "x"}] * 2001}), "more than 2,000"), ("x" * 2_000_001, "larger than 2 MB"),
    ('{"materials": [{"id": "a", "density": 1e999}]}', "materials"),
])  # fmt: skip
def test_what_is_wrong_is_told_by_label_and_field(text, words):
    with pytest.raises(Faults, match=words):
        read_labels("mine.json" if text.startswith("{") else "mine.toml", text.encode())


def test_the_published_schema_is_up_to_date_and_takes_every_label():
    published = json.loads((Path(__file__).parents[2] / "docs" / "labels.schema.json").read_text("utf-8"))
    assert published == labels_schema()
    assert set(published["properties"]) == {"materials", "mixes"}
