"""What was done, as a fact of its own: it hangs on a place and a layer, and no later plan changes it."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AwareDatetime, ConfigDict, Field, model_validator

from ..catalogue import Entry, Material, Mix
from ..catalogue.model import Id, Share
from ..fault import Refusal
from .areas import Area
from .places import Flat, Protect

MAX_BUILT = 5000
Text = Annotated[str, Field(max_length=500)]
Hours = Annotated[float, Field(ge=0, le=100_000)]
StepId = Annotated[str, Field(min_length=1, max_length=120)]


class BuiltArea(Entry):
    """What a patch owned of the ground."""

    patch: Id
    area: Area


class BuiltGround(Entry):
    """The ground as it was when something was done: the forms, what each patch owned in the document's order, and the
    places that such areas may lie near."""

    id: Id
    forms: tuple[Any, ...] = ()
    areas: tuple[BuiltArea, ...] = ()
    protect: tuple[Protect, ...] = ()
    flats: tuple[Flat, ...] = ()


class BuiltPart(Entry):
    """One ingredient of a batch: g planned, and g that really went in, None where that was not written down."""

    material: Id
    part: str | None = None
    planned_g: Annotated[float, Field(ge=0)]
    actual_g: Annotated[float, Field(ge=0)] | None = None


class BuiltBatch(Entry):
    """A batch that went into it."""

    batch: StepId
    mix: Id
    parts: tuple[BuiltPart, ...] = ()


class BuiltWindow(Entry):
    """When what follows should come, in hours from its end."""

    what: Text
    from_h: Hours
    to_h: Hours | None = None


class Removal(Entry):
    """What was taken off of something built: all of it (`whole`), or what the ground of the removal no longer bore."""

    of: Id
    whole: bool = False


class Built(Entry):
    """One thing done: where, what, with which label as it then was, how much, when, in which room.

    Of a lift: `lift` as it was written then, the course (`course` of `of`, a `share` of it), what stands in place of it
    (`volume_ml` of one copy; `thickness_mm` of this course, or `level_mm` that a pour reached), `extent` of this course
    in mm, coats or layers, where it is not all over the patch `over`: runs of cells, row by row from the south-west,
    each with the share of the extent that lies there. Of forms: `forms`. Of a removal: `removes`. Hours and `windows`
    are those of its own label and room, None where it never hardens: `wait_h` until what was to follow (`above`) could
    go on.
    """

    model_config = ConfigDict(serialize_by_alias=True, populate_by_name=True)

    id: Id
    step: StepId
    do: Text
    title: Text = ""
    kind: Id
    ground: Id
    patch: Id | None = None
    forms: tuple[Id, ...] = ()
    removes: tuple[Removal, ...] = ()
    lift: Any = None
    course: Annotated[int, Field(ge=1, le=1000)] = 1
    of: Annotated[int, Field(ge=1, le=1000)] = 1
    share: Share = 1.0
    extent: Annotated[float, Field(ge=0, le=2000)] | None = None
    over: tuple[tuple[Annotated[int, Field(ge=1)], Annotated[float, Field(ge=0, le=100)]], ...] = ()
    mix: Mix | None = None
    materials: tuple[Material, ...] = ()
    volume_ml: Annotated[float, Field(ge=0, le=1_000_000)] | None = None
    thickness_mm: Annotated[float, Field(ge=0, le=2000)] | None = None
    level_mm: Annotated[float, Field(ge=-1000, le=5000)] | None = None
    begun: AwareDatetime | None = Field(default=None, alias="from")
    ended: AwareDatetime = Field(alias="to")
    above: Id | None = None
    wait_h: Hours | None = None
    next_h: Hours | None = None
    full_h: Hours | None = None
    usable_h: Hours | None = None
    hands_on_min: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    windows: tuple[BuiltWindow, ...] = ()
    temp_c: float | None = None
    rh: float | None = None
    batches: tuple[BuiltBatch, ...] = ()
    note: Text = ""

    @model_validator(mode="after")
    def _in_order(self) -> Built:
        if self.begun is not None and self.begun > self.ended:
            raise Refusal("it ended before it was begun", "mend `from` or `to`")
        if self.course > self.of:
            raise Refusal(f"it is course {self.course} of {self.of}", "mend `course` or `of`")
        return self
