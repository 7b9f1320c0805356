"""Strokes of a hand become outlines of few corners that lie where they were drawn."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import LinearRing, LineString, Polygon

from isostasis.core.fault import Refusal
from isostasis.core.ground.sketch import MAX_DRAWN, boxed, cornered, freehand, kept_on


def stroke(across=80.0, along=50.0, shake=0.6, points=300, seed=1, turns=1.0):
    angle = np.linspace(0, 2 * np.pi * turns, points)
    ring = np.stack([across * np.cos(angle), along * np.sin(angle) * (1 + 0.2 * np.cos(2 * angle))], axis=1)
    return ring + np.random.default_rng(seed).normal(0, shake, ring.shape)


@given(st.integers(0, 1000), st.floats(20, 300), st.floats(20, 300))
@settings(max_examples=25, deadline=None)
def test_a_ring_keeps_its_place_and_area_with_few_corners(seed, across, along):
    meant = Polygon(stroke(across, along, 0.0)[:-1])
    ring = freehand(stroke(across, along, 0.5, seed=seed).tolist(), True, 1.0)
    assert Polygon(ring).is_valid and 6 <= len(ring) <= 80
    assert Polygon(ring).area == pytest.approx(meant.area, rel=0.03)
    assert LinearRing(ring).hausdorff_distance(meant.exterior) < 3.0


def test_a_path_keeps_its_ends():
    x = np.linspace(0, 300, 200)
    drawn = np.stack([x, 20 * np.sin(x / 40)], axis=1)
    path = freehand(drawn.tolist(), False, 1.0)
    assert path[0] == pytest.approx([0, 0], abs=0.06) and path[-1] == pytest.approx(drawn[-1], abs=0.06)
    assert len(path) < 30 and LineString(path).hausdorff_distance(LineString(drawn)) < 1.5


def test_a_ring_that_crosses_itself_is_its_largest_part():
    eight = [(0, 0), (100, 100), (100, 0), (0, 60), (0, 1)]
    assert Polygon(freehand(eight, True, 1.0)).is_valid
    twice = Polygon(freehand(stroke(shake=0.2, turns=1.9).tolist(), True, 1.0))
    assert twice.is_valid and twice.area > 0.8 * Polygon(stroke(shake=0)[:-1]).area


def test_boxes_and_corners():
    assert boxed([(10, 40), (12, 30), (50, 20)], "rectangle") == [[10, 20], [50, 20], [50, 40], [10, 40]]
    ellipse = Polygon(boxed([(0, 0), (60, 40)], "ellipse"))
    assert ellipse.area == pytest.approx(np.pi * 30 * 20, rel=0.01)
    assert cornered([(0, 0), (10.04, 0), (10, 10)], True) == [[0, 0], [10, 0], [10, 10]]
    assert kept_on([[-4, 5], [500, 90]], 300, 80) == [[0, 5], [300, 80]]


@pytest.mark.parametrize(("act", "words"), [
    (lambda: freehand([[0, 0], [0.5, 0]], True, 1.0), "draw it larger"),
    (lambda: freehand([[0, 0], [100, 0], [200, 0]], True, 1.0), "it runs round nothing"),
    (lambda: freehand([[0, 0]], False, 1.0), "2 to 5000 points"),
    (lambda: freehand([[0, 0], [0, 0]], False, 1.0), "it is one point"),
    (lambda: freehand([[0, float("nan")], [1, 1]], False, 1.0), "nowhere"),
    (lambda: freehand("round", True, 1.0), "no list of points"),
    (lambda: freehand([[n, n % 7] for n in range(MAX_DRAWN + 1)], True, 1.0), "5001 points"),
    (lambda: cornered([[0, 0], [1, 1]], True), "three at least"),
    (lambda: boxed([[0, 0], [50, 1]], "ellipse"), "from corner to corner"),
])  # fmt: skip
def test_what_is_no_drawing_is_refused_in_words(act, words):
    with pytest.raises(Refusal, match=words):
        act()
