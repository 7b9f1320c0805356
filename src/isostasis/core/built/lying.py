"""Where built things still lie: the ground as it was under them, held against the ground as it is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..document import ResolvedScene
from ..document.built import Built, BuiltArea
from ..document.places import Flat, Protect
from ..document.scene import Base, Patch, Scene
from ..ground.field import Ground, empty_ground
from ..ground.forms import bare_ground
from ..ground.raster import Array, Mask
from ..lifts.areas import Cover, cell_areas, owned, true_area
from ..lifts.kinds import kind_of
from ..stages import cached_stage

MOVED_MM = 0.5  # the ground under a layer may differ by so much and still bear it, craft estimate
BLOCK_SHARE = 0.02  # a pour is one block: where so much of its bed has moved, all of it comes off


def to_runs(shares: Array) -> tuple[tuple[int, float], ...]:
    """An array (ny, nx) of shares as runs of equal hundredths, row by row.

    >>> to_runs(np.array([[0.0, 0.5], [0.5, 1.0]]))
    ((1, 0.0), (2, 0.5), (1, 1.0))
    """
    flat = np.round(shares.ravel(), 2)
    ends = np.flatnonzero(np.append(flat[1:] != flat[:-1], True))
    lengths = np.diff(np.concatenate(([-1], ends)))
    return tuple((int(length), float(flat[end])) for length, end in zip(lengths, ends, strict=True))


def from_runs(runs: tuple[tuple[int, float], ...], shape: tuple[int, int]) -> Array:
    """The array that such runs stand for; what they do not reach is 0.

    >>> from_runs(((1, 0.0), (2, 0.5), (1, 1.0)), (2, 2)).tolist()
    [[0.0, 0.5], [0.5, 1.0]]
    """
    flat = np.zeros(shape[0] * shape[1])
    known = np.concatenate([np.full(length, share) for length, share in runs])[: len(flat)]
    flat[: len(known)] = known
    return flat.reshape(shape)


@dataclass(frozen=True, eq=False)
class Then:
    """The bare ground as it was, and what each patch owned of it."""

    bare: Ground
    covers: dict[str, Cover]


@cached_stage
def _then(
    base: Base,
    cell_mm: float,
    forms: tuple[Any, ...],
    areas: tuple[BuiltArea, ...],
    protect: tuple[Protect, ...],
    flats: tuple[Flat, ...],
) -> Then:
    """By what it is, not by its id: most things are done on the same ground."""
    bare, _ = bare_ground(base, cell_mm, forms)
    patches = tuple(Patch.model_construct(id=one.patch, name=one.patch, area=one.area, lifts=()) for one in areas)
    scene = Scene.model_construct(
        isostasis=1, name="", base=base, grid_mm=cell_mm, forms=forms, patches=patches, protect=protect,
        flats=flats,
    )  # fmt: skip
    return Then(bare, owned(scene, bare, empty_ground(base, cell_mm)))


def then_of(scene: ResolvedScene, name: str) -> Then:
    """The ground of that id. Raises KeyError for one that the document does not hold."""
    ground = next((one for one in scene.built_on if one.id == name), None)
    if ground is None:
        raise KeyError(name)
    return _then(scene.base, scene.cell_mm, ground.forms, ground.areas, ground.protect, ground.flats)


@dataclass(frozen=True, eq=False)
class Lying:
    """A built layer of a lift: `share` (ny, nx) of each cell that it still covers, `loose` what the ground no longer
    bears and must come off, both within what it covered at first; true areas in mm2 in `area_mm2` (at first), and of
    the two. A face has no cells: then the areas alone speak."""

    entry: Built
    patch: str
    share: Array
    loose: Array
    area_mm2: float
    share_mm2: float
    loose_mm2: float

    @property
    def raises(self) -> bool:
        """Whether it has a thickness that stands in the way."""
        return bool(self.entry.lift.raises_ground)

    @property
    def kept(self) -> float:
        """Share of it that still lies there and is borne, 0 to 1."""
        return self.share_mm2 / self.area_mm2 if self.area_mm2 else 0.0

    @property
    def loose_ml(self) -> float:
        """ml of it that must come off, one copy."""
        return (self.entry.volume_ml or 0.0) * (self.loose_mm2 / self.area_mm2 if self.area_mm2 else 0.0)


def extent_of(entry: Built) -> float:
    """What a built course amounts to in the unit of its kind: mm, coats, layers."""
    each = kind_of(entry.lift).extent(entry.lift) / entry.of if entry.extent is None else entry.extent
    return float(each * entry.share)


def _cells(entry: Built, then: Then) -> Array:
    """The share (ny, nx) of each cell that a layer covered when it was laid, times what of its extent lay there."""
    cover = then.covers[entry.patch or ""]
    if entry.over:
        return np.asarray(cover.share * from_runs(entry.over, cover.share.shape))
    if not entry.lift.levels_itself or entry.level_mm is None:
        return cover.share
    return np.where(cover.mask & (then.bare.z < entry.level_mm), then.bare.inside, 0.0)


def _unborne(entry: Built, cells: Array, then: Then, bare: Ground, cover: Cover | None) -> Mask:
    """Where (ny, nx) a ground no longer bears a layer: it has moved there or, of what has a thickness, its patch owns
    the place no more. Chipping it off takes a cell more all round."""
    from scipy.ndimage import binary_dilation

    moved: Mask = binary_dilation(np.abs(bare.z - then.bare.z) > MOVED_MM, np.ones((3, 3)))
    if entry.lift.levels_itself:
        there = cells > 0
        lost = there.any() and float((moved & there).sum()) > BLOCK_SHARE * float(there.sum())
        return np.full(moved.shape, bool(lost))
    if cover is None or not entry.lift.raises_ground:
        return moved
    return moved | ((cells > 0) & (cover.share < 0.5 * cells))


def lying(scene: ResolvedScene, bare: Ground, covers: dict[str, Cover]) -> tuple[Lying, ...]:
    """Every layer of a lift that was built, in the order of their times, with what is left of it on this ground."""
    layers = []
    removals = [one for one in scene.built if one.removes]
    for entry in scene.built:
        if entry.lift is None or entry.patch is None:
            continue
        then = then_of(scene, entry.ground)
        cells = _cells(entry, then)
        cover = then.covers[entry.patch]
        off = np.zeros(cells.shape, dtype=bool)
        whole = False
        for removal in removals:
            for part in removal.removes:
                if part.of == entry.id:
                    at = then_of(scene, removal.ground)
                    whole = whole or part.whole
                    off |= _unborne(entry, cells, then, at.bare, at.covers.get(entry.patch))
        patch = _patch_now(entry.patch, cells, covers)
        if cover.face is not None:
            now = covers.get(entry.patch)
            borne = 0.0 if now is None or now.face is None else min(1.0, now.face.face_mm2 / cover.face.face_mm2)
            area = cover.face.face_mm2
            kept = 0.0 if whole else borne * area
            layers.append(Lying(entry, patch, cells, cells, area, kept, 0.0 if whole else area - kept))
            continue
        there = np.where(off | whole, 0.0, cells)
        loose = _unborne(entry, cells, then, bare, covers.get(patch)) & (there > 0)
        areas = cell_areas(then.bare)
        layers.append(
            Lying(
                entry,
                patch,
                np.where(loose, 0.0, there),
                np.where(loose, there, 0.0),
                float((areas * cells).sum()) or true_area(then.bare, cover),
                float((areas * np.where(loose, 0.0, there)).sum()),
                float((areas * np.where(loose, there, 0.0)).sum()),
            )
        )
    return tuple(layers)


def _patch_now(patch: str, cells: Array, covers: dict[str, Cover]) -> str:
    """The patch to which a built layer belongs now: its own or, once that is gone, the one that owns most of it."""
    if patch in covers:
        return patch
    owned_by = {name: float(np.minimum(cover.share, cells).sum()) for name, cover in covers.items()}
    best = max(owned_by, key=lambda name: owned_by[name], default=patch)
    return best if owned_by.get(best, 0.0) > 0.5 * float(cells.sum()) else patch
