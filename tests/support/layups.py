"""Scenes put together from a few words: a tile with a lay-up, a heap, a crag, a pond."""

from isostasis.core.catalogue import shipped
from isostasis.core.plan import plan
from tests.support.scenes import resolved, square

LABELS = shipped()


BINDERS = sorted(name for name, mix in LABELS.mixes.items() if mix.family == "binder" and mix.soaks)


WETTING = sorted(name for name, mix in LABELS.mixes.items() if mix.family == "wetting")


def board(*lifts, forms=(), room=None, copies=1, patches=()):
    """A flat slab of 300 x 200 mm with one patch."""
    return {
        "isostasis": 1, "name": "Tile", "grid_mm": 5, "copies": copies, "base": {"width_mm": 300, "depth_mm": 200},
        "room": room or {"temp_c": 21, "rh": 0.5},
        "forms": [{"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 25}, *forms],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}, "lifts": list(lifts)}, *patches],
    }  # fmt: skip


def texture(**fields):
    return {"id": "bed", "kind": "texture", "mix": "quarry-dust", "depth_mm": 4, **fields}


def fix(**fields):
    return {"id": "glue", "kind": "fix", "mix": "glue-water-1-1", "wetting": "alcohol-70", **fields}


def lifts_of(*args, **fields):
    return plan(resolved(board(*args, **fields))).lifts


def codes(lift):
    return {notice.code for notice in lift.warnings}


def coat(name="coat", material="paint-earth", **fields):
    return {"id": name, "kind": "coat", "material": material, **fields}


SKIN = {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 3}


POND = [{"id": "hollow", "kind": "basin", "outline": [[50, 50], [250, 50], [250, 150], [50, 150]], "depth_mm": 10}]


RESIN = {"id": "water", "kind": "pour", "mix": "casting-resin", "depth_mm": 5}


GLOSS = coat("gloss", "gloss-varnish")


def heap(**shell):
    """A paper mound on foam, and bare board to the west."""
    return {
        "isostasis": 1, "name": "Heap", "grid_mm": 5, "base": {"width_mm": 400, "depth_mm": 300, "board": "hardboard-3"},
        "forms": [
            {"id": "slab", "kind": "sheet", "outline": square(50, 0, 400, 300), "thickness_mm": 25},
            {"id": "heap", "kind": "mound", "outline": square(150, 50, 350, 250), "crown_mm": 60},
        ],
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}, "lifts": [
            {"id": "cloth", "kind": "shell", "material": "plaster-cloth", "layers": 2, **shell},
            {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4}]}],
    }  # fmt: skip


def crag(patches=(), copies=1, **casting):
    """A casting in the middle of a foam slab; the rest gets a skin."""
    return {
        "isostasis": 1, "name": "Crag", "grid_mm": 5, "copies": copies, "base": {"width_mm": 400, "depth_mm": 300},
        "room": {"temp_c": 20, "rh": 0.5},
        "forms": [
            {"id": "slab", "kind": "sheet", "outline": square(0, 0, 400, 300), "thickness_mm": 25},
            {"id": "crag", "kind": "casting", "outline": square(100, 100, 200, 200), "height_mm": 20, "mould_ml": 60,
             "pieces": 3, "moulds": 2, **casting},
        ],
        "patches": [{"id": "rest", "name": "Rest", "area": {"rest": True}, "lifts": [
            {"id": "skin", "kind": "skin", "mix": "paper-plaster", "depth_mm": 4}]}, *patches],
    }  # fmt: skip


GRAVEL = texture(id="gravel", mix="ballast", depth_mm=4)


SEAL = {"id": "seal", "kind": "coat", "material": "acrylic-sealer"}


def pond_with(*below, **pour):
    """A basin of 200 x 100 mm in foam, with a lay-up under its water."""
    return {
        "isostasis": 1, "name": "Pond", "grid_mm": 4, "base": {"width_mm": 300, "depth_mm": 200},
        "forms": [{"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 30},
                  {"id": "hollow", "kind": "basin", "outline": square(48, 48, 252, 152), "depth_mm": 20, "bank_deg": 60}],
        "patches": [{"id": "pond", "name": "Pond", "area": {"rest": True}, "lifts": [
            *below, {"id": "water", "kind": "pour", "mix": "casting-resin", **(pour or {"depth_mm": 8})}]}],
    }  # fmt: skip


def term(figure, what):
    return next((one.value for one in figure.working if what in one.what), None)
