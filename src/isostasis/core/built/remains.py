"""What of each lift is still to be laid, beside what lies there of it already.

Where what lies there is so many courses of the lift just as it is planned, the rest are its other courses, figures and
all. Else the rest is worked out on its own: so much thickness, coats or layers, over as much of the patch as they are
missing on; of a pour what fills on above the level that stands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..fault import Faults
from ..figure import Figure, Term
from ..ground.raster import Array
from ..lifts.areas import Cover, cell_areas
from ..lifts.estimate import Act, Course, LiftEstimate, Notice, course_ids
from ..lifts.fold import Build
from ..lifts.kinds import kind_of
from ..lifts.kinds.pour.acts import scuff
from ..lifts.kinds.pour.pools import PourLift, filled
from ..lifts.labels import Labels
from ..lifts.learnt import learnt
from ..lifts.site import Site
from .lying import Lying, extent_of
from .matching import LEVEL_NEAR_MM, Match, made_of

State = Literal["new", "part", "done", "covered"]
LAYABLE_SHARE = 0.02  # of a lift: less than that is within what hands lay more or less, craft estimate
LAYABLE_ML = 1.0  # less cannot be mixed and laid, but at most a tenth of the lift; craft estimate
COURSES_OFF = 0.01  # of a lift, by which so many courses of it may be off and are still those


def layable_ml(needed_ml: float) -> float:
    """The least ml of a lift that hands can lay.

    >>> layable_ml(500), layable_ml(30), layable_ml(2)
    (10.0, 1.0, 0.2)
    """
    return max(LAYABLE_SHARE * needed_ml, min(LAYABLE_ML, needed_ml / 10))


@dataclass(frozen=True, eq=False)
class Work:
    """What of a lift is to be done: `estimate` of what is still to be laid (None: nothing), the number of its first
    course, the ids of its steps; what of it lies there, what remains, ml of one copy."""

    state: State
    estimate: LiftEstimate | None
    first: int
    ids: tuple[str, ...]
    mend: Act | None = None  # what lets its first course come after the window of what lies there
    layers: tuple[Lying, ...] = ()
    remains_ml: float = 0.0
    hidden_ml: float = 0.0  # what cannot be laid, under what lies there
    notices: tuple[Notice, ...] = ()
    extent: float = 0.0  # of what is still to be laid, in the unit of its kind, where it is missing most
    scale: Array | None = None  # (ny, nx), of that extent, where the rest is not all over its patch

    @property
    def there(self) -> tuple[Lying, ...]:
        """What lies there of it, or must come off, in the order in which it was laid."""
        return tuple(layer for layer in self.layers if layer.kept > 0 or layer.loose_mm2 > 0)

    @property
    def end(self) -> str | None:
        """The last step of it, done or to be done; None for what cannot be laid."""
        return self.ids[-1] if self.ids else self.there[-1].entry.step if self.there else None

    @property
    def built_ml(self) -> float:
        """ml of one copy that lie there and are borne."""
        return sum((layer.entry.volume_ml or 0.0) * layer.kept for layer in self.layers)


@dataclass(frozen=True, eq=False)
class _Left:
    """What is left of a lift, worked out: its state, the estimate of the rest, ml that remain."""

    state: State
    estimate: LiftEstimate | None
    remains_ml: float = 0.0
    notices: tuple[Notice, ...] = ()
    hidden_ml: float = 0.0
    extent: float | None = None  # None: that of the courses that are left
    scale: Array | None = None


def remains(
    scene: ResolvedScene, build: Build, wholes: dict[str, LiftEstimate], match: Match, labels: Labels
) -> dict[str, Work]:
    """What of every lift is still to be laid; `wholes` are the estimates as if nothing of them lay there."""
    works = {}
    stays = {layer.entry.lift.id for layer in match.stays}
    for patch in scene.patches:
        flooded = False
        for place, lift in enumerate(patch.lifts):
            layers = match.layers.get(lift.id, ()) or tuple(one for one in match.stays if one.entry.lift.id == lift.id)
            over = _over(patch, place, match)
            whole, site = wholes[lift.id], build.stages[lift.id].site
            there = [layer for layer in layers if layer.kept > 0]
            asked = match.asked.get(lift.id, lift)
            if lift.id in stays:
                left = _Left("done", None)
            elif not there or (flooded and not lift.levels_itself):
                left = _new(lift, whole, site, over, labels)
            elif isinstance(lift, PourLift):
                left = _of_pour(lift, asked, whole, site, there, labels)
            else:
                left = _of_layer(lift, asked, whole, site, there, over, labels)
            flooded = flooded or (lift.levels_itself and left.state in ("new", "part") and bool(layers))
            works[lift.id] = _work(scene, lift, layers, whole, left, site)
    return works


def all_new(scene: ResolvedScene, wholes: dict[str, LiftEstimate]) -> dict[str, Work]:
    """What is to be done where nothing was built: all of every lift."""
    works = {}
    for name, whole in wholes.items():
        ids = course_ids(name, len(whole.courses), taken=_taken(scene, name))
        ml, extent = whole.plan.volume_ml.number, kind_of(scene.lift(name)).extent(scene.lift(name))
        works[name] = Work("new", whole, 1, ids, remains_ml=ml, extent=extent)
    return works


def _taken(scene: ResolvedScene, lift_id: str) -> frozenset[str]:
    """Ids that no step of a lift can have: those of other lifts, and of steps by which others were laid."""
    lifts = {lift.id for patch in scene.patches for lift in patch.lifts}
    laid = {entry.step for entry in scene.built if entry.lift is None or entry.lift.id != lift_id}
    return frozenset((lifts - {lift_id}) | laid)


def _work(
    scene: ResolvedScene, lift: Lift, layers: tuple[Lying, ...], whole: LiftEstimate, left: _Left, site: Site
) -> Work:
    before = max([len(layers), *(layer.entry.course for layer in layers)]) if layers else 0
    count = 0 if left.estimate is None else len(left.estimate.courses)
    ids = course_ids(lift.id, count, before + 1, _taken(scene, lift.id))
    notices = left.notices
    laid = layers[-1].entry.lift if layers else None
    if laid is not None and left.state != "new" and made_of(laid) != made_of(lift):
        text = f"{lift.title} lies there in {made_of(laid)}; its hours go by that label, whatever is planned now."
        notices = (*notices, Notice("built-of-other", text))
    extent = left.extent
    if extent is None:
        extent = kind_of(lift).extent(lift) * count / max(len(whole.courses), 1)
    remains_ml = left.remains_ml if left.state != "new" else whole.plan.volume_ml.number
    mend = None
    if laid is not None and left.state == "part" and isinstance(lift, PourLift) and whole.courses[0].mend is None:
        mend = scuff(site, filled(lift, site).pools) if whole.mix.reacts else None
    elif whole.courses and left.state == "part":
        mend = whole.courses[0].mend
    return Work(
        left.state,
        left.estimate,
        before + 1,
        ids,
        mend,
        layers,
        remains_ml,
        left.hidden_ml,
        notices,
        extent,
        left.scale,
    )


def _over(patch: Patch, place: int, match: Match) -> list[Lying]:
    """What lies over a lift in its own patch, of lifts that are planned above it; water lets more be poured on it."""
    over: list[Lying] = []
    for later in patch.lifts[place + 1 :]:
        over += [layer for layer in match.layers.get(later.id, ()) if layer.kept > 0]
    return over


def _blocked(over: Sequence[Lying], shape: tuple[int, int]) -> Array:
    """The share (ny, nx) of each cell over which something lies."""
    blocked = np.zeros(shape)
    for layer in over:
        blocked = np.maximum(blocked, layer.share)
    return blocked


def _too_much(lift: Lift, ml: float) -> Notice:
    return Notice("too-much-there", f"{ml:.3g} ml more of {lift.title.lower()} lie there than are planned now.")


def _pools_ml(lift: PourLift, site: Site) -> float:
    """ml in the pools of a pour; 0 where it fills nothing."""
    try:
        return sum(pool.volume_ml for pool in filled(lift, site).pools)
    except Faults:
        return 0.0


def _in_the_way(lift: Lift, patch: Patch, over: Sequence[Lying], ml: float) -> Notice:
    title = over[0].entry.title or over[0].entry.kind
    text = f"{ml:.3g} ml of {lift.title.lower()} on {patch.name} cannot go under {title}, which lies there: take that "
    return Notice("in-the-way", text + "off, or leave this out.")


def _new(lift: Lift, whole: LiftEstimate, site: Site, over: Sequence[Lying], labels: Labels) -> _Left:
    """A lift of which nothing lies there: whole, but not under what lies above it."""
    if not over or lift.levels_itself:
        return _Left("new", whole)
    return _missing(lift, lift, whole, site, np.zeros(site.cover.share.shape), 0.0, over, labels)


def _of_layer(
    lift: Lift,
    asked: Lift,
    whole: LiftEstimate,
    site: Site,
    there: list[Lying],
    over: Sequence[Lying],
    labels: Labels,
) -> _Left:
    """What is left of a layer: by thickness, coats or layers, cell by cell."""
    laid = np.zeros(site.cover.share.shape)
    flat = 0.0  # on a face, which has no cells
    for layer in there:
        part = extent_of(layer.entry)
        laid += part * np.minimum(1.0, layer.share / np.maximum(site.cover.share, 1e-9))
        flat += part * layer.kept
    return _missing(lift, asked, whole, site, laid, flat, over, labels)


def _missing(
    lift: Lift,
    asked: Lift,
    whole: LiftEstimate,
    site: Site,
    laid: Array,
    flat: float,
    over: Sequence[Lying],
    labels: Labels,
) -> _Left:
    """What is missing of a lift where nothing lies over it. `lift` is what is reckoned with, `asked` what is planned:
    other only where what lies there can be made neither more nor less."""
    kind, needed = kind_of(lift), whole.plan.volume_ml.number
    wanted, count, least = kind.extent(lift), len(whole.courses), layable_ml(needed)
    if site.cover.face is not None:
        weights, short = np.ones((1, 1)), np.full((1, 1), 1 - flat / wanted)
        blocked = np.full((1, 1), 1.0 if over else 0.0)
    else:
        cover: Cover = kind.covers(lift, site, labels)
        weights = cell_areas(site.ground) * cover.share
        short = 1 - laid / wanted
        blocked = _blocked(over, laid.shape) / np.maximum(cover.share, 1e-9) > 0.5
    total = float(weights.sum()) or 1.0

    def ml(share: Array) -> float:
        return needed * float((weights * share).sum()) / total

    missing = np.clip(short, 0.0, 1.0)
    free = np.where(blocked, 0.0, missing)
    hidden = ml(missing) - ml(free)
    missing_ml = hidden
    if asked is lift:
        surplus = ml(np.clip(-short, 0.0, None))
    else:  # it is reckoned with as it lies there: what was asked for is told all the same
        times = kind.extent(asked) / wanted
        meant = 1 - (1 - short) / times
        missing_ml = times * ml(np.where(blocked, np.clip(meant, 0.0, None), 0.0))
        surplus = times * ml(np.clip(-meant, 0.0, None))
    notices: tuple[Notice, ...] = (_in_the_way(lift, site.patch, over, missing_ml),) if missing_ml > least else ()
    notices += (_too_much(lift, surplus),) if surplus > least else ()
    if ml(free) <= least:
        return _Left("covered" if missing_ml > least else "done", None, 0.0, notices, hidden)
    done = round(count * (1 - ml(free) / needed))
    as_planned = ml(np.abs(free - (1 - done / count))) <= max(COURSES_OFF * needed, least / 2)
    if as_planned and 0 < done < count:
        rest = without_courses(whole, done)
        return _Left("part", rest, rest.plan.volume_ml.number, notices, hidden)
    if as_planned and done == 0:
        return _Left("new", whole, needed, notices, hidden)
    most = float(free.max())
    lift_left = kind.with_extent(lift, wanted * most)
    scale = free * wanted / kind.extent(lift_left)
    scaled = _scaled(site, scale)
    if float((weights * (1 - short)).sum()) / total >= 1 / count:  # its first course has closed the bed
        scaled = replace(scaled, porous=scaled.porous - {site.patch.id})
    try:
        rest = learnt(kind.estimate(lift_left, scaled, labels), labels)
    except Faults as refused:
        text = f"What is missing of {lift.title.lower()} cannot be laid as it lies there: {refused.faults[0].what}."
        return _Left("covered", None, 0.0, (*notices, Notice("in-the-way", text)), ml(free) + hidden)
    return _Left("part", rest, rest.plan.volume_ml.number, notices, hidden, kind.extent(lift_left), scale)


def _scaled(site: Site, scale: Array) -> Site:
    """The site over which so much (ny, nx) of each cell that its patch owns is still to be covered."""
    whole_cover = site.cover
    if whole_cover.face is not None:
        face = whole_cover.face.model_copy(update={"face_mm2": whole_cover.face.face_mm2 * float(scale.max())})
        cover = Cover(whole_cover.share, whole_cover.inside, face)
    else:
        cover = whole_cover.scaled(scale)
    return replace(site, covers={**site.covers, site.patch.id: cover})


def _of_pour(lift: PourLift, asked: Lift, whole: LiftEstimate, site: Site, there: list[Lying], labels: Labels) -> _Left:
    """What is left of a pour: what fills on above what stands."""
    stands = sum(layer.entry.volume_ml or 0.0 for layer in there)
    if isinstance(asked, PourLift) and asked is not lift:
        return _Left("done", None, 0.0, (_too_much(lift, stands - _pools_ml(asked, site)),))
    layers, least = whole.plan.layers, layable_ml(whole.plan.volume_ml.number)
    for done in range(1, len(layers) + 1):
        poured = sum(layer.volume_ml.number for layer in layers[:done])
        if abs(poured - stands) <= max(COURSES_OFF * poured, least / 2):
            if done == len(layers):
                return _Left("done", None)
            rest = without_courses(whole, done)
            return _Left("part", rest, rest.plan.volume_ml.number)
    pools = whole.plan.pools or ()
    if lift.volume_ml is not None:
        more = lift.volume_ml - stands
        if abs(more) <= least or more < 0:
            return _Left("done", None, 0.0, (_too_much(lift, -more),) if -more > least else ())
        so_far = lift.model_copy(update={"volume_ml": stands, "lifts": "auto", "stands": ()})
        rest_lift = lift.model_copy(update={"volume_ml": more, "lifts": "auto"})
    else:
        level = max((pool.level_mm.number for pool in pools), default=0.0)
        reached = max((layer.entry.level_mm or -1e9 for layer in there), default=-1e9)
        if level - reached <= LEVEL_NEAR_MM:
            over = stands - whole.plan.volume_ml.number
            much = over > least and reached - level > LEVEL_NEAR_MM
            return _Left("done", None, 0.0, (_too_much(lift, over),) if much else ())
        target = {"level_mm": level, "depth_mm": None, "volume_ml": None, "lifts": "auto"}
        so_far = lift.model_copy(update={**target, "level_mm": reached, "stands": ()})
        rest_lift = lift.model_copy(update=target)
    kind = kind_of(lift)
    try:
        under = kind.lay(so_far, site)
        soaked = site.soaked.copy()
        for pool in filled(so_far, site).pools:
            soaked |= pool.cells
        filling = learnt(kind.estimate(rest_lift, replace(site, ground=under, soaked=soaked), labels), labels)
    except Faults as refused:
        text = f"What stands of {lift.title.lower()} does not fit under what is planned: {refused.faults[0].what}."
        return _Left("covered", None, 0.0, (Notice("in-the-way", text),))
    if filling.plan.volume_ml.number <= least:
        return _Left("done", None)
    return _Left("part", filling, filling.plan.volume_ml.number)


def without_courses(whole: LiftEstimate, done: int) -> LiftEstimate:
    """The estimate of a lift without its first courses: the others as they are, amounts by their share."""
    batches = [course.batches for course in whole.courses]
    mixed = sum(one.total_ml for one in batches)
    count = len(batches)
    share = sum(one.total_ml for one in batches[done:]) / mixed if mixed else (count - done) / count
    kept = whole.plan.layers[done:]
    lift_plan = whole.plan

    def of_it(figure: Figure) -> Figure:
        terms = figure.term("all of it"), Term("share of the courses still to be laid", share)
        return Figure(figure.number * share, figure.unit, "all of it × the share still to be laid", terms)

    in_layers = len(lift_plan.layers) == count
    left_ml = sum(layer.volume_ml.number for layer in kept) if in_layers else lift_plan.volume_ml.number * share
    plan = replace(
        lift_plan,
        volume_ml=Figure(left_ml, "ml", "the courses still to be laid", (lift_plan.volume_ml.term("all of it"),)),
        mix_ml=of_it(lift_plan.mix_ml),
        mass_g=of_it(lift_plan.mass_g),
        ingredients=tuple(
            replace(
                one, volume_ml=of_it(one.volume_ml), mass_g=of_it(one.mass_g),
                drops=None if one.drops is None else of_it(one.drops),
            )
            for one in lift_plan.ingredients
        ),
        layers=kept if in_layers else lift_plan.layers,
        mixed_ml=None if lift_plan.mixed_ml is None else lift_plan.mixed_ml * share,
    )  # fmt: skip
    courses: tuple[Course, ...] = whole.courses[done:]
    return replace(whole, plan=plan, courses=courses)
