"""The shelf's pages: packs in and counted, what to buy against them, the list in the shop, prices, one's own measures."""

import io
import json
import re

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.store import purchases, scenes, settings, shelf, supply
from isostasis.store.tables import PackRow
from tests.support.forms import forms_of


def stocked(database):
    with database.reading() as session:
        return {(one.row.material, one.row.part): one for one in shelf.stocked(session)}


def test_every_pack_of_the_demo_is_shown_with_what_is_left_and_who_counts_on_it(reader):
    page = reader.text("/shelf")
    assert "37 things in 40 packs" in page
    assert (
        "Casting resin, two-part 288 ml of 750 ml Hollin Delf 1028 ml, Kettle Fen 260 ml, Tarn 102 ml too little"
        in page
    )
    assert "386 ml too little before Pit lake, water 1 of Hollin Delf on" in page
    assert "part B runs out first, 55 ml of part A will be left over" in page
    assert "enough for each scene alone" in page and "past its date" in page and "opened on" in page
    assert "50 ml less than you want to keep" in page


def test_a_pack_is_added_a_kit_in_its_parts(reader, database):
    reader.post(
        "/shelf/add", material="deep-resin", size="1.5 l", left="half", price="57", seller="far", place="cellar"
    )
    known = stocked(database)
    part_a, part_b = known["deep-resin", "A"], known["deep-resin", "B"]
    assert (part_a.row.size, part_a.left, part_b.row.size, part_b.left) == (1000, 500, 500, 250)
    assert part_a.row.price + part_b.row.price == 57 and part_b.row.place == "cellar"
    reader.post("/shelf/add", material="deep-resin", part="B", size="200 ml")
    reader.post("/shelf/add", material="plaster", size="5 kg", opened="2026-02-01", best_before="2027-02-01")
    assert "5000 g" in reader.text("/shelf")


@pytest.mark.parametrize(("sent", "words"), [
    ({"material": "nothing", "size": "1 l"}, "there is no material “nothing”"),
    ({"material": "plaster", "size": "much"}, "size: “much” is no mass"), ({"material": "plaster", "size": "0"}, "a pack of nothing"),
    ({"material": "plaster", "size": "1 kg", "left": "2 kg"}, "left: 2000 is more than the 1000"),
    ({"material": "plaster", "size": "1 kg", "price": "cheap"}, "price: “cheap” is no amount of money"),
    ({"material": "plaster", "size": "1 kg", "price": "-1"}, "price: -1 is outside"),
    ({"material": "plaster", "size": "1 kg", "part": "A"}, "has no part A"),
    ({"material": "plaster", "size": "1 kg", "opened": "soon"}, "opened: “soon” is no day"),
    ({"material": "plaster", "size": "1 kg", "best_before": "1900-01-01"}, "best before: 1900 is outside"),
    ({"material": "plaster", "size": "1 kg", "place": "x" * 80}, "where it stands: it has 80 letters"),
])  # fmt: skip
def test_a_pack_that_cannot_be_is_told_by_its_field_and_not_kept(reader, database, sent, words):
    before = len(stocked(database))
    assert words in re.sub(r"&#39;", "'", reader.post("/shelf/add", 422, **sent).text)
    assert len(stocked(database)) == before


def test_a_pack_is_counted_put_back_taken_mended_and_thrown_away(reader, database):
    number = stocked(database)["white-glue", None].row.id
    page = f"/shelf/pack/{number}"
    assert "150 ml of 1000 ml" in reader.text(page)
    reader.post(page, how="count", amount="1/4", note="by eye")
    reader.post(page, how="back", amount="20 ml")
    reader.post(page, how="take", amount="10.8 g")
    told = reader.text(page)
    assert "260 ml of 1000 ml" in told and "by eye" in told and "put back" in told
    reader.post(page, 422, how="take", amount="3 l")
    reader.post(page, 422, how="back", amount="0")
    reader.post(page, 422, how="paint", amount="1")
    reader.post(
        page,
        how="change",
        size="1.2 l",
        price="7.5",
        seller="corner",
        opened="",
        best_before="",
        place="bench",
        keep="400 ml",
    )
    assert "140 ml less than you want to keep" in reader.text("/shelf")
    reader.post(page, how="gone")
    assert ("white-glue", None) not in stocked(database)
    reader.get(page, 422)
    reader.get("/shelf/pack/99999", 422)


def test_a_stocktake_in_one_pass_or_not_at_all(reader, database):
    known = stocked(database)
    glue, sand = known["white-glue", None].row.id, known["play-sand", None].row.id
    reader.post("/shelf/count", 422, **{f"left-{glue}": "300 ml", f"left-{sand}": "some"})
    assert stocked(database)["white-glue", None].left == 150
    reader.post("/shelf/count", **{f"left-{glue}": "300 ml", f"eye-{glue}": "half", f"eye-{sand}": "1/4"})
    now = stocked(database)
    assert (now["white-glue", None].left, now["play-sand", None].left) == (300, 500)
    assert now["plaster", None].left == known["plaster", None].left
    assert "2 packs are counted" in reader.text("/shelf")


def test_packs_come_in_from_a_list_all_of_them_or_none(reader, database):
    before = len(stocked(database))
    out = reader.get("/shelf/shelf.csv").text
    assert out.startswith("material,part,size,left,price,seller,opened,best before,place\n") and out.count("\n") == 41
    again = {"file": (io.BytesIO(out.encode()), "shelf.csv")}
    assert (
        "is on the shelf already"
        in reader.client.post(
            "/shelf/in", data={"csrf_token": reader.token, **again}, content_type="multipart/form-data"
        ).text
    )
    assert len(stocked(database)) == before
    reader.post("/shelf/in", text="material;size\nplaster;1,5 kg\nflock;80 ml")
    wrong = reader.post("/shelf/in", 422, text="material;size\nplaster;1,5 kg\nflock;80 parsecs").text
    assert "line 3, size" in wrong
    with database.reading() as session:
        assert len(shelf.rows(session)) == 42
    reader.post("/shelf/in", text=out, twice="yes")
    with database.reading() as session:
        assert len(shelf.rows(session)) == 82


def test_what_to_buy_is_the_same_on_the_page_as_text_as_a_table_and_on_the_command_line(reader, database, clock):
    page = reader.text("/shelf/buy?scene=hollin-delf")
    assert "Casting resin, two-part need 1028 ml, have 288 ml" in page
    text = reader.get("/shelf/buy.txt?scene=hollin-delf").text
    table = reader.get("/shelf/buy.csv?scene=hollin-delf").text
    with database.reading() as session:
        made = supply.supply(session, clock.at)
        shopping = supply.to_buy(session, made.for_scenes(["hollin-delf"]))
    for line in shopping.lines:
        name = made.named(line.material)
        assert name in page and name in text and line.material in table
        assert f"{line.cost:.2f}" in page
    assert f"{shopping.cost:.2f} €" in page
    ran = CliRunner().invoke(main, ["buy", "hollin-delf", "--json", "--db", database.name])
    told = json.loads(ran.output)
    assert told["cost"] == shopping.cost
    assert {(one["material"], one["short"]) for one in told["lines"]} == {
        (one.material, one.short) for one in shopping.lines
    }
    ran = CliRunner().invoke(main, ["shelf", "--json", "--db", database.name])
    assert len(json.loads(ran.output)["packs"]) == 40
    plain = CliRunner().invoke(main, ["buy", "--db", database.name]).output
    assert "In all:" in plain and "Casting resin, two-part: " in plain
    assert "no scene 'nix'" in CliRunner().invoke(main, ["buy", "nix", "--db", database.name]).output
    assert "no scene" in reader.get("/shelf/buy?scene=nix", 422).text


def test_no_cell_of_the_table_is_a_formula(reader):
    reader.post("/shelf/prices", material="casting-resin", price="0.01", pack="9 l", seller="=1+1")
    assert ",'=1+1," in reader.get("/shelf/buy.csv").text


def test_what_another_scene_counts_on_first_is_not_there_for_this_one(reader):
    alone = reader.text("/shelf/buy?scene=kettle-fen")
    assert (
        "Casting resin, two-part need 260 ml, have 0 ml; others count on 288 ml" in alone
    )  # and Hollin Delf comes first


def test_the_list_is_ticked_swapped_and_put_on_the_shelf(reader, database):
    assert "There is no list" in reader.text("/shelf/list")
    reader.post("/shelf/buy/take", scene=["hollin-delf", "kettle-fen"])
    page = reader.text("/shelf/list")
    assert "0 of" in page and "Hollin Delf, Kettle Fen" in page
    with database.reading() as session:
        resin = next(row for row in purchases.open_list(session) if row.material == "casting-resin")
    sizes = [form for form in forms_of(reader.get("/shelf/list").text) if form.action == f"/shelf/list/{resin.id}/swap"]
    assert len(sizes) == 4
    reader.post(f"/shelf/list/{resin.id}/swap", size=sizes[0].values["size"])
    assert "3 × 375 ml" in reader.text("/shelf/list")
    reader.post(f"/shelf/list/{resin.id}/swap", 422, size="9999")
    reader.post("/shelf/list/home", 422)
    reader.post(f"/shelf/list/{resin.id}/tick")
    reader.post("/shelf/list/home")
    assert "6 packs are on the shelf" in reader.text("/shelf")
    both = reader.get("/shelf/buy.txt?scene=hollin-delf&scene=kettle-fen").text
    assert "Casting resin, two-part: " not in both
    reader.post(f"/shelf/list/{resin.id}/tick", 422)
    with database.reading() as session:
        other = purchases.open_list(session)[0]
    reader.post(f"/shelf/list/{other.id}/drop")
    assert len(forms_of(reader.get("/shelf/list").text)) > 1


def test_an_order_makes_the_scene_wait_behind_a_gate_and_its_arrival_opens_it(reader, database):
    reader.post("/shelf/buy/order", 422, scene=["hollin-delf"], days="never")
    reader.post("/shelf/buy/order", scene=["hollin-delf"], days="4")
    assert "ordered, comes" in reader.text("/shelf/list")
    gates = "/s/hollin-delf/clock/gates"
    assert "Casting resin, two-part comes" in reader.text(gates)
    with database.reading() as session:
        resin = next(row for row in purchases.open_list(session) if row.material == "casting-resin")
    reader.post(f"/shelf/list/{resin.id}/tick")
    reader.post("/shelf/list/home")
    with database.reading() as session:
        scene = scenes.document(scenes.find(session, "hollin-delf").head)
    waiting = {gate.name: gate.done for gate in scene.gates}
    assert waiting["Casting resin, two-part comes"] is True


def test_dear_or_cheap_compares_sizes_by_what_is_useful(reader):
    page = reader.text("/shelf/prices?material=casting-resin")
    assert re.search(r"3000 ml\s*99.00, by post.*33.00.*1500 ml.*34.67.*750 ml.*39.73.*375 ml.*44.27", page)
    assert "a mm there, Hollin Delf, Pit lake" in page
    materials = re.findall(r'<section class="worth">(.*?)</section>', reader.get("/shelf/prices").text, re.DOTALL)
    compared = [(part.count('class="gauge'), part.count("<li")) for part in materials]
    assert all(
        bars == (offers if offers > 1 else 0) for bars, offers in compared
    )  # a lone price has no other beside it
    assert [offers > 1 for _, offers in compared] == sorted((offers > 1 for _, offers in compared), reverse=True)
    assert "€ a covered m2, a layer" in reader.text("/shelf/prices")
    reader.post("/shelf/prices", material="white-glue", price="6", pack="500 ml", packs="2", seller="corner")
    assert "2 × 500 ml" in reader.text("/shelf/prices?material=white-glue")
    for sent, words in (
        (
            {"material": "white-glue", "price": "6", "pack": "500 ml", "packs": "2", "seller": "corner"},
            "in the list already",
        ),
        ({"material": "white-glue", "price": "6", "pack": "0"}, "a pack of nothing"),
        ({"material": "white-glue", "price": "-6", "pack": "1 l"}, "outside 0"),
        ({"material": "white-glue", "price": "6", "pack": "1 l", "packs": "0"}, "outside 1 to 1000"),
        ({"material": "nothing", "price": "6", "pack": "1 l"}, "there is no material"),
    ):
        assert words in reader.post("/shelf/prices", 422, **sent).text
    reader.post("/shelf/prices/999/remove", 422, material="white-glue")
    reader.post("/shelf/prices/0/remove", 422, material="white-glue")
    reader.post("/shelf/prices/0/remove", material="plaster-cloth")


def test_sellers_and_the_currency(reader, database):
    reader.post("/shelf/sellers", seller="far away", postage="6.50", days="5")
    assert "far away postage 6.50, 5 days" in reader.text("/shelf/prices")
    reader.post("/shelf/sellers", seller="far away", how="remove")
    reader.post("/shelf/sellers", how="currency", currency="kr")
    assert "kr a gram of solids" in reader.text("/shelf/prices")
    with database.reading() as session:
        assert settings.read(session).currency == "kr"
    for sent in ({"seller": ""}, {"seller": "x", "postage": "-1"}, {"seller": "x", "days": "999"}):
        reader.post("/shelf/sellers", 422, **sent)
    reader.post("/shelf/sellers", 422, how="currency", currency="crowns")


def test_a_pack_whose_label_is_gone_says_so(reader, database):
    with database.writing() as session:
        session.add(PackRow(material="gone-label", size=100, added_at=reader.client.application.extensions["now"]()))
    assert "A pack of “gone-label” has no label any more" in reader.text("/shelf")
    with database.reading() as session:
        number = next(row.id for row in shelf.rows(session) if row.material == "gone-label")
    assert "throw the pack away" in reader.text(f"/shelf/pack/{number}")
    assert "gone-label" not in reader.text("/shelf/count")


def test_one_s_own_measures_are_calibrated_and_used(reader, database):
    reader.post("/things/vessels", name="blue  cup", water="74.9 g", times="1", use="scoop_ml")
    reader.post("/things/vessels", name="dropper", water="0.8 g", times="20", use="drop_ml")
    page = reader.text("/things")
    assert "blue cup 75 ml one fill weighed 74.9 g" in page and "20 fills weighed 0.8 g" in page
    with database.reading() as session:
        mine = settings.read(session)
    assert mine.bench.scoop_ml == pytest.approx(75.03, abs=0.01) and mine.bench.drop_ml == pytest.approx(
        0.04, abs=0.001
    )
    assert "× blue cup" in reader.text("/s/hollin-delf/mix?batch=lake-water-1-1")
    for sent in ({"name": "", "water": "5 g"}, {"name": "x", "water": "0"}, {"name": "x", "water": "5 g", "times": "0"},
                 {"name": "x", "water": "5 g", "use": "hat"}, {"name": "x", "water": "1 g", "times": "10000"}):  # fmt: skip
        reader.post("/things/vessels", 422, **sent)
    reader.post("/things/vessels", how="remove", name="blue cup")
    assert "blue cup 75 ml" not in reader.text("/things")


def test_rates_of_the_hands_and_sieves(reader, database):
    before = json.loads(reader.get("/s/hollin-delf/plan.json").text)["steps"]
    reader.post("/things/hands", **{"rate-4": "100"})
    after = json.loads(reader.get("/s/hollin-delf/plan.json").text)["steps"]
    slower = {one["id"] for one, old in zip(after, before, strict=True) if one["hands_on_min"] > old["hands_on_min"]}
    assert "floor-dust" in slower
    reader.post("/things/hands", 422, **{"rate-4": "0"})
    with database.writing() as session:
        settings.change(session, sieves={"garden-soil": {"1 mm": 0.6}})
    assert "60 % passes 1 mm" in reader.text("/things")
    reader.post("/things/sieves", material="garden-soil", mesh="1 mm")
    assert "passes 1 mm" not in reader.text("/things")


def test_what_is_left_of_a_mix_goes_into_a_jar(reader, database):
    reader.post("/s/hollin-delf/mix/floor-dust-1-1/start")
    page = reader.get("/s/hollin-delf/mix?batch=floor-dust-1-1").text
    (form,) = [one for one in forms_of(page) if one.action.endswith("/finish")]
    reader.post(form.action, 422, kept="90 l")
    reader.post(form.action, kept="30 ml")
    assert "Quarry dust, in a jar" in reader.text("/shelf")
    assert stocked(database)["quarry-dust", None].left == pytest.approx(30 + _swept(database))


def _swept(database):
    """What of the strewn blend was swept up, for its step is done with its batch."""
    with database.reading() as session:
        return sum(line.amount for line in shelf.lines(session) if line.note == "swept up")
