"""Plan, resin layer, filling and spilling."""

from __future__ import annotations

import subprocess
import sys
from functools import partial
from typing import Any

import numpy as np

from .marks import Mark, forget_stages, seconds


def _plans() -> list[Mark]:
    from isostasis.core.catalogue import shipped
    from isostasis.core.document import resolve
    from isostasis.core.plan import plan
    from isostasis.core.reading import read
    from isostasis.demo import document
    from isostasis.web.collecting import settle

    catalogue = shipped()
    scene = resolve(read(document("hollin-delf")), catalogue)
    plan(scene)
    settle()  # as the server does before it serves

    fresh = seconds(lambda: plan(scene), 9, forget_stages)
    plan(scene)
    again = seconds(lambda: plan(resolve(read(document("hollin-delf")), catalogue)), 25)
    return [
        Mark("plan of Hollin Delf at 5 mm, warm", fresh * 1000, 150, "ms"),
        Mark("the same plan again, unchanged, from its document on", again * 1000, 10, "ms"),
    ]


def _layer() -> list[Mark]:
    from isostasis.core.catalogue import shipped
    from isostasis.core.hardening.climate import Climate
    from isostasis.core.hardening.layer import ANCHOR_BED, Pour, heat_from_label, solve
    from isostasis.core.hardening.reference import solve_reference

    label = shipped().mixes["casting-resin"].reacts
    assert label is not None
    room = Climate((0.0,), (23.0,), (0.5,))
    pour = Pour(12.0, ANCHOR_BED, label, heat_from_label(label).j_g, room)
    ours, reference = solve(pour)[0], solve_reference(pour)
    mine = seconds(lambda: solve(pour), 25)
    theirs = seconds(lambda: solve_reference(pour), 3)
    rise = (ours.peak_c - 23) / (reference.peak_c - 23) - 1
    assert ours.gel_h
    assert reference.gel_h
    assert ours.hard_h
    assert reference.hard_h
    return [
        Mark("one resin layer", mine * 1000, 15, "ms"),
        Mark("one resin layer, ten times, against the reference", mine * 10 / theirs, 1, "x"),
        Mark("temperature rise of a layer, off the reference", abs(rise) * 100, 2, "%"),
        Mark("gel of a layer, off the reference", abs(ours.gel_h / reference.gel_h - 1) * 100, 1, "%"),
        Mark("hard of a layer, off the reference", abs(ours.hard_h / reference.hard_h - 1) * 100, 3, "%"),
    ]


def _filling() -> Mark:
    from isostasis.core.ground.filling import level_for_volume

    z = np.random.default_rng(7).normal(50, 10, 4_000_000)
    sort = seconds(lambda: np.sort(z), 5)
    level = seconds(lambda: level_for_volume(z, 25.0, 1_000_000.0), 5)
    return Mark("level from volume on 4 million cells, in sorts", level / sort, 3, "x")


def _spill() -> list[Mark]:
    """A pour over hills: it fills a hollow, spills and merges until most of the ground is under water."""
    from scipy.ndimage import gaussian_filter
    from skimage.morphology import reconstruction

    from isostasis.core.document.scene import Base
    from isostasis.core.ground.field import empty_ground
    from isostasis.core.ground.spill import fill_from
    from isostasis.core.stages import STAGES

    sizes, times, ratio = [], [], 0.0
    for side in (250, 500, 1000, 1400):
        base = Base(width_mm=side * 5.0, depth_mm=side * 5.0, dammed=("all",))
        hills = gaussian_filter(np.random.default_rng(3).normal(size=(side, side)), side / 60) * side * 3
        ground = empty_ground(base, 5.0).after(hills - hills.min(), "foam")
        z = ground.z
        volume = float(np.maximum(np.quantile(z, 0.8) - z, 0).sum()) * 25 / 1000
        start = (side // 2, side // 2)

        def pour(ground: Any = ground, base: Any = base, start: Any = start, volume: float = volume) -> None:
            STAGES.clear()
            fill_from(ground, base, start, volume)

        seed = z.copy()
        seed[1:-1, 1:-1] = z.max()
        times.append(seconds(pour, 3))
        sizes.append(side * side)
        if side == 1000:
            ratio = times[-1] / seconds(partial(reconstruction, seed, z, method="erosion"), 3)
    exponent = float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
    # n log n between the least and the greatest size has this exponent; a twentieth more is noise.
    most = float(np.log(sizes[-1] * np.log(sizes[-1]) / sizes[0] / np.log(sizes[0])) / np.log(sizes[-1] / sizes[0]))
    return [
        Mark("pour that spills and merges on 1 million cells", times[2], 2, "s"),
        Mark("the same in greyscale reconstructions of that ground", ratio, 5, "x"),
        Mark("pour that spills and merges, exponent over cells (to 2 million)", exponent, most * 1.05, ""),
    ]


def _edits() -> Mark:
    """The most memory of a process of its own that edits, read when it ends."""
    done = subprocess.run([sys.executable, "-m", "benchmarks.edits"], check=True, capture_output=True, text=True)
    return Mark("resident after 200 edits of Hollin Delf at 2 mm, at most", float(done.stdout), 450, "MB")


def _basket() -> Mark:
    """Packs of least cost for 60 materials, six offers each, of three sellers of whom one asks postage."""
    from random import Random

    from isostasis.core.stock.basket import Offer, least_cost
    from isostasis.core.stock.model import Seller

    found = Random(17)
    short = [((f"m{number}", None), found.uniform(50, 5000)) for number in range(60)]
    offers = []
    for number in range(60):
        for _ in range(6):
            size = found.choice((50, 100, 250, 400, 500, 750, 1000, 1500, 3000)) * found.uniform(0.9, 1.1)
            cost = round(size**0.85 * found.uniform(0.02, 0.04), 2)
            offers.append(Offer(f"m{number}", ((None, size),), cost, found.choice(("a", "b", "c"))))
    sellers = [Seller(name="c", postage=4.9)]
    took = seconds(lambda: least_cost(short, tuple(offers), sellers), 3, forget_stages)
    return Mark("packs of least cost, 60 materials with 6 offers each", took, 1, "s")


def measure() -> list[Mark]:
    """The marks of the core's figures."""
    return [*_plans(), _edits(), *_layer(), _filling(), *_spill(), _basket()]
