"""No page is forgotten by the tests that look at all of them."""

from __future__ import annotations

from tests.support.views import FILES, PIECES, VIEWS


def test_every_address_is_a_page_that_is_looked_at_or_a_piece_of_one(app):
    asked = {rule.endpoint for rule in app.url_map.iter_rules() if "GET" in rule.methods}
    addresses = app.url_map.bind("")
    pages = {addresses.match(view.split("?")[0], method="GET")[0] for view in VIEWS}
    assert asked == pages | PIECES | FILES
    assert not pages & (PIECES | FILES)
