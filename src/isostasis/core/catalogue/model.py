"""The shape of a label: materials, mixes of them, how they harden, and what to beware of.

Densities are g/ml, film thickness and depth mm, times as their names say, temperatures degC.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..fault import Refusal

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$")]
Positive = Annotated[float, Field(gt=0, le=1_000_000)]
Vessel = Annotated[float, Field(ge=1, le=100_000)]  # ml
Share = Annotated[float, Field(ge=0, le=1)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]


class Entry(BaseModel):
    """A frozen piece of data that refuses keys it does not know, infinities and NaN."""

    __slots__ = ("_hash",)
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def __hash__(self) -> int:
        """Kept once known: a stage is looked up by whole scenes."""
        known: int | None = getattr(self, "_hash", None)
        if known is None:
            known = hash((type(self), *(self.__dict__[name] for name in type(self).model_fields)))
            object.__setattr__(self, "_hash", known)
        return known


class Thermal(Entry):
    """How heat passes: conductivity W/m/K, density kg/m3, heat capacity J/kg/K."""

    k: Positive
    rho: Positive
    c: Positive


class Dries(Entry):
    """Hardens by losing water. `solids` is the share by mass that stays, for what comes ready in a tin."""

    solids: Share | None = None
    diffusivity_m2_s: Positive = 1e-9


class Sets(Entry):
    """Hardens by taking up water: initial set in minutes at 20 degC at the label's own water ratio by mass."""

    set_min: Positive
    water_ratio: Positive


class Reacts(Entry):
    """Two parts that cure. What the tin says: hard after, at, no deeper than; the rest are defaults.

    `hard_h` thin layer at `temp_c`; `working_min` for a batch of `pot_mass_g`; `last_bond_h` the last hour
    at which the next lift still bonds without scuffing. Defaults: SCIENCE 5 of docs/science.md.
    """

    hard_h: Positive
    temp_c: Annotated[float, Field(ge=5, le=60)] = 23.0
    max_depth_mm: Positive
    working_min: Positive
    pot_mass_g: Positive = 100.0
    last_bond_h: Positive | None = None
    activation_kj_mol: Positive = 52.0
    gel: Share = 0.55
    hard: Share = 0.80
    full: Annotated[float, Field(gt=0, lt=1)] = 0.95
    viscosity_pa_s: Positive = 0.8
    shrinkage: Annotated[float, Field(ge=0, lt=0.2)] = 0.015
    surface_tension_n_m: Positive = 0.035
    contact_angle_deg: Annotated[float, Field(ge=0, lt=90)] = 20.0

    @model_validator(mode="after")
    def _in_order(self) -> Reacts:
        if not self.gel < self.hard < self.full:
            raise ValueError("gel, hard and full must rise in that order")
        if self.working_min >= self.hard_h * 60:
            raise Refusal(
                f"it could be worked for {self.working_min:g} min and is hard after {self.hard_h * 60:g} min",
                "the tin's working time is the shorter of the two",
            )
        return self


class Material(Entry):
    """One thing that is bought. `density` is as it is scooped or poured; `particle_density` is what the
    grains of a powder occupy once wet (the same as `density` for liquids). Sheets come in panels; cloth comes on rolls
    (length, width), overlaps by `overlap_mm` and takes up `takes_water` ml a gram when it is dipped. `attacks` names
    families that its solvent eats. What is strewn has a grain size, voids as it lies, and how deep one pass of thinned
    binder reaches into it with a wetting pass before; `opacity` is what one coat hides, `strength` how far a paint
    pulls a blend; `tags` name what rules of order go by (coarse, snow, stands, bleeds, oil, cement). A glue joins
    sheets in `glue_line_h` hours: a line between them has no drying face, so the law of drying is no use there."""

    id: Id
    name: str
    family: Literal[
        "water", "powder", "grain", "binder", "wetting", "seal", "varnish", "resin", "colour", "foam", "paper", "cloth",
        "board", "glue", "paste", "tissue", "tool",
    ]  # fmt: skip
    density: Positive
    particle_density: Positive | None = None
    part_density: tuple[tuple[Literal["A", "B"], Positive], ...] = ()
    hemihydrate: Share = 0.0
    film_mm: Positive | None = None
    glue_line_h: Positive | None = None
    glue_film_mm: Positive = 0.2
    glue_both_faces: bool = False
    glue_how: str = "spread thinly, press down, leave under weights overnight"
    thickness_mm: Positive | None = None
    panel_mm: tuple[Positive, Positive] | None = None
    roll_mm: tuple[Positive, Positive] | None = None
    overlap_mm: Annotated[float, Field(ge=0, le=500)] = 20.0
    takes_water: Annotated[float, Field(ge=0, le=10)] = 0.0
    seals: bool = False
    attacks: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()
    grain_mm: Positive | None = None
    voids: Annotated[float, Field(gt=0, lt=1)] | None = None
    reach_mm: Positive | None = None
    opacity: Share = 0.9
    strength: Positive = 1.0
    sheen: Literal["matt", "gloss"] | None = None
    thermal: Thermal | None = None
    sets: Sets | None = None
    dries: Dries | None = None
    colour: Colour = "#b8aa94"
    hazards: tuple[str, ...] = ()
    look_for: tuple[str, ...] = ()
    sold_by: Literal["ml", "g", "mm2", "piece"] = "ml"
    source: str

    @property
    def weighed(self) -> bool:
        """Whether it is a colour that is weighed, a powder, and not counted in drops."""
        return self.family == "colour" and self.sold_by == "g"

    def density_of(self, part: str | None) -> float:
        """Density in g/ml of the whole, or of part A or B of a kit."""
        return next((density for name, density in self.part_density if name == part), self.density)


class Part(Entry):
    """So many parts of one material, or of one part of a kit, in a mix."""

    material: Id
    parts: Annotated[float, Field(ge=0)]
    part: Literal["A", "B"] | None = None


class Mix(Entry):
    """A recipe in parts by volume (as scooped) or by mass, and how the mixed stuff behaves. What dries and is poured in
    coats says how deep one may be wet: `pour_mm`. A binder that `soaks` runs into a bed of grains. `first`: what goes
    into the bowl first, None where the label does not say."""

    id: Id
    name: str
    family: Literal["skin", "resin", "texture", "binder", "wetting", "seal", "colour"]
    basis: Literal["volume", "mass"] = "volume"
    ingredients: Annotated[tuple[Part, ...], Field(min_length=1)]
    air: Annotated[float, Field(ge=0, lt=1)] = 0.0
    dries: Dries | None = None
    sets: Sets | None = None
    reacts: Reacts | None = None
    film_mm: Positive | None = None
    pour_mm: Positive | None = None
    seals: bool = False
    soaks: bool = True
    opacity: Share = 0.9
    thermal: Thermal | None = None
    colour: Colour = "#b8aa94"
    most_mm: Positive | None = None
    slump_mm: Positive | None = None
    first: Literal["liquid", "powder"] | None = None
    look_for: tuple[str, ...] = ()
    source: str

    @model_validator(mode="after")
    def _something_in_it(self) -> Mix:
        if not sum(part.parts for part in self.ingredients) > 0:
            ratio = ":".join(f"{part.parts:g}" for part in self.ingredients)
            raise Refusal(f"a ratio of {ratio} mixes nothing", "at least one part must be above 0")
        return self


class Price(Entry):
    """What one purchase of a material costs, in the user's own money: a pack that holds `pack` of what it is sold by,
    or so many `packs` of it tied together, at that seller."""

    material: Id
    amount: Annotated[float, Field(ge=0, le=1_000_000)]
    pack: Annotated[float, Field(gt=0, le=1_000_000_000)]  # mm2 of a roll are many
    packs: Annotated[int, Field(ge=1, le=1000)] = 1
    seller: Annotated[str, Field(max_length=60)] = ""

    @property
    def holds(self) -> float:
        """What one purchase comes to, in what the material is sold by."""
        return self.pack * self.packs


Tool = Literal["broad brush", "small brush", "drybrush", "sponge", "strewing", "mist", "drip", "tissue", "cloth"]


class HandRate(Entry):
    """How many cm2 a minute the user's own hands work over with a tool."""

    tool: Tool
    cm2_per_min: Annotated[float, Field(ge=1, le=10_000)]


class Bench(Entry):
    """The user's things: tub, mixing bowl and cup, how fast they spread, what a drop and a scoop hold; the steepest
    grade that their models climb, their stock of risers and shims, the foot of a figure that must stand, prices;
    how many cups for resin there are (None: enough), minutes to set up for messy work and to clean up after it; how
    fast their hands are, where they measured it."""

    tub_mm: tuple[Annotated[float, Field(ge=10, le=5000)], Annotated[float, Field(ge=10, le=5000)]] = (300.0, 200.0)
    bowl_ml: Vessel = 1500.0
    cup_ml: Vessel = 400.0
    spread_ml_per_min: Annotated[float, Field(ge=0.1, le=10_000)] = 60.0
    drop_ml: Annotated[float, Field(ge=0.001, le=1)] = 0.05
    scoop_ml: Annotated[float, Field(ge=0.1, le=10_000)] = 15.0
    grade_most: Annotated[float, Field(gt=0, le=1)] = 0.03
    risers_mm: Annotated[tuple[Positive, ...], Field(max_length=12)] = (50.0, 25.0, 12.0, 6.0)
    shims_mm: Annotated[tuple[Positive, ...], Field(max_length=12)] = (2.0, 1.0, 0.5)
    figure_mm: Annotated[float, Field(ge=1, le=2000)] = 25.0
    prices: Annotated[tuple[Price, ...], Field(max_length=500)] = ()
    cups: Annotated[int, Field(ge=1, le=100)] | None = None
    setup_min: Annotated[float, Field(ge=0, le=120)] = 0.0
    cleanup_min: Annotated[float, Field(ge=0, le=120)] = 0.0
    hands: Annotated[tuple[HandRate, ...], Field(max_length=20)] = ()

    def rate_of(self, tool: Tool) -> float | None:
        """cm2 a minute with a tool; None where it was not measured."""
        return next((one.cm2_per_min for one in self.hands if one.tool == tool), None)

    def price_each(self, material: str) -> float | None:
        """Money for one ml, g, mm2 or piece of a material, as it is sold, of the offer that is cheapest so; None where
        the user gave no price."""
        return min((one.amount / one.holds for one in self.prices if one.material == material), default=None)


class Caution(Entry):
    """What to beware of at a step: shown where a material with `hazard` is in hand; `repeated`: from the second such
    step of a plan on. `danger` orders them, 5 the worst: from 4 on it is to be read before each batch. `happened`: what
    to do at once if it happened anyway."""

    code: Id
    hazard: str
    repeated: bool = False
    danger: Annotated[int, Field(ge=1, le=5)] = 3
    text: str
    reason: str
    happened: str = ""


class Sundry(Entry):
    """What steps of those `kinds`, or with one of those `hazards` in hand, use up beside what is laid: so many for each
    step, each batch, each stretch of tape that is put up, or once for the scene."""

    material: Id
    kinds: tuple[str, ...] = ()
    hazards: tuple[str, ...] = ()
    each: Literal["step", "batch", "tape", "scene"]
    count: Annotated[int, Field(ge=1, le=100)] = 1
    reason: str


class NeighbourRule(Entry):
    """What goes wrong where a lift of a kind in `lays` (or any whose solvent `attacks`) goes on something of a family
    in `on`, or ends beside one in `beside`. `most_layers`: only up to so many layers of cloth. `advice`: nothing is
    wrong, but it wants care. `refused`: it is not planned at all, and this is what would be right."""

    code: Id
    lays: tuple[str, ...] = ()
    on: tuple[str, ...] = ()
    beside: tuple[str, ...] = ()
    attacks: bool = False
    advice: bool = False
    refused: str = ""
    most_layers: int | None = None
    text: str
    reason: str


class LiftSelector(Entry):
    """Which lifts a rule of order means: all that is given must hold. `tags` any of them; `hides`: what lies under it
    is seen no more; `loose`: strewn without glue; `washes`: thinned by as much water or more."""

    kinds: tuple[str, ...] = ()
    families: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()
    sheen: str | None = None
    levelled: bool | None = None
    seals: bool | None = None
    hides: bool | None = None
    loose: bool | None = None
    washes: bool | None = None
    drybrushed: bool | None = None


class OrderRule(Entry):
    """An order of lifts in one lay-up that goes against itself: `first` before `then` (just before it, with `next`)
    without `unless` between or `mended` after both, or `first` without `needs` after it. `advice`: nothing is wrong,
    but it wants care."""

    code: Id
    first: LiftSelector
    then: LiftSelector | None = None
    unless: LiftSelector | None = None
    mended: LiftSelector | None = None
    needs: LiftSelector | None = None
    next: bool = False
    advice: bool = False
    text: str
    reason: str

    @model_validator(mode="after")
    def _says_when(self) -> OrderRule:
        if (self.then is None) == (self.needs is None):
            raise ValueError("a rule of order has `then` or `needs`, one of the two")
        return self


class Factor(Entry):
    """What records say of a label: how many times the predicted amount, hours, minutes of hands, loss in the cup or
    what a bed of it drinks really come, on the mean and eight times in ten, from how many records."""

    label: Id
    quantity: Literal["volume", "hours", "hands", "cup", "bed"]
    mean: Annotated[float, Field(ge=0.2, le=5)]
    low: Annotated[float, Field(ge=0.1, le=10)]
    high: Annotated[float, Field(ge=0.1, le=10)]
    records: Annotated[int, Field(ge=1, le=1_000_000)]


class Rules(Entry):
    """The rules that a plan is judged by: cautions in the order they are reported, what goes on and beside what, and
    what comes before what."""

    cautions: tuple[Caution, ...] = ()
    neighbours: tuple[NeighbourRule, ...] = ()
    order: tuple[OrderRule, ...] = ()

    def neighbour(self, code: str) -> NeighbourRule | None:
        """The rule of neighbours of that code; None where it is not in force."""
        return next((rule for rule in self.neighbours if rule.code == code), None)
