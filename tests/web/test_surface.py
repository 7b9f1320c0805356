"""Textures, fixes and colours on the pages: laid, judged, blended, graded, sieved, painted from shore to deep."""

import html
import re

from isostasis.core.plan import plan
from tests.support.pages import document
from tests.support.scenes import resolved


def lifts_of(database, slug="tarn", patch="rest"):
    return next(one for one in document(database, slug)[1]["patches"] if one["id"] == patch)["lifts"]


def test_a_texture_is_strewn_fixed_and_washed(reader, database):
    at = "/s/tarn/patches/rest/lifts"
    reader.post(at, base=1, kind="texture", mix="ballast", depth="4 mm", cover="80", school="glue-twice",
                key="white-glue", straightedge="")  # fmt: skip
    reader.post(at, base=2, kind="fix", mix="glue-water-2-3", wetting="alcohol-70", by="drip")
    reader.post(at, base=3, kind="coat", material="paint-black", coats="1", thin="6", cover="100", how="brush")
    texture, fix, coat = lifts_of(database)[-3:]
    assert (texture["cover"], texture["school"], "straightedge_mm" in texture) == (0.8, "glue-twice", False)
    assert (fix["wetting"], fix["by"], coat["thin"]) == ("alcohol-70", "drip", 6)
    page = reader.text("/s/tarn/layup?patch=rest")
    for words in ("falls beside", "swept up again", "spread at a time", "from the top down in", "hold at the top: sound",
                  "against what is beneath", "film that stays", "1:6 with water", "still wet"):  # fmt: skip
        assert words in page, words
    made = plan(resolved(document(database)[1])).lifts[texture["id"]]
    for path in (f"lifts.{texture['id']}.strewn.lost_ml", f"lifts.{fix['id']}.fixing.hold"):
        assert 'class="law"' in reader.get(f"/s/tarn/working?path={path}").text
    assert made.strewn.lost_ml.number > 0
    reader.post(f"/s/tarn/lifts/{texture['id']}", base=4, patch="rest", mix="ballast", depth="4 mm", cover="100",
                school="dry", key="white-glue", straightedge="80 mm")  # fmt: skip
    reader.post(f"/s/tarn/lifts/{fix['id']}", base=5, patch="rest", mix="scenic-binder", wetting="", by="brush")
    texture, fix, _ = lifts_of(database)[-3:]
    assert texture["straightedge_mm"] == 80 and "wetting" not in fix
    wrong = reader.post(at, 422, base=6, kind="texture", mix="glue-water-1-1", depth="4 mm", cover="80").text
    assert "is no dry blend" in html.unescape(wrong)
    assert "choose one of shell, skin, texture" in reader.post(at, 422, base=6, kind="mud").text


def test_how_it_looks_opens_to_its_terms(reader):
    page = reader.get("/s/hollin-delf/layup?patch=upper-benches").text
    urls = [html.unescape(url) for url in re.findall(r'hx-get="([^"]*layup/working[^"]*)"', page)]
    assert len(urls) >= 10
    for url in urls[::3]:
        assert 'class="law"' in reader.get(url).text
    assert 'fill="#' in page
    thirst = reader.text("/s/hollin-delf/layup/working?patch=spoil-heap&what=thirst")
    assert "voids × fill" in thirst and "Heap spoil" in thirst
    reader.get("/s/hollin-delf/layup/working?patch=nowhere&what=thirst", 422)
    reader.get("/s/hollin-delf/layup/working?patch=sump&what=look&lift=sump-water&figure=drying", 422)


def test_what_is_left_unsealed_is_told_where_a_seal_is_chosen(reader, database):
    page = reader.text("/s/hollin-delf/layup?patch=spoil-heap")
    assert "left unsealed it drinks" in page
    assert "left unsealed it drinks" not in reader.text("/s/hollin-delf/layup?patch=sump")


def test_a_fix_is_swapped_for_another_school(reader, database):
    page = reader.get("/s/hollin-delf/layup/schools?lift=sump-fix").text
    urls = [html.unescape(url) for url in re.findall(r'hx-get="([^"]+schools/working[^"]+)"', page)]
    assert len(urls) > 60
    for url in urls[::17]:
        assert 'class="law"' in reader.get(url).text
    post = "/s/hollin-delf/layup/schools/sump-fix"
    assert "cannot be swapped" in reader.post(post, 422, base=1, school="mud").text
    reader.post(post, base=1, school="scenic-binder+water-detergent")
    fix = next(one for one in lifts_of(database, "hollin-delf", "sump") if one["id"] == "sump-fix")
    assert (fix["mix"], fix["wetting"]) == ("scenic-binder", "water-detergent")
    reader.post(post, base=2, school="glue-water-1-1")
    fix = next(one for one in lifts_of(database, "hollin-delf", "sump") if one["id"] == "sump-fix")
    assert (fix["mix"], "wetting" in fix) == ("glue-water-1-1", False)


def test_the_surface_at_a_stage_wet_and_dry(reader):
    at = "/s/hollin-delf/relief.webp?stage="
    pictures = {name: reader.get(at + name).data for name in ("bare", "floor-skin", "floor-skin&wet=1", "finished")}
    assert len(set(pictures.values())) == 4


BLEND = "/s/hollin-delf/layup/blend"
THREE = "material=play-sand&material=stone-dust&material=chalk-dust"


def test_a_blend_is_shown_found_graded_and_kept(reader, database):
    assert "Choose what may go into it" in reader.text(BLEND)
    shown = reader.text(f"{BLEND}?{THREE}&scoops=2&scoops=1&scoops=&to=&to=&to=&target=%23b5a582")
    assert "from what is wanted" in shown and "CIEDE2000 between the two" in shown and "46.5 g" in shown
    found = reader.text(f"{BLEND}?{THREE}&scoops=&scoops=&scoops=&to=&to=&to=&target=ffffff&find=yes&most=4")
    assert "No blend of these gets nearer: it is paler than chalk dust" in found
    graded = reader.text(f"{BLEND}?{THREE}&scoops=2&scoops=&scoops=&to=&to=1&to=1&mixes=5&eased=yes")
    assert "Graded in 5 mixes" in graded
    for query, said in (
        (f"{THREE}&scoops=&scoops=&scoops=&to=&to=&to=", "a blend of nothing"),
        (f"{THREE}&scoops=0.3&scoops=&scoops=&to=&to=&to=", "no number of half scoops"),
        (f"{THREE}&scoops=1&scoops=&scoops=&to=&to=&to=&target=mud", "is no colour"),
        (f"{THREE}&scoops=&scoops=&scoops=&to=&to=&to=&find=yes", "none to come near to"),
        (f"{THREE}&scoops=1&scoops=&scoops=&to=1&to=&to=&mixes=40", "outside 2 to 12"),
        (f"{THREE}&scoops=1&scoops=&scoops=&to=&to=&to=&most=99", "outside 1 to 12"),
        ("material=play-sand&material=paint-earth&scoops=1&scoops=1&to=&to=", "strewn and the rest is paint"),
        ("material=gravy&scoops=1&to=", "there is no material 'gravy'"),
    ):
        assert said in reader.text(f"{BLEND}?{query}"), query
    reader.post(
        BLEND, base=1, name="Path, pale", material=["play-sand", "chalk-dust"], scoops=["2", "0.5"], to=["", ""]
    )
    (mix,) = document(database, "hollin-delf")[1]["mixes"]
    assert (mix["id"], mix["family"]) == ("path-pale", "texture")
    assert [(one["material"], one["parts"]) for one in mix["ingredients"]] == [("play-sand", 2), ("chalk-dust", 0.5)]
    reader.post("/s/hollin-delf/patches/floor/lifts", base=2, kind="texture", mix="path-pale", depth="1 mm", cover="40")
    paints = {"material": ["paint-white", "paint-teal"], "scoops": ["3", "1"], "to": ["", ""]}
    reader.post(BLEND, base=3, name="Sea", **paints)
    reader.post("/s/hollin-delf/patches/floor/lifts", base=4, kind="coat", material="mix:sea", coats="1")
    assert plan(resolved(document(database, "hollin-delf")[1])).lifts["floor-coat"].volume_ml.number > 0
    assert "has no name" in reader.post(BLEND, 422, base=5, name="", **paints).text


def test_a_sack_is_sieved_and_its_yield_kept(reader):
    sent = {"material": "garden-soil", "mesh": "1 mm", "sieved": "500 g", "passed": "300 g", "back": BLEND}
    reader.post("/layup/sieves", **sent, need="240 g")
    page = reader.text(BLEND)
    assert "60% of it passes 1 mm. For 240 g sieve 400 g." in page
    assert "Garden soil, baked and sifted: 60 % passes 1 mm" in page
    for change, said in (({"mesh": "0.01 mm"}, "write 0.05 mm or more"), ({"passed": "600 g"}, "cannot pass"),
                         ({"material": "gravy"}, "no material"), ({"need": "some"}, "is no mass")):  # fmt: skip
        assert said in reader.post("/layup/sieves", 422, **{**sent, "need": "", **change}).text


def test_a_bed_is_painted_from_shore_to_deep(reader):
    page = reader.get("/s/hollin-delf/layup/bands?lift=lake-water&bands=5&coats=2").text
    assert page.count("<tr>") == 6
    urls = [html.unescape(url) for url in re.findall(r'hx-get="([^"]+bands/working[^"]+)"', page)]
    assert len(urls) == 15
    for url in urls[::4]:
        assert 'class="law"' in reader.get(url).text
    reader.get(urls[0].replace("figure=area_mm2", "figure=share"), 422)
    for query, said in (("lift=lake-water&bands=1", "write 2 to"), ("lift=lake-skin", "is no pour"),
                        ("lift=lake-water&shore=plaster", "two paints")):  # fmt: skip
        assert said in html.unescape(reader.get(f"/s/hollin-delf/layup/bands?{query}", 422).text)


def test_a_texture_is_strewn_by_another_school_and_all_steps_are_listed(reader, database):
    page = reader.text("/s/hollin-delf/layup/schools?lift=sump-gravel")
    assert "onto glue, the rest swept up" in page and "Little more than a grain" in page
    reader.post("/s/hollin-delf/layup/schools/sump-gravel", base=1, school="glue-twice")
    gravel = next(one for one in lifts_of(database, "hollin-delf", "sump") if one["id"] == "sump-gravel")
    assert gravel["school"] == "glue-twice"
    steps = reader.get("/s/hollin-delf/layup/steps").text
    made = plan(resolved(document(database, "hollin-delf")[1]))
    assert steps.count("<li id=") == len(made.steps)
    assert "No flame, hot wire" in steps and "not before" in steps
