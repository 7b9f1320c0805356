"""Models of the scene document (docs/formats.md says what each field means).

Forms and lifts come in kinds; each kind's model lives with what it does (ground/forms, lifts).
`scene_model` joins them to one model of the whole, from which reading and the JSON Schema follow.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from functools import cache, reduce
from itertools import groupby, pairwise
from operator import or_
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BeforeValidator, Field, Tag, create_model, model_validator

from ..catalogue import Bench, Entry, Factor, Material, Mix, Rules
from ..catalogue.model import Id, Positive
from ..fault import Faults, Refusal
from ..hours import outside_years, parse_hours
from .areas import Area, given
from .built import MAX_BUILT, Built, BuiltGround
from .outline import Coordinate, Point, Ring, disc
from .places import Flat, Protect

MAX_CELLS = 4_000_000
MAX_LISTED = 1000  # forms, patches, lifts of a patch, and whatever else a scene lists
MAX_READINGS = 10_000
LONGEST_MM = 20_000
EDGE_MM = 0.25  # an outline may stand out of the base so far: round bases are drawn with corners
SHORT_MM = 300  # under this a cell is 2 mm by default, 5 mm otherwise

Side = Literal["north", "south", "east", "west", "all"]
Sides = Annotated[tuple[Side, ...], BeforeValidator(lambda sides: (sides,) if isinstance(sides, str) else sides)]
WaterC = Annotated[float, Field(ge=1, le=60)]
RoomC = Annotated[float, Field(ge=-10, le=50)]


def _humidity(value: float) -> float:
    """Refuse a relative humidity over 1: 40 was written where 0.40 was meant."""
    if 1 < value <= 100:
        raise Refusal(f"a humidity of {value:g} is above 1", f"{value:g} percent is written {value / 100:g}")
    if not 0 <= value <= 1:
        raise Refusal(f"a humidity of {value:g} is outside 0 to 1", "half damp is written 0.5")
    return value


Humidity = Annotated[float, AfterValidator(_humidity)]


def _in_years(at: datetime) -> datetime:
    wrong = outside_years(at)
    if wrong:
        raise Refusal(wrong, "mend the year")
    return at


Moment = Annotated[datetime, AfterValidator(_in_years)]


class Reading(Entry):
    """The room at one moment."""

    at: Moment
    temp_c: RoomC
    rh: Humidity


class Room(Entry):
    """Where the work dries: steady, or a series that starts when the work does."""

    temp_c: RoomC = 21.0
    rh: Humidity = 0.5
    air: Literal["still", "fan"] = "still"
    series: Annotated[tuple[Reading, ...], Field(max_length=MAX_READINGS)] = ()

    @model_validator(mode="after")
    def _sound(self) -> Room:
        times = [reading.at for reading in self.series]
        if len({time.tzinfo is None for time in times}) > 1:
            raise Refusal("some times of the series have a zone and some have none", "write all with or all without")
        if any(later <= earlier for earlier, later in pairwise(times)):
            raise Refusal("the times of the series do not rise", "list its readings from first to last")
        return self

    def since(self, moment: datetime) -> Room:
        """The room from a moment (with a zone) on: the series cut so that it begins then. Readings without a zone are
        in the moment's; before the first reading the first holds."""
        if not self.series:
            return self
        local = moment if self.series[0].at.tzinfo else moment.replace(tzinfo=None)
        now = next((one for one in reversed(self.series) if one.at <= local), self.series[0])
        later = tuple(one for one in self.series if one.at > local)
        return self.model_copy(update={"series": (now.model_copy(update={"at": local}), *later)})


class Workplace(Entry):
    """A place besides the bench, with a climate of its own: a garage, the yard by daylight.

    `hours`: when one can work there, written as bench hours; `daylight`: latitude and longitude (degrees, north and
    east), where one works there between sunrise and sunset.
    """

    id: Id
    name: Annotated[str, Field(min_length=1, max_length=80)]
    room: Room = Room()
    hours: Annotated[str, Field(max_length=400)] | None = None
    daylight: tuple[Annotated[float, Field(ge=-90, le=90)], Annotated[float, Field(ge=-180, le=180)]] | None = None

    @model_validator(mode="after")
    def _sound(self) -> Workplace:
        if self.hours is not None:
            try:
                parse_hours(self.hours)
            except Faults as faults:
                raise Refusal(faults.faults[0].what, faults.faults[0].right) from None
        return self


class Gate(Entry):
    """An outside job or a delivery that lifts and forms wait for: there from `not_before` on, or once it is `done`."""

    id: Id
    name: Annotated[str, Field(min_length=1, max_length=80)]
    not_before: Moment | None = None
    done: bool = False
    blocks: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MAX_LISTED)]


class Disc(Entry):
    """A round outline, as large as fits is centred on the base."""

    disc_mm: Positive


RingOrDisc = Annotated[Annotated[Ring, Tag("ring")] | Annotated[Disc, Tag("disc_mm")], given("ring", "disc_mm")]


class Base(Entry):
    """The board under everything."""

    width_mm: Annotated[float, Field(gt=0, le=LONGEST_MM)]
    depth_mm: Annotated[float, Field(gt=0, le=LONGEST_MM)]
    outline: RingOrDisc | None = None
    board: Id = "plywood-9"
    dammed: Sides = ()
    dam_mm: Positive | None = None
    tilt_mm_per_m: tuple[Annotated[float, Field(ge=-500, le=500)], Annotated[float, Field(ge=-500, le=500)]] = (
        0.0,
        0.0,
    )
    battens: Annotated[int, Field(ge=0, le=40)] = 0
    joints_x_mm: Annotated[tuple[Coordinate, ...], Field(max_length=50)] = ()
    joints_y_mm: Annotated[tuple[Coordinate, ...], Field(max_length=50)] = ()

    @property
    def ring(self) -> tuple[Point, ...]:
        """The base's edge as a ring."""
        if isinstance(self.outline, Disc):
            return disc(self.outline.disc_mm, (self.width_mm / 2, self.depth_mm / 2))
        if self.outline:
            return self.outline
        return ((0.0, 0.0), (self.width_mm, 0.0), (self.width_mm, self.depth_mm), (0.0, self.depth_mm))

    @model_validator(mode="after")
    def _fits(self) -> Base:
        if isinstance(self.outline, Disc) and self.outline.disc_mm > min(self.width_mm, self.depth_mm):
            raise Refusal(
                f"a disc of {self.outline.disc_mm:g} mm does not fit into {self.width_mm:g} x {self.depth_mm:g} mm",
                "make the base's width and depth at least as large",
            )
        if self.joints_x_mm and not all(0 < x < self.width_mm for x in self.joints_x_mm):
            raise Refusal("a joint lies outside the board", f"x must be between 0 and {self.width_mm:g}")
        if self.joints_y_mm and not all(0 < y < self.depth_mm for y in self.joints_y_mm):
            raise Refusal("a joint lies outside the board", f"y must be between 0 and {self.depth_mm:g}")
        return self


Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
PicturePoint = tuple[Annotated[float, Field(ge=-20_000, le=40_000)], Annotated[float, Field(ge=-20_000, le=40_000)]]


class Photo(Entry):
    """A picture of the board laid straight under the plan. Pictures are kept beside the documents, by the SHA-256 of
    their content: the `straight` one of width and depth from the south-west corner, and the one that was `taken`.

    `corners` are the board's in px of that one, as they were clicked: south-west, south-east, north-east, north-west.
    `left_out` says that this document came without its pictures.
    """

    straight: Digest
    taken: Digest
    width_mm: Annotated[float, Field(gt=0, le=LONGEST_MM)]
    depth_mm: Annotated[float, Field(gt=0, le=LONGEST_MM)]
    corners: tuple[PicturePoint, PicturePoint, PicturePoint, PicturePoint]
    agree_mm: Annotated[float, Field(ge=0, le=1000)] | None = None  # None: it was scaled by two points
    bend: Annotated[float, Field(ge=-1, le=1)] = 0.0
    tilt_deg: Annotated[float, Field(ge=0, le=90)] = 0.0
    strength: Annotated[float, Field(ge=0, le=1)] = 0.85
    left_out: bool = False


class Form(Entry):
    """Something that shapes the ground. A kind adds its own fields and stands in ground/forms."""

    id: Id
    kind: str
    name: Annotated[str, Field(max_length=80)] | None = None
    material: Id | None = None
    glue: Id | None = None
    off: bool = False
    after: Id | None = None  # the lift that must be hard before this form comes
    place: Id | None = None  # where it is made; None: at the bench
    # What it is made of where the scene does not say; None for what only cuts.
    default_material: ClassVar[str | None] = None
    cuts: ClassVar[bool] = False  # whether it only takes ground away
    runs_out: ClassVar[bool] = False  # whether its path may begin or end beyond the base
    keeps_clear: ClassVar[bool] = False  # whether no patch lies over it but one that is said to lie on it
    do: ClassVar[str] = "Make {}"  # what the work is, {} its name
    by_edge: ClassVar[bool] = False  # whether that goes by the length of its edge, or else by its area

    @property
    def title(self) -> str:
        """What people call it."""
        return self.name or self.id.replace("-", " ").capitalize()

    @property
    def line(self) -> tuple[Point, ...]:
        """Its outline or its path; empty for what has neither."""
        return getattr(self, "outline", None) or getattr(self, "path", None) or ()

    @property
    def closed(self) -> bool:
        """Whether its line is an outline."""
        return bool(getattr(self, "outline", None))

    @property
    def made_of(self) -> str | None:
        """The material's id; None for a cut."""
        return self.material or self.default_material


class Tint(Entry):
    """So many drops of a colour in 100 ml, or grams of a powder."""

    material: Id
    drops_per_100_ml: Annotated[float, Field(ge=0, le=200)] | None = None
    g_per_100_ml: Annotated[float, Field(ge=0, le=20)] | None = None

    @property
    def per_100_ml(self) -> float:
        """Drops, or grams of a powder, in 100 ml."""
        return (self.drops_per_100_ml if self.g_per_100_ml is None else self.g_per_100_ml) or 0.0

    @model_validator(mode="after")
    def _one_way(self) -> Tint:
        if (self.drops_per_100_ml is None) == (self.g_per_100_ml is None):
            raise Refusal("a tint needs drops_per_100_ml, or g_per_100_ml for a powder", "give just one of them")
        return self


class Lift(Entry):
    """One layer in a lay-up. A kind adds its own fields and stands in lifts."""

    id: Id
    kind: str
    after: Annotated[tuple[Id, ...], Field(max_length=MAX_LISTED)] = ()
    place: Id | None = None  # where it is laid and hardens; None: at the bench, in the scene's room
    # What every kind says of itself; none of it has a default, so that no kind can forget it.
    levels_itself: ClassVar[bool]  # liquid that finds its own level: other patches see it only from their own pours on
    raises_ground: ClassVar[bool]  # whether it has a thickness of its own
    shares_batches: ClassVar[bool]  # whether one bowl may serve several patches that get this mix at the same time
    dries_as_bed: ClassVar[bool]  # whether glue or resin above it must wait until it is dry through
    wants_dry_bed: ClassVar[bool]  # whether it must not meet such a bed in its own lay-up while that is wet
    names_material: ClassVar[tuple[str, ...]]  # fields that name a material, so that every label in use is found
    names_mix: ClassVar[tuple[str, ...]]

    @property
    def title(self) -> str:
        """What people call it: its id in words, none twice in a row."""
        return " ".join(word for word, _ in groupby(self.id.split("-"))).capitalize()


class Patch(Entry):
    """A named spot with its lay-up, bottom up."""

    id: Id
    name: Annotated[str, Field(min_length=1, max_length=80)]
    area: Area
    lifts: Annotated[tuple[Any, ...], Field(max_length=MAX_LISTED)] = ()

    def short(self, lift: Lift) -> str:
        """A lift of it in words, beside its own name: without what names the patch, which is its id or a word."""
        own = lift.id.removeprefix(f"{self.id}-")
        words = own.lower().split("-")
        return " ".join(words if own != lift.id else words[1:] or words)

    def spot(self, lift: Lift) -> str:
        """What people call a lift of it: "Pit lake, skin"."""
        return f"{self.name}, {self.short(lift)}"


class Scene(Entry):
    """One piece of work on one base."""

    __slots__ = ("_by_lift",)
    isostasis: Literal[1]
    name: Annotated[str, Field(min_length=1, max_length=80)]
    grid_mm: Annotated[float, Field(ge=0.1, le=100)] | None = None
    copies: Annotated[int, Field(ge=1, le=1000)] = 1
    base: Base
    photo: Photo | None = None
    room: Room = Room()
    forms: Annotated[tuple[Any, ...], Field(max_length=MAX_LISTED)] = ()
    patches: Annotated[tuple[Patch, ...], Field(max_length=MAX_LISTED)] = ()
    protect: Annotated[tuple[Protect, ...], Field(max_length=MAX_LISTED)] = ()
    flats: Annotated[tuple[Flat, ...], Field(max_length=MAX_LISTED)] = ()
    places: Annotated[tuple[Workplace, ...], Field(max_length=MAX_LISTED)] = ()
    gates: Annotated[tuple[Gate, ...], Field(max_length=MAX_LISTED)] = ()
    bench: Bench | None = None
    rules: Rules | None = None
    factors: Annotated[tuple[Factor, ...], Field(max_length=MAX_LISTED)] | None = None
    mixes: Annotated[tuple[Mix, ...], Field(max_length=MAX_LISTED)] = ()
    materials: Annotated[tuple[Material, ...], Field(max_length=MAX_LISTED)] = ()
    built: Annotated[tuple[Built, ...], Field(max_length=MAX_BUILT)] = ()
    built_on: Annotated[tuple[BuiltGround, ...], Field(max_length=MAX_LISTED)] = ()

    @property
    def cell_mm(self) -> float:
        """Side of a cell of the ground."""
        return self.grid_mm or (2.0 if max(self.base.width_mm, self.base.depth_mm) < SHORT_MM else 5.0)

    @model_validator(mode="after")
    def _cells(self) -> Scene:
        width, depth, cell = self.base.width_mm, self.base.depth_mm, self.cell_mm
        cells = (width / cell) * (depth / cell)
        if cells > MAX_CELLS:
            fits = (width * depth / MAX_CELLS) ** 0.5
            raise Refusal(
                f"a board of {width:g} x {depth:g} mm at {cell:g} mm has {cells:,.0f} cells, more than {MAX_CELLS:,}",
                f"a grid_mm of {-(-fits // 0.5) * 0.5:g} or more would do",
            )
        if min(width, depth) < 4 * cell:
            raise Refusal(
                f"a board of {width:g} x {depth:g} mm has fewer than 4 cells of {cell:g} mm a side",
                f"a grid_mm of {min(width, depth) / 12:.2g} would do",
            )
        return self

    def room_of(self, place: str | None) -> Room:
        """The room of a place; the scene's own for the bench."""
        return next((one.room for one in self.places if one.id == place), self.room)

    def patch_of(self, lift_id: str) -> Patch:
        """The patch whose lay-up holds the lift. Raises KeyError."""
        return self._placed()[lift_id][0]

    def lift(self, lift_id: str) -> Any:
        """The lift of that id. Raises KeyError."""
        return self._placed()[lift_id][1]

    def _placed(self) -> dict[str, tuple[Patch, Any]]:
        """Every lift with its patch, by its id: kept, and not handed on to a changed copy."""
        known: dict[str, tuple[Patch, Any]] | None = getattr(self, "_by_lift", None)
        if known is None:
            known = {lift.id: (patch, lift) for patch in reversed(self.patches) for lift in reversed(patch.lifts)}
            object.__setattr__(self, "_by_lift", known)
        return known


@cache
def scene_model(forms: tuple[type[Form], ...], lifts: tuple[type[Lift], ...]) -> type[Scene]:
    """The scene's model with just these kinds of forms and lifts."""

    def one_of(kinds: Iterable[type[Entry]]) -> Any:
        return Annotated[reduce(or_, kinds), Field(discriminator="kind")]

    # mypy cannot follow models that are made here: which kinds there are is known at run time only.
    many: Any = tuple

    def listed(kind: Any) -> Any:
        return Annotated[many[kind, ...], Field(max_length=MAX_LISTED)]

    patch = create_model("Patch", __base__=Patch, __doc__=Patch.__doc__, lifts=(listed(one_of(lifts)), ()))
    built = create_model("Built", __base__=Built, __doc__=Built.__doc__, lift=(one_of(lifts) | None, None))
    ground = create_model("BuiltGround", __base__=BuiltGround, __doc__=BuiltGround.__doc__,
                          forms=(listed(one_of(forms)), ()))  # fmt: skip
    return create_model(
        "Scene",
        __base__=Scene,
        __doc__=Scene.__doc__,
        forms=(listed(one_of(forms)), ()),
        patches=(listed(patch), ()),
        built=(Annotated[many[built, ...], Field(max_length=MAX_BUILT)], ()),
        built_on=(listed(ground), ()),
    )
