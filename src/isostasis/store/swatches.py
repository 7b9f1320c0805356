"""Trials on scrap: their lanes, photos and rounds of scores, what those come to, and what they say of a label."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from math import isfinite
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.colour.light import is_colour
from ..core.fault import fault
from ..core.swatches.ranking import BEST, LaneRank, Ranking, ranked, weighted
from ..core.swatches.scrap import MAX_LANES
from . import labels, pictures
from .swatch_tables import ScoreRoundRow, ScrapPhotoRow, ScrapRow, SwatchRow
from .tables import BatchRow

MAX_SCRAPS, MAX_JUDGED, MAX_CRITERIA = 2000, 400, 12
MOMENTS = ("dry", "wet")
Picture = tuple[bytes, tuple[int, int]]  # WebP, (width, height) px


@dataclass(frozen=True)
class NewLane:
    """A lane that is to be laid: its name, its lifts, whether it is the control, the batch it is of, its steps."""

    name: str
    lifts: Sequence[Mapping[str, Any]]
    control: bool = False
    batch_id: int | None = None
    steps: str = ""


@dataclass(frozen=True)
class Trial:
    """A scrap with all that belongs to it: lanes from the left, photos by moment, rounds, and how lanes stand after
    them (None before the first)."""

    scrap: ScrapRow
    lanes: tuple[SwatchRow, ...]
    photos: Mapping[str, ScrapPhotoRow]
    rounds: tuple[ScoreRoundRow, ...]
    ranking: Ranking | None

    @property
    def control(self) -> SwatchRow:
        """The lane that all others are held against."""
        return next(one for one in self.lanes if one.control)

    def lane(self, place: int) -> SwatchRow:
        """The lane at a place. Raises Faults."""
        named = next((one for one in self.lanes if one.place == place), None)
        if named is None:
            raise fault("lane", f"there is no lane {place}", f"one of 1 to {len(self.lanes)}")
        return named

    def standing(self, lane: SwatchRow) -> LaneRank | None:
        """How a lane stands; None before the first round."""
        return self.ranking.standings[self.lanes.index(lane)] if self.ranking else None

    def marks(self, lane: SwatchRow) -> list[float]:
        """What a lane was given in each round, out of ten."""
        return [weighted(one.scores[str(lane.place)], self.scrap.weights) for one in self.rounds]


def _criteria(weights: Mapping[str, float]) -> dict[str, float]:
    kept = {name.strip()[:30].lower(): weight for name, weight in weights.items() if name.strip()}
    if not kept or sum(kept.values()) <= 0:
        raise fault("what counts", "nothing counts", "give at least one thing a weight, such as hold 2")
    if len(kept) > MAX_CRITERIA:
        raise fault("what counts", f"{len(kept)} things are too many to judge", f"{MAX_CRITERIA} at most")
    for name, weight in kept.items():
        if not (isfinite(weight) and 0 < weight <= 9):
            raise fault(name, f"{weight:g} is no weight", "write 1 to 9; leave it empty and it does not count")
    return kept


def add(
    session: Session,
    title: str,
    board: str,
    under: Sequence[Mapping[str, Any]],
    room: tuple[float, float],
    weights: Mapping[str, float],
    lanes: Sequence[NewLane],
    now: datetime,
    note: str = "",
) -> ScrapRow:
    """A new scrap with its lanes, from the left. Raises Faults: it has a title, two lanes at least, exactly one of them
    the control, and something that counts."""
    title = title.strip()
    if not title or len(title) > 120:
        raise fault("question", "it has none" if not title else "it is too long", "ask in 120 letters at most")
    if not 2 <= len(lanes) <= MAX_LANES:
        raise fault(
            "ways", f"{len(lanes)} lanes cannot be compared", f"two at least, with the control, {MAX_LANES} at most"
        )
    if sum(one.control for one in lanes) != 1:
        raise fault(
            "control", "a scrap has one control", "leave one lane untreated, or name a known way as the control"
        )
    names = [one.name.strip() for one in lanes]
    if len(set(names)) != len(names) or not all(names):
        raise fault("ways", "two lanes have the same name, or one has none", "name each otherwise")
    if len(list(session.scalars(select(ScrapRow.id)))) >= MAX_SCRAPS:
        raise fault("scrap", f"{MAX_SCRAPS} of them are kept", "put some away first")
    kept = ScrapRow(title=title, board=board, under=[dict(one) for one in under], temp_c=room[0], rh=room[1],
                    weights=_criteria(weights), note=note[:500], made_at=now)  # fmt: skip
    session.add(kept)
    session.flush()
    for place, lane in enumerate(lanes, 1):
        if lane.batch_id is not None and session.get(BatchRow, lane.batch_id) is None:
            raise fault("batch", "it is not there any more", "choose another, or none")
        session.add(
            SwatchRow(
                scrap_id=kept.id, place=place, name=lane.name.strip()[:80], control=lane.control,
                lifts=[dict(lift) for lift in lane.lifts], versions=_versions(session, [*under, *lane.lifts]),
                batch_id=lane.batch_id, steps=lane.steps[:500],
            )
        )  # fmt: skip
    session.flush()
    return kept


def _versions(session: Session, lifts: Sequence[Mapping[str, Any]]) -> dict[str, tuple[labels.Kind, int]]:
    """The kind and version of each label that lifts use, as they are now."""
    kinds: tuple[tuple[str, labels.Kind], ...] = (("mix", "mix"), ("wetting", "mix"), ("material", "material"))
    return {
        lift[name]: (kind, labels.version_of(session, kind, lift[name]))
        for lift in lifts
        for name, kind in kinds
        if lift.get(name)
    }


def find(session: Session, number: int) -> Trial:
    """A scrap that was not put away, whole. Raises Faults."""
    row = session.get(ScrapRow, number)
    if row is None or row.gone_at is not None:
        raise fault("scrap", "there is no such scrap", "choose one of the list")
    return _whole(session, row)


def _whole(session: Session, row: ScrapRow) -> Trial:
    lanes = tuple(session.scalars(select(SwatchRow).where(SwatchRow.scrap_id == row.id).order_by(SwatchRow.place)))
    shots = session.scalars(select(ScrapPhotoRow).where(ScrapPhotoRow.scrap_id == row.id))
    rounds = tuple(
        session.scalars(select(ScoreRoundRow).where(ScoreRoundRow.scrap_id == row.id).order_by(ScoreRoundRow.id))
    )
    ranking = None
    if rounds:
        table = [[weighted(one.scores[str(lane.place)], row.weights) for lane in lanes] for one in rounds]
        ranking = ranked(table, next(at for at, lane in enumerate(lanes) if lane.control))
    return Trial(row, lanes, {one.moment: one for one in shots}, rounds, ranking)


def trials(session: Session) -> list[Trial]:
    """Every scrap that was not put away, the newest first."""
    rows = session.scalars(
        select(ScrapRow).where(ScrapRow.gone_at.is_(None)).order_by(ScrapRow.made_at.desc(), ScrapRow.id.desc())
    )
    return [_whole(session, row) for row in rows]


def put_away(trial: Trial, now: datetime) -> None:
    """Show a scrap no more; its records stay."""
    trial.scrap.gone_at = now


def weigh(trial: Trial, weights: Mapping[str, float]) -> None:
    """What counts how much, anew. What was scored stays; what was never scored cannot count. Raises Faults."""
    criteria = _criteria(weights)
    if trial.rounds:
        scored = set.intersection(*(set(lane) for one in trial.rounds for lane in one.scores.values()))
        missing = [name for name in criteria if name not in scored]
        if missing:
            raise fault(missing[0], "it was not judged in every round", f"choose of {', '.join(sorted(scored))}")
    trial.scrap.weights = criteria


def judge(
    session: Session,
    trial: Trial,
    order: Sequence[int],
    scores: Mapping[int, Mapping[str, float]],
    now: datetime,
    note: str = "",
) -> ScoreRoundRow:
    """Keep a round of judging: every lane in that order, everything that counts out of ten. Raises Faults."""
    places = sorted(one.place for one in trial.lanes)
    if sorted(order) != places or sorted(scores) != places:
        raise fault("round", "not every lane was judged once", "judge all of them, in the order of the page")
    if len(trial.rounds) >= MAX_JUDGED:
        raise fault("round", f"{MAX_JUDGED} rounds are kept", "begin a new scrap")
    for place in places:
        for name in trial.scrap.weights:
            value = scores[place].get(name)
            if value is None or not isfinite(value) or not 0 <= value <= BEST:
                said = "nothing" if value is None else f"{value:g}"
                raise fault(f"{name}, {trial.lane(place).name}", f"{said} is no score", "0 the worst to 10 the best")
    kept = ScoreRoundRow(
        scrap_id=trial.scrap.id, order=list(order), note=note[:500], at=now,
        scores={str(place): {name: float(scores[place][name]) for name in trial.scrap.weights} for place in places},
    )  # fmt: skip
    session.add(kept)
    session.flush()
    return kept


def take_photo(session: Session, trial: Trial, moment: str, picture: Picture, now: datetime) -> ScrapPhotoRow:
    """A photo of the scrap dry or wet, in the place of the one before. Raises Faults for another moment."""
    if moment not in MOMENTS:
        raise fault("photo", f"a scrap is not “{moment[:20]}”", "dry or wet")
    digest = pictures.keep(session, picture[0], picture[1], now)
    row = trial.photos.get(moment)
    if row is None:
        row = ScrapPhotoRow(scrap_id=trial.scrap.id, moment=moment, digest=digest, boxes={}, at=now)
        session.add(row)
    elif row.digest != digest:
        row.digest, row.boxes, row.at = digest, {}, now
    session.flush()
    return row


def set_colours(trial: Trial, moment: str, colours: Mapping[int, str], how: str) -> None:
    """What lanes look like, dry or wet (hex; empty: not known), and how that was found. Raises Faults."""
    if moment not in MOMENTS:
        raise fault("colour", f"a scrap is not “{moment[:20]}”", "dry or wet")
    for place, colour in colours.items():
        lane = trial.lane(place)
        plain = colour.strip().lower()
        if plain and not is_colour(plain):
            raise fault(lane.name, f"“{plain[:12]}” is no colour", "choose one, or leave it empty")
        if plain != getattr(lane, moment):
            setattr(lane, moment, plain)
            lane.how = how[:200]


def outdated(session: Session, lane: SwatchRow) -> bool:
    """Whether a label of a lane says otherwise since it was laid."""
    return any(then != labels.version_of(session, kind, name) for name, (kind, then) in lane.versions.items())


@dataclass(frozen=True)
class Evidence:
    """What a scrap says of a label: the scrap, the lane of it, how that stands, and whether the label says otherwise
    since."""

    trial: Trial
    lane: SwatchRow
    standing: LaneRank | None
    outdated: bool


def evidence(session: Session, name: str) -> list[Evidence]:
    """Every lane that has a label in it, of all scraps, the newest first."""
    return [
        Evidence(trial, lane, trial.standing(lane), outdated(session, lane))
        for trial in trials(session)
        for lane in trial.lanes
        if any(name in (lift.get("mix"), lift.get("material"), lift.get("wetting")) for lift in lane.lifts)
    ]
