"""No page is forgotten by the tests that look at all of them."""

from __future__ import annotations

import html
import re

from isostasis.demo import fill
from tests.support.views import FILES, PIECES, VIEWS


def test_every_address_is_a_page_that_is_looked_at_or_a_piece_of_one(app):
    asked = {rule.endpoint for rule in app.url_map.iter_rules() if "GET" in rule.methods}
    addresses = app.url_map.bind("")
    pages = {addresses.match(view.split("?")[0], method="GET")[0] for view in VIEWS}
    assert asked == pages | PIECES | FILES
    assert not pages & (PIECES | FILES)


def test_a_link_to_a_file_says_that_it_is_one(app, reader):
    """Else the page would wait for another page that never comes."""
    fill(app.extensions["database"])
    addresses = app.url_map.bind("")
    for view in VIEWS:
        for link in re.findall(r"<a\s[^>]*>", reader.get(view).text):
            found = re.search(r'href="(/[^"?#]*)', link)
            if found and addresses.test(found[1], method="GET"):
                endpoint = addresses.match(html.unescape(found[1]), method="GET")[0]
                page = endpoint in ("devices.knock", "ground.print_templates", "bench.picture", "ground.picture")
                assert page or endpoint not in FILES or " download" in link, (view, link)
