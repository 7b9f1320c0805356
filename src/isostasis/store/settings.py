"""Settings: how the reader reads, the user's bench and hours, lay-ups, sieves, stand-ins, the cookies' key.

A row a setting; together they are one model, so that what is not set has its default and what is set is checked.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.catalogue import Bench
from ..core.fault import Fault
from ..core.stock.model import Seller
from .fitting import fitting
from .kept import kept
from .tables import SettingRow

MAX_ENTRIES = 500
Share = Annotated[float, Field(gt=0, le=1)]


class LevelState(BaseModel):
    """The board under a simulated spirit level: its lean in mm/m, the noise's seed, how many readings were taken."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    east: float
    north: float
    seed: int
    taken: int = 0


class Vessel(BaseModel):
    """A cup, spoon, scoop or dropper of the user's own and what it holds, ml; how that was found."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: Annotated[str, Field(min_length=1, max_length=40)]
    ml: Annotated[float, Field(gt=0, le=20_000)]
    found: Annotated[str, Field(max_length=120)] = ""


class ScaleState(BaseModel):
    """What lies on the simulated scale, since when, what lay there before, its tare and its noise's seed."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    seed: int
    begun: AwareDatetime
    load_g: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    before_g: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    since: AwareDatetime | None = None
    tare_g: Annotated[float, Field(ge=-1000, le=100_000)] = 0.0


class FactorChoice(BaseModel):
    """What was said of a factor: off, or from when on records count."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    off: bool = False
    since: AwareDatetime | None = None


class Settings(BaseModel):
    """All settings. `level` by scene, `layups` by name (lifts as documents have them), `sieves` by material and mesh,
    `together` the scenes that share one pair of hands, `keep` by material how much of it there should always be,
    `path` whether the first steps are shown, `factors` what was said of what records teach, by "label/quantity",
    `scale_at` and `probe_at` where a real scale and room probe speak (host:port, serial:port; empty: nowhere)."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    system: Literal["metric", "imperial"] = "metric"
    theme: Literal["light", "dark"] = "light"
    bench: Bench = Bench()
    hours: Annotated[str, Field(max_length=400)] = "mon-fri 19:00-22:00; sat-sun 10:00-17:00"
    together: Annotated[tuple[str, ...], Field(max_length=MAX_ENTRIES)] = ()
    layups: Annotated[dict[str, tuple[dict[str, Any], ...]], Field(max_length=MAX_ENTRIES)] = {}
    sieves: Annotated[dict[str, dict[str, Share]], Field(max_length=MAX_ENTRIES)] = {}
    level: dict[str, LevelState] = {}
    scale: ScaleState | None = None
    scale_at: Annotated[str, Field(max_length=120)] = ""
    probe_at: Annotated[str, Field(max_length=120)] = ""
    currency: Annotated[str, Field(max_length=4)] = ""
    sellers: Annotated[tuple[Seller, ...], Field(max_length=40)] = ()
    vessels: Annotated[tuple[Vessel, ...], Field(max_length=60)] = ()
    keep: Annotated[dict[str, Annotated[float, Field(gt=0, le=1e9)]], Field(max_length=MAX_ENTRIES)] = {}
    factors: Annotated[dict[str, FactorChoice], Field(max_length=MAX_ENTRIES)] = {}
    path: Literal["shown", "left"] = "shown"
    secret: str | None = None


def _kept(session: Session) -> dict[str, Any]:
    rows = session.execute(select(SettingRow.name, SettingRow.value))
    return {row.name: row.value for row in rows}


@kept
def read(session: Session) -> Settings:
    """All settings, what is not set, or was and no longer fits, at its default."""
    return fitting(Settings, _kept(session))[0]


def faults(session: Session) -> tuple[Fault, ...]:
    """What is wrong with what was set by an earlier version."""
    return fitting(Settings, _kept(session))[1]


def change(session: Session, **changes: Any) -> Settings:
    """Set some of them. Raises pydantic's ValidationError for a value that a setting cannot have."""
    settings = Settings.model_validate({**dict(read(session)), **changes})
    values = settings.model_dump(mode="json", include=set(changes), exclude_unset=False)
    for name in changes:
        session.merge(SettingRow(name=name, value=values[name]))
    return settings
