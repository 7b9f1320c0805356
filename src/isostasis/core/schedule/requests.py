"""What the user asks of a scene's clock, as it is kept and as it crosses to the solver's process."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field

from ..catalogue import Entry
from ..document.scene import Moment


class ClockRequest(Entry):
    """By when a scene is wanted, with how many hours to spare, and steps that are pinned to a moment."""

    deadline: Moment | None = None
    buffer_h: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    pins: dict[str, Moment] = Field(default_factory=dict, max_length=2000)

    def pinned(self, step: str, at: datetime | None) -> ClockRequest:
        """This with a step pinned to a moment, or let go."""
        pins = {name: when for name, when in self.pins.items() if name != step}
        if at is not None:
            pins[step] = at
        return self.model_copy(update={"pins": pins})


class MarkedSteps(Entry):
    """What was marked, by step: when."""

    started: dict[str, datetime] = Field(default_factory=dict)
    done: dict[str, datetime] = Field(default_factory=dict)
    skipped: dict[str, datetime] = Field(default_factory=dict)
    not_yet: dict[str, datetime] = Field(default_factory=dict)
    ready: dict[str, datetime] = Field(default_factory=dict)
