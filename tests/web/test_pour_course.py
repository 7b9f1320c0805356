"""Looking ahead from Pour: charts, reach, tint over depth, other resins and rooms."""

import html
import re

import pytest

from tests.support.pages import document


def test_how_a_pour_goes(reader):
    page = reader.get("/s/hollin-delf/pour/course?lift=lake-water&number=2&drops=12").text
    text = reader.text("/s/hollin-delf/pour/course?lift=lake-water")
    for words in ("Heat and cure", "degree of cure", "start trying", "spreads from one point", "Tint over this bed"):
        assert words in text
    assert page.count('class="line') >= 6 and "core 19" in html.unescape(page)
    urls = [html.unescape(url) for url in re.findall(r'hx-get="([^"]+course/working[^"]+)"', page)]
    assert len(urls) == 7
    for url in urls:
        assert 'class="law"' in reader.get(url).text
    reader.get("/s/hollin-delf/pour/course/working?lift=lake-water&figure=nothing", 422)
    for query, said in (("lift=lake-skin", "is no pour"), ("lift=lake-water&ink=tea", "no tint 'tea'"),
                        ("lift=lake-water&drops=some", "is no number")):  # fmt: skip
        assert said in html.unescape(reader.get(f"/s/hollin-delf/pour/course?{query}", 422).text)


def test_a_pour_that_dries(reader):
    page = reader.text("/s/saltcote-pans/pour?lift=salt-glue")
    for words in ("in place, dry", "coats, dry", "dry through after"):
        assert words in page
    assert "It dries and does not react" in reader.text("/s/saltcote-pans/pour/course?lift=salt-glue")


def test_what_if(reader, demo_database):
    page = reader.get("/s/hollin-delf/pour/whatif?lift=lake-water").text
    urls = [html.unescape(url) for url in re.findall(r'hx-get="([^"]+whatif/working[^"]+)"', page)]
    assert len(urls) > 20
    for url in urls[::9]:
        assert 'class="law"' in reader.get(url).text
    reader.get("/s/hollin-delf/pour/whatif/working?lift=lake-water&way=mud&figure=cost", 422)


def test_what_holds_in_every_room_is_told_once_and_what_holds_in_one_under_it(reader):
    text = reader.text("/s/hollin-delf/pour/whatif?lift=sump-water")
    assert text.count("A batch takes") == 1 < text.index("A batch takes") - text.index("28 °C")
    cold = text.index("The room is well below")
    assert text.index("12 °C") < cold < text.index("15 °C") and text.count("The room is well below") == 1


def test_a_tint_is_taken_for_what_is_aimed_at(reader, demo_database):
    at = "/s/hollin-delf/pour/course?lift=lake-water&ink=acrylic-ink-brown"
    page = reader.get(f"{at}&aim=show&at=10+mm").text
    assert "stones still show there with" in page and "paint it so" in page
    count = re.search(r'name="count" value="([^"]+)"', page)[1]
    reader.post("/s/hollin-delf/pour/lake-water/tint", base=1, ink="acrylic-ink-brown", count=count, anyway="do")
    lake = next(one for one in document(demo_database, "hollin-delf")[1]["patches"] if one["id"] == "pit-lake")
    tint = next(one for one in lake["lifts"] if one["id"] == "lake-water")["tint"]
    assert tint == [{"material": "acrylic-ink-brown", "drops_per_100_ml": float(count)}]
    assert "is none" in reader.get(f"{at}&aim=glow", 422).text
    reader.post("/s/hollin-delf/pour/lake-water/tint", 422, base=2, ink="mud", count="1")


def test_ways_to_make_this_water(reader, demo_database):
    at = "/s/hollin-delf/layup/schools"
    page = html.unescape(reader.get(f"{at}?lift=lake-water").text)
    urls = re.findall(r'hx-get="([^"]+schools/working[^"]+)"', page)
    assert len(urls) > 40
    for url in urls[::9]:
        assert 'class="law"' in reader.get(url).text
    for words in ("would take 64 coats", "Tissue in 3 layers", "no bed is seen through it", "off level", "ambers"):
        assert words in page
    swap = f"{at}/lake-water"
    reader.post(swap, base=1, school="deep-resin", anyway="do")
    lake = next(one for one in document(demo_database, "hollin-delf")[1]["patches"] if one["id"] == "pit-lake")
    assert next(one for one in lake["lifts"] if one["id"] == "lake-water")["mix"] == "deep-resin"
    assert "cannot be swapped" in html.unescape(reader.post(swap, 422, base=2, school="paper-plaster").text)
    reader.post(swap, base=2, school="tissue", anyway="do")
    lake = next(one for one in document(demo_database, "hollin-delf")[1]["patches"] if one["id"] == "pit-lake")
    assert next(one for one in lake["lifts"] if one["id"] == "lake-water")["kind"] == "waves"


def test_a_drying_pour_is_added_shallow(reader, demo_database):
    reader.post("/s/tarn/patches/tarn/lifts", base=1, kind="pour", mix="varnish-water")
    lifts = next(one for one in document(demo_database)[1]["patches"] if one["id"] == "tarn")["lifts"]
    assert (lifts[-1]["mix"], lifts[-1]["depth_mm"]) == ("varnish-water", 1.0)


def test_poured_so_far_and_sounded(reader):
    some = reader.text("/s/hollin-delf/pour/so-far?lift=lake-water&share=0.05&cut=160")
    assert "so far" in some and "live-plan" in reader.get("/s/hollin-delf/pour/so-far?lift=lake-water&share=1").text
    first, whole = (float(re.search(r"([\d.]+) ml so far", reader.text(f"/s/hollin-delf/pour/so-far?lift=lake-water&share={one}"))[1])
                    for one in (0.1, 1))  # fmt: skip
    assert first == pytest.approx(whole / 10, rel=0.01)
    depths = reader.get("/s/hollin-delf/pour/depths.json?lift=lake-water").get_json()
    assert max(depths["tenths"]) == pytest.approx(250, abs=2)
    assert len(depths["tenths"]) % depths["columns"] == 0
    assert "no share" in html.unescape(reader.get("/s/hollin-delf/pour/so-far?lift=lake-water&share=2", 422).text)


def test_what_is_left_in_the_bottle(reader, demo_database):
    reader.post("/s/hollin-delf/pour/lake-water", base=1, mix="casting-resin", way="bottle", size="600 ml", drops="")
    data = document(demo_database, "hollin-delf")[1]
    lake = next(one for patch in data["patches"] for one in patch["lifts"] if one["id"] == "lake-water")
    assert "level_mm" not in lake and 500 < lake["volume_ml"] < 600
    mixed = re.search(r"by volume\s*([\d.]+)", reader.text("/s/hollin-delf/pour?lift=lake-water"))
    assert mixed and float(mixed[1]) == pytest.approx(600, rel=0.01)
    small = {"mix": "casting-resin", "way": "bottle", "size": "0.5 ml", "drops": ""}
    assert "a trace is no pour" in reader.post("/s/hollin-delf/pour/lake-water", 422, base=2, **small).text
