"""What goes over the wire: one style sheet, one script, texts packed for whoever takes them so, pages that are light."""

import gzip
import re

import pytest

from isostasis.web import create_app
from isostasis.web.door import Door
from isostasis.web.sending import STATIC
from isostasis.web.shared.views import SCRIPTS, STYLES

PACKED = {"Accept-Encoding": "gzip, deflate"}
VIEWS = ("/", "/s/hollin-delf/ground", "/s/hollin-delf/layup", "/s/hollin-delf/pour", "/s/hollin-delf/mix", "/bench", "/shelf", "/shelf/buy",
         "/labels", "/swatches", "/records", "/reckon", "/find?q=skin", "/faults")  # fmt: skip


def test_all_style_sheets_are_one_in_their_order(reader):
    text = reader.get("/static/css/all.css").text
    at = [text.index((STATIC / "css" / f"{name}.css").read_text("utf-8")[:60]) for name in STYLES]
    assert at == sorted(at) and reader.get("/").text.count('rel="stylesheet"') == 1
    for url in set(re.findall(r'url\("([^"#]+)"', text)):
        assert reader.get(f"/static/css/{url}").status_code == 200


def test_all_scripts_are_one_each_after_what_it_imports_from(reader):
    """That it runs, the browser's tests tell: an error on any page fails there."""
    text = reader.get("/static/js/all.js").text
    every = {path.stem for path in (STATIC / "js").glob("*.js")}
    begins = {name: text.index(f"const from_{name} = ") for name in every}
    assert set(SCRIPTS) <= every and not re.search(r"^(import|export)\b", text, re.MULTILINE)
    for name in every:
        source = (STATIC / "js" / f"{name}.js").read_text("utf-8")
        assert max(source.splitlines(), key=len) in text
        for other in re.findall(r'from "\./(\w+)\.js"', source):
            assert begins[other] < begins[name]


def test_what_is_asked_for_by_its_stamp_is_kept_for_ever_and_all_else_asked_for_again(reader):
    page = reader.get("/").text
    stamped = re.findall(r'(?:src|href)="(/static/[^"]+\?v=\w+)"', page)
    assert len(stamped) == 3  # the style sheet, the script, and the library's own
    for url in stamped:
        assert "immutable" in reader.client.get(url).headers["Cache-Control"]
        assert "immutable" not in reader.client.get(url.partition("?")[0]).headers.get("Cache-Control", "")


@pytest.mark.parametrize("url", ["/", "/static/css/all.css", "/static/js/all.js", "/s/tarn/plan.json"])
def test_texts_are_packed_for_who_takes_them_so(reader, url):
    bare = reader.client.get(url)
    packed = reader.client.get(url, headers=PACKED)
    assert "Content-Encoding" not in bare.headers and packed.headers["Content-Encoding"] == "gzip"
    assert "Accept-Encoding" in packed.headers["Vary"] and len(packed.data) < len(bare.data) / 2
    if "static" in url or "plan" in url:
        assert gzip.decompress(packed.data) == bare.data


def test_what_is_packed_already_and_what_a_proxy_packs_is_let_be(reader, database, clock):
    font = reader.client.get("/static/fonts/fraunces-latin-wght-normal.woff2", headers=PACKED)
    assert "Content-Encoding" not in font.headers
    behind = create_app(database, clock, door=Door(("fen.example",), proxied=True)).test_client()
    assert "Content-Encoding" not in behind.get("/static/css/all.css", headers=PACKED).headers


@pytest.mark.parametrize("url", VIEWS)
def test_a_page_is_light(reader, url):
    """Itself, the style sheet, its scripts and its pictures, as a browser fetches them the first time; fonts beside."""
    page = reader.client.get(url, headers=PACKED)
    text = gzip.decompress(page.data).decode()
    urls = {
        one.replace("&amp;", "&")
        for one in re.findall(
            r'(?:src|href)="(/(?:static/[^"]+|s/[^"]+\.(?:webp|svg)[^"]*|start/[^"]+\.webp[^"]*))"', text
        )
    }
    urls = {one for one in urls if "woff2" not in one}  # two of them, 70 kB, once for all pages
    sizes = [len(reader.client.get(one, headers=PACKED).data) for one in urls]
    assert len(urls) < 20 and len(page.data) + sum(sizes) < 150_000
