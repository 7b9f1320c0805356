"""The history tells what a change was, by the thing's own name and in the reader's measures."""

from __future__ import annotations

import html
import re


def _newest(reader):
    rows = re.findall(r"<td>\d+</td><td>([^<]*)</td>", reader.get("/s/tarn/history").text)
    return html.unescape(rows[0])


def test_a_form_says_which_of_its_figures_changed_from_what_to_what(reader):
    reader.post("/s/tarn/forms/hole", base=1, field="depth_mm", value="9 mm")
    assert re.fullmatch(r"Hole: depth [\d.]+ mm to 9 mm", _newest(reader))
    reader.post("/settings", system="imperial")
    reader.post("/s/tarn/forms/hole", base=2, field="depth_mm", value="1/2 in")
    assert re.fullmatch(r"Hole: depth 9 mm to 1/2 in", _newest(reader))


def test_a_form_that_is_named_or_moved_says_so(reader):
    reader.post("/s/tarn/forms/hole", base=1, name="Mere")
    assert _newest(reader) == "Hole is now called Mere"
    reader.post("/s/tarn/forms/hole", base=2, line="[[60, 60], [140, 60], [140, 120], [60, 120]]")
    assert _newest(reader) == "Mere: its line moved"


def test_a_lift_says_which_of_its_figures_changed(reader):
    reader.post("/s/tarn/lifts/tarn-seal", base=1, patch="tarn", mix="acrylic-sealer", coats="3")
    assert re.fullmatch(r"Tarn, seal: coats \d to 3", _newest(reader))
