"""A scrap as it is drawn: its lanes beside each other, and what they were given hung under them."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.swatches.colour import Box
from ...core.swatches.ranking import BEST
from ...store.swatch_tables import SwatchRow
from ...store.swatches import Trial

WIDE, HIGH, TOP, LEFT = 756.0, 400.0, 46.0, 30.0
RING_DX = 9.0
STRIP_WIDE, STRIP_HIGH = 756.0, 168.0
CARD: Box = (0.88, 0.78, 0.1, 0.18)  # where the card is looked for at first
HATCHES = {"texture": "grain", "fix": "drops", "coat": "slant", "pour": "wave", "skin": "dots"}


@dataclass(frozen=True)
class Lane:
    """A lane of the strip: its place, where it stands (px), its colour (hex), its hatch, its part of the photo as a
    view box ("" where there is none), its mark in words, and whether it is the leader, the control."""

    place: int
    name: str
    x: float
    wide: float
    colour: str
    hatch: str
    view: str
    said: str
    leads: bool
    control: bool


@dataclass(frozen=True)
class Hung:
    """What a lane was given: rings (x, y), the bar of its range (x, top, height), its mean (y, words)."""

    rings: tuple[tuple[float, float], ...]
    x: float
    top: float
    high: float
    mean: float
    words: str
    leads: bool


@dataclass(frozen=True)
class Chart:
    """Scores under their lanes: what each was given, the band of the control (top, height), lines of the scale (y,
    words), and the bracket over lanes that cannot be told apart (from x, to x)."""

    hung: tuple[Hung, ...]
    band: tuple[float, float] | None
    lines: tuple[tuple[float, str], ...]
    tie: tuple[float, float] | None


def box_of(boxes: dict[str, list[float]], place: int, lanes: int) -> Box:
    """The box of a lane in its photo: as it was drawn, else its even share from the left."""
    kept = boxes.get(str(place))
    if kept and len(kept) == 4:
        return kept[0], kept[1], kept[2], kept[3]
    each = 1 / lanes
    return (round((place - 1) * each + each * 0.15, 4), 0.15, round(each * 0.7, 4), 0.5)


def card_of(boxes: dict[str, list[float]]) -> Box:
    """The box of the card."""
    kept = boxes.get("card")
    return (kept[0], kept[1], kept[2], kept[3]) if kept and len(kept) == 4 else CARD


def hatch_of(lane: SwatchRow, under: list[dict[str, object]]) -> str:
    """The hatch of what lies on top."""
    laid = [*under, *lane.lifts]
    return HATCHES.get(str(laid[-1]["kind"]), "dots") if laid else "dots"


def ordinal(place: int) -> str:
    """A place in words.

    >>> [ordinal(one) for one in (1, 2, 3, 11, 22)]
    ['1st', '2nd', '3rd', '11th', '22nd']
    """
    end = "th" if 10 <= place % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(place % 10, "th")
    return f"{place}{end}"


def said_of(trial: Trial, lane: SwatchRow) -> str:
    """Where a lane stands, in words; honest about what cannot be told."""
    standing = trial.standing(lane)
    if lane.control:
        return "control"
    if standing is None:
        return "not judged"
    best, worst = standing.places
    if best == worst:
        return ordinal(best)
    joined = " or " if worst - best == 1 else " to "
    return f"{ordinal(best)}{joined}{ordinal(worst)}"


def strip(trial: Trial, colours: dict[int, str], size: tuple[int, int] | None) -> tuple[Lane, ...]:
    """The lanes of a scrap from the left; `size` of its photo in px, None without one."""
    each = STRIP_WIDE / len(trial.lanes)
    photo = trial.photos.get("dry") or trial.photos.get("wet")
    leader = trial.ranking.leader if trial.ranking else None
    drawn = []
    for number, lane in enumerate(trial.lanes):
        view = ""
        if photo is not None and size is not None:
            west, north, width, height = box_of(photo.boxes, lane.place, len(trial.lanes))
            view = f"{west * size[0]:.1f} {north * size[1]:.1f} {width * size[0]:.1f} {height * size[1]:.1f}"
        top = leader is not None and trial.ranking is not None and number in (leader, *trial.ranking.ties)
        drawn.append(
            Lane(lane.place, lane.name, round(number * each + 4, 1), round(each - 8, 1), colours[lane.place],
                 hatch_of(lane, trial.scrap.under), view, said_of(trial, lane), top, lane.control)
        )  # fmt: skip
    return tuple(drawn)


def _y(score: float) -> float:
    return round(TOP + (HIGH - TOP - 24) * (1 - score / BEST), 1)


def chart(trial: Trial) -> Chart | None:
    """The scores of a scrap; None before the first round."""
    ranking = trial.ranking
    if ranking is None:
        return None
    each = (WIDE - LEFT) / len(trial.lanes)
    best = {ranking.leader, *ranking.ties}
    hung, band = [], None
    middles = {}
    for number, lane in enumerate(trial.lanes):
        standing = ranking.standings[number]
        x = LEFT + each * (number + 0.5)
        middles[number] = x
        marks = trial.marks(lane)
        step = min(RING_DX, each * 0.4 / max(len(marks), 1))
        rings = tuple((round(x - 14 - step * (len(marks) - at), 1), _y(mark)) for at, mark in enumerate(marks))
        low, high = max(standing.low, 0.0), min(standing.high, BEST)
        if lane.control:
            band = (_y(high), round(_y(low) - _y(high), 1))
        hung.append(
            Hung(rings, round(x, 1), _y(high), round(max(_y(low) - _y(high), 4), 1), _y(standing.mean),
                 f"{standing.mean:.1f}", number in best)
        )  # fmt: skip
    tied = sorted(middles[number] for number in best)
    lines = tuple((_y(score), f"{score:g}") for score in (0, 5, 10))
    return Chart(tuple(hung), band, lines, (tied[0], tied[-1]) if len(tied) > 1 else None)
