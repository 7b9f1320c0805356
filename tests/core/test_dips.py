"""A hollow from its dips: as good as is told, through its dips, nothing along its lip; faults with a sentence."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter
from shapely import LinearRing, Point, Polygon, distance, points

from isostasis.core.fault import Faults
from isostasis.core.ground.forms import shaped
from isostasis.core.ground.forms.dips import Dips, bed, volume_off_by
from isostasis.core.ground.raster import centres, centres_within
from isostasis.core.plan import plan
from isostasis.core.starters.layout import blob
from tests.support.scenes import resolved, square

SHAPE, CELL = (100, 150), 2.0


def true_bed(outline, deep, seed):
    """A bed as hands shape it: rounded from the lip, lumpy, (ny, nx) mm."""
    rng = np.random.default_rng(seed)
    x, y = centres(SHAPE, CELL)
    lip = LinearRing(outline)
    inside = centres_within(tuple(map(tuple, outline)), x, y)
    xs, ys = np.meshgrid(x, y)
    away = np.where(inside, distance(lip, points(xs, ys)), 0.0)
    reach = rng.uniform(0.5, 0.9) * away.max()
    lumps = gaussian_filter(rng.normal(size=SHAPE), 6)
    lumps *= 0.12 * deep / max(lumps.std(), 1e-9)
    round_ = deep * (1 - (1 - np.minimum(away / reach, 1)) ** rng.uniform(1.1, 1.8))
    return np.where(inside, np.maximum(round_ + lumps * np.minimum(away / 10, 1), 0), 0), inside


def dipped(outline, depths, count, rng):
    """So many dips of a bed, spread as a hand spreads them, read to half a mm."""
    found, polygon = [], Polygon(outline)
    west, south, east, north = polygon.bounds
    while len(found) < count:
        place = rng.uniform((west, south), (east, north))
        apart = 0.6 * (polygon.area / count) ** 0.5
        if polygon.buffer(-4).contains(Point(place)) and all(
            np.hypot(*(place - one[:2])) > apart * rng.random() for one in found
        ):
            column, row = (place / CELL).astype(int)
            found.append(np.array([*place.round(1), round(float(depths[row, column]) * 2) / 2]))
    return [one.tolist() for one in found]


def test_volumes_are_as_near_as_is_told():
    off = {count: [] for count in (8, 15, 30)}
    for seed in range(10):
        rng = np.random.default_rng(seed)
        outline = blob(150, 100, rng.uniform(60, 105), rng.uniform(45, 75), seed)
        depths, inside = true_bed(outline, rng.uniform(6, 20), seed)
        for count, kept in off.items():
            form = Dips(id="h", outline=outline, dips=dipped(outline, depths, count, rng))
            made = bed(form, SHAPE, CELL)
            # The window's cells are those of the whole grid: sums over the inside compare.
            whole = np.zeros(SHAPE)
            from isostasis.core.ground.forms.within import MARGIN
            from isostasis.core.ground.raster import window

            whole[window(form.outline, SHAPE, CELL, MARGIN)] = made
            kept.append(abs(whole[inside].sum() / depths[inside].sum() - 1))
    for count, kept in off.items():
        typical, most = volume_off_by(count)
        assert np.median(kept) < typical * 1.25, (count, np.median(kept))
        assert np.percentile(kept, 95) < most * 1.25, (count, sorted(kept))
    assert np.median(off[30]) < np.median(off[8])


@given(
    st.lists(
        st.tuples(st.integers(-6, 6), st.integers(-4, 4), st.floats(0, 15)), max_size=12, unique_by=lambda one: one[:2]
    )
)
@settings(max_examples=12)
def test_it_only_digs_and_its_lip_stays(spots):
    outline = [tuple(one) for one in blob(150, 100, 90, 60, 1)]
    form = Dips(id="h", outline=outline, dips=[(150 + 8 * x, 100 + 8 * y, deep) for x, y, deep in spots])
    made = bed(form, SHAPE, CELL)
    assert np.isfinite(made).all() and made.min() >= 0
    assert made.max() <= 3 * max((deep for _, _, deep in spots), default=0) + 1
    if not spots:
        assert not made.any()


def scene(**hollow):
    slab = {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 20}
    return {
        "isostasis": 1, "name": "Bed", "grid_mm": 2, "base": {"width_mm": 300, "depth_mm": 200},
        "forms": [slab, {"id": "hollow", "kind": "dips", "outline": square(60, 40, 240, 160), **hollow}],
        "patches": [{"id": "bed", "name": "Bed", "area": {"rest": True}}],
    }  # fmt: skip


def test_the_plan_tells_the_range_of_its_volume():
    dips = [[x, y, 9] for x in range(80, 240, 40) for y in (70, 100, 130)]
    made = plan(resolved(scene(dips=dips)))
    volume = made.forms["hollow"].volume_ml
    ground = made.built.bare
    assert volume.value == pytest.approx((ground.z - 20).sum() * 4 / 1000, rel=0.01) and volume.value < -80
    typical, most = volume_off_by(12)
    assert volume.low == pytest.approx(volume.value * (1 + most)) and volume.high == pytest.approx(
        volume.value * (1 - most)
    )
    assert ground.z[50, 75] == pytest.approx(11, abs=1.0) and typical < most


@pytest.mark.parametrize(("hollow", "sentence"), [
    ({"dips": [[10, 10, 4]]}, "lies outside its lip"),
    ({"dips": [[100, 100, 4], [100, 100, 5]]}, "two dips have the same place"),
    ({"dips": [[150, 100, 30]]}, "below the board's top"),
    ({"dips": [[150, 100, -1]]}, "it must be at least 0"),
    ({"dips": [[150, 100 + number / 100, 1] for number in range(500)]}, "400"),
    ({"outline": square(0, 0, 300, 200), "dips": [[150, 100, 5]]}, "no ground for a lip"),
])  # fmt: skip
def test_what_is_no_hollow_is_told(hollow, sentence):
    with pytest.raises(Faults, match=sentence):
        plan(resolved(scene(**hollow)))


def test_it_is_worked_out_once(monkeypatch):
    made = plan(resolved(scene(dips=[[150, 100, 5]])))
    form = made.built.forms[1].form
    assert shaped(form, made.built.forms[0].ground, "forms[1]") is made.built.forms[1]
