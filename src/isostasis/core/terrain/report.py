"""Everything that is read off the ground of a scene, addressed like the figures of a plan."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, ClassVar

from ..catalogue import Catalogue, Mix
from ..document import ResolvedScene
from ..fault import fault
from ..figure import Figure, Term, at_path, to_jsonable
from ..ground.field import empty_ground
from ..lifts.areas import overlaps
from ..lifts.estimate import LiftPlan
from ..lifts.fold import Build
from ..lifts.labels import Labels
from .carve import Flight, flights
from .foam import FoamList, foam_lists
from .joints import Joint, joints
from .keep import FlatPlan, FootTest, ProtectPlan, check_flats, protections, stand, standing_map
from .reading import Reading, read_ground

SLOPE_DEG = 38.0
SECTIONS = ("reading", "flights", "joints", "foam", "flats", "protect", "wobble", "overlaps")


@dataclass(frozen=True, slots=True)
class GroundQuery:
    """What a reader can choose: the stage that is read off, the slope and compound for steps, a figure's foot and
    where it is put (None: everywhere)."""

    stage: str = "bare"
    slope_deg: float = SLOPE_DEG
    mix: str = "paper-plaster"
    foot_mm: float | None = None
    at: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Wobble:
    """A figure's foot tried all over the board, and at one place if one was asked for."""

    JSON: ClassVar[tuple[str, ...]] = ("foot_mm", "stands", "here", "spots")  # what machines read

    foot_mm: float
    stands: Figure
    here: FootTest | None
    spots: tuple[FootTest, ...]


@dataclass(frozen=True, slots=True)
class Overlap:
    """Ground that two patches claim; the later listed owns it."""

    JSON: ClassVar[tuple[str, ...]] = ("owner", "loser", "area_mm2")  # what machines read

    owner: str
    loser: str
    area_mm2: Figure


@dataclass(frozen=True, slots=True)
class Report:
    """The report; a section that was not asked for is empty."""

    JSON: ClassVar[tuple[str, ...]] = (
        "reading",
        "flights",
        "joints",
        "foam",
        "flats",
        "protect",
        "wobble",
        "overlaps",
    )  # what machines read

    reading: Reading | None = None
    flights: dict[str, Flight] | None = None
    joints: dict[str, Joint] | None = None
    foam: dict[str, FoamList] | None = None
    flats: dict[str, FlatPlan] | None = None
    protect: dict[str, ProtectPlan] | None = None
    wobble: Wobble | None = None
    overlaps: tuple[Overlap, ...] = ()

    def figure(self, path: str) -> Figure:
        """The figure at a path such as `flights.flight-1.fill_ml`. Raises KeyError."""
        value = at_path(self, path)
        if not isinstance(value, Figure):
            raise KeyError(path)
        return value

    def as_json(self) -> dict[str, Any]:
        """For machines: figures are their values."""
        data: dict[str, Any] = to_jsonable(self)
        return data


def labels_for(scene: ResolvedScene, mix: Mix, catalogue: Catalogue) -> Labels:
    """The scene's labels, with those of a mix that it may not use yet."""
    labels = Labels.of(scene)
    extra = {
        part.material: catalogue.materials[part.material]
        for part in mix.ingredients
        if part.material in catalogue.materials
    }
    return Labels({**extra, **labels.materials}, labels.mixes)


def compound(scene: ResolvedScene, name: str, catalogue: Catalogue) -> Mix:
    """The mix of that id, the scene's own or the catalogue's. Raises Faults."""
    label = Labels.of(scene).mixes.get(name) or catalogue.mixes.get(name)
    if label is None or label.family != "skin":
        known = sorted(mix.id for mix in catalogue.mixes.values() if mix.family == "skin")
        raise fault("mix", f"there is no compound '{name}'", f"one of {', '.join(known)}")
    return label


def wobble(scene: ResolvedScene, built: Build, asked: GroundQuery) -> Wobble:
    """The foot all over the ground of a stage. Raises Faults for a foot that fits nowhere."""
    foot = asked.foot_mm or scene.bench.figure_mm
    ground = built.at(asked.stage)
    spots = standing_map(ground, foot)
    if not spots:
        raise fault(
            "foot",
            f"a foot of {foot:g} mm finds no place on this base",
            f"between {4 * ground.cell_mm:g} mm and the base",
        )
    share = sum(spot.stands for spot in spots) / len(spots)
    formula = "places where it leans at most 5° and its rim drops at most 0.5 mm / places tried"
    terms = (Term("places tried", len(spots)), Term("foot", foot, "mm"))
    return Wobble(
        foot, Figure(share * 100, "%", formula, terms), stand(ground, asked.at, foot) if asked.at else None, spots
    )


def report(
    scene: ResolvedScene,
    built: Build,
    lifts: dict[str, LiftPlan],
    asked: GroundQuery,
    catalogue: Catalogue,
    sections: tuple[str, ...] = SECTIONS,
) -> Report:
    """The sections asked for, of a resolved scene that has been built. Raises Faults, KeyError for an unknown stage."""
    answer = Report()
    if "reading" in sections:
        answer = replace(answer, reading=read_ground(scene, built, lifts, asked.stage))
    if "flights" in sections:
        mix = compound(scene, asked.mix, catalogue)
        if not 0 < asked.slope_deg < 90:
            raise fault("slope", f"{asked.slope_deg:g}° is no slope", "between 1 and 89 degrees, such as 38")
        answer = replace(answer, flights=flights(scene, built, labels_for(scene, mix, catalogue), asked.slope_deg, mix))
    if "joints" in sections:
        answer = replace(answer, joints=joints(scene, built))
    if "foam" in sections:
        answer = replace(answer, foam=foam_lists(scene, built))
    if "flats" in sections:
        answer = replace(answer, flats=check_flats(scene, built))
    if "protect" in sections:
        answer = replace(answer, protect=protections(scene, built))
    if "wobble" in sections:
        answer = replace(answer, wobble=wobble(scene, built, asked))
    if "overlaps" in sections:
        board = empty_ground(scene.base, scene.cell_mm)
        cell = Term("cell", board.cell_mm, "mm", "grid of this scene")
        answer = replace(answer, overlaps=tuple(
            Overlap(owner, loser, Figure(float(both.sum()) * board.cell_area, "mm2",
                    "ground that both claim; the patch listed later owns it", (cell,)))
            for owner, loser, both in overlaps(scene, built.bare)))  # fmt: skip
    return answer
