"""What is drawn is what was computed: plan and cut share an axis, areas and heights are true to scale."""

import io
import re

import numpy as np
import pytest
import shapely
from PIL import Image
from scipy.ndimage import binary_erosion
from shapely import Polygon, contains_xy

from isostasis.core.ground.field import tilted
from isostasis.core.lifts.kinds.pour.pools import filled
from isostasis.core.lifts.labels import Labels
from isostasis.core.plan import plan
from isostasis.core.units import Measures
from isostasis.demo import SCENES, document
from isostasis.web.draw.core_sample import THIN, core_sample
from isostasis.web.draw.depths import pour_depths
from isostasis.web.draw.fine import fine_ground
from isostasis.web.draw.panels import default_cut, panels, pours, row_of, scale_bar, ticks
from isostasis.web.draw.projection import CUT_MOST, GUTTER, PLAN_MOST, RIGHT, WIDE, projection_of
from isostasis.web.draw.relief import SLOPES, colours_of, lit_ground, relief_picture
from isostasis.web.layup.kinds import cut_hatch_of, hatch_of
from isostasis.web.pour.views import time_axis
from tests.support.scenes import resolved, scene_data

METRIC, INCHES = Measures(), Measures(system="imperial")


def rings(d):
    """The rings of an SVG path of straight lines."""
    found = []
    for part in d.split("M")[1:]:
        found.append([tuple(map(float, point.split(","))) for point in part.rstrip("Z").split("L")])
    return found


def area(d):
    return sum(abs(shapely.Polygon(ring).area) for ring in rings(d))


def drawn(data, **how):
    scene = resolved(data)
    made = plan(scene)
    how = {"cut_y": None, "measures": METRIC, "stage": "finished"} | how
    return scene, made, panels(scene, made.built, pour_depths(made), cut_hatch=cut_hatch_of, **how)


@pytest.mark.parametrize("name", SCENES)
def test_plan_and_cut_fit_and_share_one_axis(name):
    scene, _, p = drawn(document(name))
    frame = p.frame
    assert frame.left >= GUTTER - 1e-6
    assert frame.left + frame.plan_width <= WIDE - RIGHT + 1e-6
    assert frame.plan_height <= PLAN_MOST + 1e-6
    assert frame.cut_bottom - frame.cut_top <= CUT_MOST + 1e-6
    assert frame.x(0) == frame.left
    assert frame.y(0) == pytest.approx(frame.plan_top + frame.plan_height)
    assert frame.y(scene.base.depth_mm) == pytest.approx(frame.plan_top)
    assert frame.z(0) == frame.cut_zero
    assert projection_of(scene) == frame


def test_a_pool_on_the_plan_has_its_own_area():
    _, made, p = drawn(scene_data())
    (water,) = p.waters
    outer = rings(water.plan[0].d)
    shapes = sum(shapely.Polygon(ring).area for ring in outer) / p.frame.scale**2
    assert shapes == pytest.approx(made.lifts["tarn-water"].pools[0].area_mm2.number, rel=0.04)  # half a cell of shore
    assert [band.band for band in water.plan] == [0, 1, 2, 3]
    assert area(water.plan[3].d) < area(water.plan[0].d)


def test_a_pool_in_the_cut_is_as_deep_and_wide_as_it_is():
    _, made, p = drawn(scene_data())
    (water,) = p.waters
    (ring,) = rings(water.cut[0][0])
    xs, zs = zip(*ring, strict=True)
    stage = made.built.stages["tarn-water"]
    bed = stage.site.ground.z[p.row]
    wet = (bed < 24).sum() * 2
    assert (max(zs) - min(zs)) / p.frame.scale / p.frame.exaggeration == pytest.approx(6, abs=0.05)
    assert (max(xs) - min(xs)) / p.frame.scale == pytest.approx(wet, abs=2)


def test_lifts_in_the_cut_lie_within_each_other():
    data = document("hollin-delf")
    _, made, p = drawn(data)
    water = next(water for water in p.waters if water.lift == "lake-water")
    areas = [area(d) for d, _ in water.cut]
    assert len(areas) == len(made.lifts["lake-water"].layers)
    assert areas == sorted(areas, reverse=True)


def test_a_leaning_board_is_drawn_upright_and_its_water_leaning(pond):
    pond["base"]["tilt_mm_per_m"] = [4, 0]
    pond["patches"][0]["lifts"][0]["level_mm"] = 23
    _, made, p = drawn(pond)
    (ring,) = rings(p.waters[0].cut[0][0])
    left = min(ring, key=lambda point: (round(point[0], 1), point[1]))
    right = max(ring, key=lambda point: (round(point[0], 1), -point[1]))
    lean = (right[1] - left[1]) / p.frame.scale / p.frame.exaggeration
    assert lean == pytest.approx(0.004 * (right[0] - left[0]) / p.frame.scale, abs=0.15)
    site = made.built.stages["water"].site
    assert tilted(site.ground, site.scene.base)[0, 0] < site.ground.z[0, 0]


def test_what_is_laid_is_drawn_as_thick_as_it_is():
    scene, _, p = drawn(scene_data(), cut_y=180.0)
    skins = [shape for shape in p.shapes if shape.kind == "skin"]
    assert [shape.title for shape in skins] == ["Bank skin"]
    thickness = area(skins[0].d) / p.frame.scale**2 / p.frame.exaggeration / scene.base.width_mm
    assert thickness == pytest.approx(5, abs=0.1)
    assert not [shape for shape in drawn(scene_data(), stage="bare")[2].shapes if shape.kind == "skin"]
    assert drawn(scene_data(), stage="bare")[2].waters == []


def test_the_cut_starts_through_the_first_pour_and_stays_on_the_board(pond):
    scene, made, p = drawn(scene_data())
    (pool,) = filled(*pours(made.built)[0]).pools
    assert pool.cells[p.row].any()
    assert default_cut(scene, made.built) == p.cut_y
    assert drawn(scene_data(), cut_y=900.0)[2].cut_y == 200
    assert row_of(made.built.bare, 200.0) == 99
    pond["patches"][0]["lifts"] = []
    assert drawn(pond)[2].cut_y == 100


def test_names_do_not_cover_each_other():
    _, _, p = drawn(document("hollin-delf"))
    places = [(name.x, name.y) for name in p.names]
    assert len(places) == 6
    for index, (x, y) in enumerate(places):
        assert all(abs(y - other_y) >= 22 or abs(x - other_x) >= 110 for other_x, other_y in places[:index])


def test_on_a_phone_a_name_that_would_cover_another_gives_way_to_the_later_patch():
    _, _, p = drawn(document("hollin-delf"))
    shown, hidden = ([name for name in p.names if name.crowded is crowded] for crowded in (False, True))
    assert "Quarry floor" in [name.text for name in hidden] and "Pit lake" in [name.text for name in shown]
    larger = p.frame.sheet / WIDE
    for index, one in enumerate(shown):  # letters as large as there, with a plate round them
        wide = [(other, 7.5 * len(one.text + other.text) * larger) for other in shown[:index]]
        assert all(abs(one.y - other.y) >= 44 * larger or abs(one.x - other.x) >= most for other, most in wide)


@pytest.mark.parametrize(("name", "sheet"), [("saltcote-pans", 480), ("kettle-fen", 680), ("hollin-delf", 812)])
def test_a_tall_plan_is_on_a_narrow_drawing_and_a_phone_shows_it_larger(reader, name, sheet):
    frame = drawn(document(name))[2].frame
    left, right = frame.sheet_left, frame.sheet_left + frame.sheet
    assert frame.sheet == sheet
    assert left <= frame.left - GUTTER + 1e-6 and frame.left + frame.plan_width + RIGHT <= right + 1e-6
    view = re.search(r'class="panels of-(\d+)" viewBox="([\d.]+) 0 (\d+) ', reader.source(f"/s/{name}/pour"))
    assert (int(view[1]), float(view[2]), int(view[3])) == (sheet, left, sheet)
    of = re.search(rf"\.of-{sheet} {{ --of: ([\d.]+)", reader.get("/static/css/all.css").text)
    assert of is None if sheet == WIDE else float(of[1]) == pytest.approx(sheet / WIDE, abs=1e-4)


@pytest.mark.parametrize("measures", [METRIC, INCHES])
def test_scales_are_round_in_the_readers_measures(measures):
    scene = resolved(document("hollin-delf"))
    frame = projection_of(scene)
    bar = scale_bar(frame, measures)
    number, unit = bar.text.rsplit(" ", 1)
    assert bar.width / frame.scale == pytest.approx(float(number) * (25.4 if unit == "in" else 1), rel=1e-6)
    marks = ticks(frame, measures)
    assert 2 <= len(marks) <= 7
    assert marks[0][1] == "0"
    assert [y for y, _ in marks] == sorted((y for y, _ in marks), reverse=True)


def test_the_core_is_to_scale():
    scene = resolved(document("hollin-delf"))
    made = plan(scene)
    ids = [lift.id for lift in next(one for one in scene.patches if one.id == "pit-lake").lifts]
    core = core_sample(made, Labels.of(scene), "pit-lake", ids, hatch_of)
    heights = {stratum.lift: stratum.height for stratum in core.strata}
    depth = sum(layer.depth_mm.number for layer in made.lifts["lake-water"].layers)
    assert heights["lake-water"] / heights["lake-skin"] == pytest.approx(depth / 4, rel=0.01)
    assert heights["lake-seal"] == THIN
    assert [stratum.lift for stratum in core.strata] == ids[::-1]
    assert core.strata[0].y >= 0
    assert core.strata[-1].y + core.strata[-1].height == pytest.approx(core.bed_y)
    per_mm = heights["lake-skin"] / 4
    assert core.times == pytest.approx(per_mm * 25.4 / 96)
    for upper, lower in zip(core.strata, core.strata[1:], strict=False):
        assert upper.y + upper.height == pytest.approx(lower.y)


def test_the_relief_is_clear_beyond_a_round_base_and_darker_in_shade():
    scene = resolved(document("ember-pools"))
    image = np.asarray(Image.open(io.BytesIO(relief_picture(scene, plan(scene).built, "finished"))))
    assert image.shape[2] == 4
    assert image[0, 0, 3] == 0
    assert image[image.shape[0] // 2, image.shape[1] // 2, 3] == 255
    solid = image[image[..., 3] == 255][:, :3].sum(axis=1)
    assert solid.min() < 0.75 * solid.max()
    bare = relief_picture(scene, plan(scene).built, "bare")
    assert bare != relief_picture(scene, plan(scene).built, "finished")
    assert bare is relief_picture(scene, plan(scene).built, "bare")


def test_a_sheet_is_cut_on_the_picture_where_its_outline_runs_and_not_where_cells_end():
    scene = resolved(document("hollin-delf"))
    built = plan(scene).built
    fine = fine_ground(scene, built, "bare")
    assert fine.times > 2 and fine.cell_mm == pytest.approx(scene.cell_mm / fine.times)
    bench = next(form for form in scene.forms if form.id == "lower-bench")
    inside = contains_xy(Polygon(bench.outline).buffer(-fine.cell_mm), *np.meshgrid(*_middles(fine)))
    beside = ~contains_xy(Polygon(bench.outline).buffer(fine.cell_mm), *np.meshgrid(*_middles(fine)))
    low = next(one for one in built.forms if one.form.id == "quarry-floor").ground.z.max()
    ramp_and_heap = fine.dry()[: int(150 / fine.cell_mm)]
    assert fine.dry()[inside].min() > low + 20
    assert beside.any() and ramp_and_heap.min() < low


def _middles(fine):
    rows, columns = fine.forms.shape
    return (np.arange(columns) + 0.5) * fine.cell_mm, (np.arange(rows) + 0.5) * fine.cell_mm


def test_water_on_the_picture_meets_the_ground_at_its_level():
    scene = resolved(document("hollin-delf"))
    built = plan(scene).built
    fine = fine_ground(scene, built, "finished", water=True)
    assert not fine_ground(scene, built, "finished").pools
    lake = next(pool for pool in fine.pools if pool.deep.max() > 20)
    dry = fine.dry()
    deep = fine.deep(lake, dry)
    wet = deep > 0
    assert np.ptp((dry + deep)[wet]) < 0.5  # level
    assert deep.max() == pytest.approx(lake.deep.max(), abs=1)
    assert wet.sum() * fine.cell_mm**2 == pytest.approx((lake.deep > 0).sum() * scene.cell_mm**2, rel=0.1)
    lit, z = lit_ground(colours_of(scene, built, "finished"), fine, 0.75)
    shallow, deepest = lit[wet & (deep < 3)].mean(axis=0), lit[wet & (deep > 20)].mean(axis=0)
    assert shallow.sum() > deepest.sum() + 20 and z.shape == lit.shape[:2]


def test_walls_are_dark_lines_and_a_level_ground_has_one_colour():
    scene = resolved(document("hollin-delf"))
    built = plan(scene).built
    fine = fine_ground(scene, built, "bare")
    grey = lit_ground(colours_of(scene, built, "bare"), fine, 0.75)[0].sum(axis=2)
    floor = binary_erosion(np.abs(fine.dry() - 50) < 0.01, iterations=int(20 / fine.cell_mm))
    assert floor.sum() > 10_000 and np.ptp(grey[floor]) < 6
    assert grey.min() < 0.6 * np.median(grey[floor])
    assert (grey < 0.7 * np.median(grey[floor])).mean() < 0.15


def test_the_slope_of_each_place_has_its_colour():
    scene = resolved(document("hollin-delf"))
    picture = Image.open(io.BytesIO(relief_picture(scene, plan(scene).built, "slope"))).convert("RGB")
    seen = np.asarray(picture, dtype=float)[::-1]
    cell = scene.base.width_mm / seen.shape[1]
    level, bank, *_, steepest = (np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)]) for _, colour in SLOPES)
    floor = seen[round(60 / cell), round(60 / cell)]
    assert abs(floor - level).sum() < abs(floor - bank).sum()
    walls = abs(seen - steepest).sum(axis=2) < 40
    assert 0.01 < walls.mean() < 0.1  # in lines


def test_windows_on_their_axis():
    made = plan(resolved(document("hollin-delf")))
    water = made.lifts["lake-water"]
    axis = time_axis(water.windows, water.hours.full.value)
    assert [bar.text for bar in axis.bars] == [window.what for window in water.windows]
    dust = [window.what for window in water.windows].index("dust cover on")
    hours_per_px = water.windows[dust].to_h / axis.bars[dust].width
    for bar, window in zip(axis.bars, water.windows, strict=True):
        assert bar.x * hours_per_px == pytest.approx(window.from_h, abs=0.02)
        assert bar.open_end == (window.to_h is None)
        assert bar.x + bar.width <= 330
    assert len(axis.ticks) <= 8


def test_every_path_is_made_of_numbers():
    _, _, p = drawn(document("saltcote-pans"))
    for d in [
        p.contour_d,
        p.edge_d,
        *(shape.d for shape in p.shapes),
        *(band.d for water in p.waters for band in water.plan),
    ]:
        assert re.fullmatch(r"[ML0-9.,Z-]*", d)
        assert "nan" not in d
