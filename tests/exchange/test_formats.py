"""Files out and in again, and files that are not what they seem."""

import io
import json
import re
import struct
import zlib
from xml.etree import ElementTree

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from isostasis.core.document.scene import Base
from isostasis.core.fault import Faults
from isostasis.core.ground.field import empty_ground
from isostasis.core.ground.forms import shaped
from isostasis.core.ground.forms.survey import Survey
from isostasis.core.lifts.fold import build
from isostasis.exchange import survey_form
from isostasis.exchange.asc import read_asc, write_asc
from isostasis.exchange.drawing import A4, plan_svg, templates
from isostasis.exchange.heightmap import read_png, write_png
from isostasis.exchange.outgoing import FORMATS, written
from isostasis.exchange.spots import read_csv, write_csv
from isostasis.exchange.stl import write_stl
from tests.support.scenes import resolved, square

ROUND = Base(width_mm=120, depth_mm=90, outline={"disc_mm": 80})
SQUARE = Base(width_mm=120, depth_mm=90)


def rough(base=SQUARE, cell=5.0, seed=1):
    board = empty_ground(base, cell)
    return board.after(np.random.default_rng(seed).random(board.shape) * 80, "foam-xps")


def again(ground, form, base=SQUARE):
    """The ground that a survey of the file makes of a bare board."""
    made = Survey.model_validate({"id": "s", **form})
    return shaped(made, empty_ground(base, ground.cell_mm), "forms[0]").ground


@pytest.mark.parametrize("base", [SQUARE, ROUND], ids=["square", "round"])
def test_an_ascii_grid_comes_back_the_same(base):
    ground = rough(base)
    back = again(ground, survey_form("hill.asc", write_asc(ground).encode()), base)
    on = ground.on_base
    # A step of 80 mm in 16 bits, and three decimals of text.
    assert np.abs(back.z - ground.z)[on].max() <= 80 / 65534 / 2 + 0.0005 + 1e-9
    assert (back.z == 0)[~on].all()


@pytest.mark.parametrize("base", [SQUARE, ROUND], ids=["square", "round"])
def test_a_picture_and_its_side_file_come_back_the_same(base):
    ground = rough(base)
    picture, side = write_png(ground)
    back = again(ground, survey_form("hill.png", picture, side), base)
    assert np.abs(back.z - ground.z)[ground.on_base].max() <= json.loads(side)["step_mm"] / 2 + 1e-9
    once_more = write_png(back)
    assert read_png(*once_more).z() == pytest.approx(read_png(picture, side).z(), nan_ok=True, abs=1e-6)


def test_spot_heights_come_back_the_same():
    ground = rough()
    back = again(ground, survey_form("hill.csv", write_csv(ground).encode()))
    assert np.abs(back.z - ground.z).max() <= 0.0005 + 1e-9


def test_a_large_ground_is_thinned_to_what_can_be_read_again():
    board = empty_ground(Base(width_mm=2000, depth_mm=1000), 5.0)
    text = write_csv(board.after(np.full(board.shape, 7.0), "foam-xps"))
    assert text.startswith("# every 2. cell of 5 mm")
    assert len(read_csv(text)) == 20_000


@given(st.integers(0, 2**32 - 1), st.integers(2, 9), st.integers(2, 9), st.floats(0.5, 500))
@settings(max_examples=25)
def test_any_grid_survives_the_trip(seed, rows, columns, span):
    z = np.random.default_rng(seed).random((rows, columns)) * span
    text = f"ncols {columns}\nnrows {rows}\nxllcorner 3\nyllcorner -2\ncellsize 2.5\n" + "\n".join(
        " ".join(f"{value:.4f}" for value in row) for row in z
    )
    grid = read_asc(text)
    assert (grid.west_mm, grid.south_mm, grid.cell_mm) == (3, -2, 2.5)
    assert np.abs(grid.z()[::-1] - z).max() <= max(span / 65534, 0.001) / 2 + 0.0001


HEAD = "ncols 2\nnrows 2\nxllcorner 0\nyllcorner 0\ncellsize 5\n"
PNG8 = io.BytesIO()
Image.new("L", (4, 4)).save(PNG8, "PNG")
SIDE = '{"heightmap": 1, "cell_mm": 5, "low_mm": 0, "step_mm": 0.01}'


def bomb():
    """A PNG that says it is 60,000 pixels a side and packs to nothing."""

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 60_000, 60_000, 16, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(bytes(10_000_000)))
        + chunk(b"IEND", b"")
    )


def cut_short():
    picture, _ = write_png(rough())
    return picture[:-90]


BAD = [
    ("a.asc", HEAD.replace("ncols 2", "ncols 3").encode() + b"1 2\n3 4\n", "it holds 4 heights where 3 × 2 = 6 are promised"),
    ("a.asc", HEAD.encode() + b"1 nan\n3 4\n", "line 6: “nan” is no height"),
    ("a.asc", HEAD.encode() + b"1 2\n3 high\n", "line 7: “high” is no height"),
    ("a.asc", HEAD.replace("cellsize 5", "cellsize 0").encode() + b"1 2\n3 4\n", "a cell size of 0 cannot be"),
    ("a.asc", b"1 2\n3 4\n", "its header has no ncols and no nrows and no cellsize"),
    ("a.asc", HEAD.replace("nrows 2", "nrows two").encode(), "line 2: “two” is no number"),
    ("a.asc", b"ncols 50000\nnrows 20000\ncellsize 1\n0 0", "50000 × 20000 are 1,000,000,000 heights, more than 4,000,000"),
    ("a.asc", HEAD.encode() + b"-9999 -9999\n-9999 -9999\n", "it has no height at all"),
    ("a.asc", b"solid hill\nfacet normal 0 0 1\n", "this is an STL or another binary file"),
    ("a.asc", bytes(80) + b"\x01\x00\x00\x00\xff\xfe", "it is no text, so no grid or list of heights (an STL, perhaps)"),
    ("a.csv", b"x,y,z\n1,2,3\n4,5\n", "line 3: it has 2 values"),
    ("a.csv", b"1,2,3\n4,5,inf\n7,8,9\n", "line 2: a value is not finite"),
    ("a.csv", b"1,2,3\n4,five,6\n", "line 2: “4 five 6” is no place and height"),
    ("a.csv", b"1,2,3\n", "there are 1; give at least three"),
    ("a.csv", b"0,0,0\n" * 20_001, "there are more than 20,000"),
    ("a.png", PNG8.getvalue(), "it is not 16-bit greyscale (it is L)"),
    ("a.png", bomb(), "60000 × 60000 are 3,600,000,000 heights, more than 4,000,000"),
    ("a.png", b"\x89PNG\r\n\x1a\nnothing", "this is no PNG that can be read"),
    ("a.png", cut_short(), "cut short or damaged"),
    ("a.obj", b"v 0 0 0", "its ending tells no kind of heights that is known"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "data", "sentence"), BAD, ids=[sentence[:40] for _, _, sentence in BAD])
def test_bad_files_get_one_clear_sentence(name, data, sentence):
    with pytest.raises(Faults) as refused:
        survey_form(name, data, SIDE)
    assert len(refused.value.faults) == 1
    assert sentence in str(refused.value)


@pytest.mark.parametrize(("side", "sentence"), [
    (None, "it comes without its side file"),
    ("{", "side file: it is no JSON"),
    ('{"heightmap": 1, "low_mm": 0, "step_mm": 1}', "side file, cell_mm: field required"),
    ('{"heightmap": 1, "cell_mm": 5, "low_mm": 0, "step_mm": 0}', "side file, step_mm"),
    ('{"heightmap": 1, "cell_mm": 5, "low_mm": 0, "step_mm": 1, "colour": 2}', "side file, colour"),
])  # fmt: skip
def test_side_files_are_read_with_care(side, sentence):
    with pytest.raises(Faults, match=re.escape(sentence)):
        survey_form("a.png", write_png(rough())[0], side)


def test_a_huge_file_is_refused_by_its_size(monkeypatch):
    monkeypatch.setattr("isostasis.exchange.incoming.MAX_BYTES", 100)
    with pytest.raises(Faults, match=r"it is larger than 0\.0001 MB"):
        survey_form("a.asc", b"0" * 101)


def triangles(data):
    count = int.from_bytes(data[80:84], "little")
    assert len(data) == 84 + 50 * count
    record = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("extra", "<u2")])
    return np.frombuffer(data, record, offset=84)


@pytest.mark.parametrize("base", [SQUARE, ROUND], ids=["square", "round"])
def test_the_solid_is_closed_and_holds_the_ground(base):
    ground = rough(base, 2.5)
    faces = triangles(write_stl(ground, base.width_mm, base.depth_mm, 9.0))
    corners = faces["corners"].astype(float)
    volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    held = float(((ground.z + 9) * ground.inside).sum()) * ground.cell_area
    assert volume == pytest.approx(held, rel=0.01 if base is SQUARE else 0.08)
    edges = np.concatenate([corners[:, [a, b]] for a, b in ((0, 1), (1, 2), (2, 0))]).reshape(-1, 6)
    there, count = np.unique(edges, axis=0, return_counts=True)
    back, other = np.unique(edges[:, [3, 4, 5, 0, 1, 2]], axis=0, return_counts=True)
    assert (there == back).all()
    assert (count == other).all()
    assert faces["normal"][:, 2].max() == pytest.approx(1, abs=0.2)


@pytest.fixture
def pond_built(pond):
    scene = resolved(pond)
    return scene, build(scene)


def mm(svg):
    root = ElementTree.fromstring(svg)
    return (
        float(root.get("width")[:-2]),
        float(root.get("height")[:-2]),
        [float(one) for one in root.get("viewBox").split()],
    )


def test_drawings_are_true_to_scale(pond_built):
    scene, built = pond_built
    width, height, box = mm(plan_svg(scene, built))
    assert box == [0, 0, width, height]
    assert width == 320
    paths = re.findall(r'd="M([^"Z]+)Z"', plan_svg(scene, built))
    hole = np.array([[float(one) for one in point.split(",")] for point in paths[-1].split("L")])
    assert np.ptp(hole, axis=0) == pytest.approx([200, 120])


def test_templates_tile_the_form_with_register_marks(pond_built):
    scene, _ = pond_built
    slab = scene.forms[0]
    sheets = templates(scene, slab)
    assert [name for name, _ in sheets] == ["slab-r1-c1.svg", "slab-r1-c2.svg"]
    for _, svg in sheets:
        assert sorted(mm(svg)[:2]) == sorted(A4)
        assert svg.count("100 mm: measure it") == 1
        assert "Slab, 25 mm" in svg
    (_, first), (_, second) = sheets

    def left(svg):
        return min(float(x) for x in re.findall(r"[ML](-?[\d.]+),", svg.split("<g ")[1].split("</g>")[0]))

    # The second sheet draws the same outline, one tile to the west: its right marks lie on the first one's.
    step = A4[0] - 24 - 8
    assert left(first) - left(second) == pytest.approx(step)
    hole = templates(scene, scene.forms[1])
    ring = shapely.Polygon(square(50, 40, 250, 160)).length
    d = re.search(r'<g [^>]+><path d="M([^"]+)Z"', hole[0][1])[1]
    drawn = np.array([[float(one) for one in point.split(",")] for point in d.split("L")])
    assert shapely.Polygon(drawn).length == pytest.approx(ring)


def test_everything_goes_out(pond_built):
    scene, built = pond_built
    names = [name for name, data in written(scene, built, "finished") if data]
    assert {"ground.asc", "ground.png", "ground.json", "ground.csv", "ground.stl", "plan.svg", "cut.svg"} <= set(names)
    assert sum(name.startswith("slab-r") for name in names) == 2
    assert len(FORMATS) == 7
    with pytest.raises(KeyError):
        list(written(scene, built, "nowhere"))
