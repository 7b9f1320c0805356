"""The planned figures that rows keep: what was to be mixed, what a step was to take, as it stood then."""

from __future__ import annotations

from pydantic import AwareDatetime

from ..core.catalogue import Entry


class PlannedPart(Entry):
    """What was to be measured out of one ingredient of a batch."""

    key: str
    material: str
    part: str | None
    volume_ml: float
    mass_g: float
    drops: float | None


class PlannedBatch(Entry):
    """The figures of a batch as they stood when it was mixed; `feeds`: (lift or form, course, ml) in order; ml of it
    that were left over of another; what records had made of its volume."""

    lift: str
    course: int
    mix: str
    volume_ml: float
    working_min: float | None
    feeds: tuple[tuple[str, int, float], ...]
    ingredients: tuple[PlannedPart, ...]
    blended_ml: float = 0.0
    times: float = 1.0


class PlannedStep(Entry):
    """The figures of a step as they stood when something happened to it: its sentence and its name in a list, its
    wait and hands-on minutes, which course of how many it is, the ml that it lays and of which mix, what records had
    made of its wait and its minutes; of a touch of the kept cup the moment of the layer for which it `stands_for`."""

    do: str
    title: str
    wait_h: float | None
    hands_on_min: float
    course: int | None = None
    of: int | None = None
    volume_ml: float | None = None
    mix: str | None = None
    hours_times: float = 1.0
    hands_times: float = 1.0
    stands_for: AwareDatetime | None = None
