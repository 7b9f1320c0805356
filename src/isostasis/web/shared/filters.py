"""What templates do to a value: figures, amounts, spans and moments as people read them, in their own measures."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from flask import current_app, g

from ...core.figure import Figure, Term
from ...core.mixing.grains import hold_words
from ...core.units import Measures, duration, household, number, show
from ...core.wet import time_left
from .fields import Field, Unit
from .scenes import now

NO_BREAK = "\u00a0"


def _shown(figure: Figure) -> tuple[str, str]:
    return show(figure.value, figure.unit, g.get("measures"), figure.code)


def _together(*parts: str) -> str:
    """A figure and its unit: no line ends between them."""
    return " ".join(parts).strip().replace(" ", NO_BREAK)


def _amount(value: float | None, unit: str) -> str:
    return _together(*show(value, unit, g.get("measures")))


def _term(term: Term) -> str:
    return term.value if isinstance(term.value, str) else _amount(term.value, term.unit)


def _typed(value: float, unit: Unit) -> str:
    return Field("", "", unit).show(value)


def _kitchen(value: float) -> str:
    return household(value, g.get("measures") or Measures())


def _short(value: float, unit: str) -> str:
    """Two digits, without the unit."""
    measures = g.get("measures") or Measures()
    return show(value, unit, measures)[0] if measures.system == "imperial" else number(value, 2)


def _drops(value: float) -> str:
    count = number(value, 2)
    return _together(count, "drop" if count == "1" else "drops")


def _later(hours: float) -> str:
    """The day and time N hours from now."""
    moment = _wall(now() + timedelta(hours=hours))
    return moment.strftime("%a %H:%M" if hours < 144 else "%a %d %b, %H:%M")


def _span(hours: float) -> str:
    return _together(*duration(hours))


def _left(until: datetime) -> str:
    """The time from now until then."""
    return _together(time_left(until, now()))


def _when(moment: Any) -> str:
    return str(_wall(moment).strftime("%d %b %Y, %H:%M"))


def _clock(moment: Any) -> str:
    return str(_wall(moment).strftime("%a %H:%M"))


def _clock_on(moment: Any) -> str:
    at = _wall(moment)
    return f"{at:%a} {at.day}, {at:%H:%M}"


def _hour(moment: Any) -> str:
    return str(_wall(moment).strftime("%H:%M"))


def _wall(moment: datetime) -> datetime:
    """A moment by the clock on the wall."""
    return moment.astimezone(current_app.extensions["zone"])


def _capital(words: str) -> str:
    """Words as they begin a sentence; names among them keep their letters."""
    return words[:1].upper() + words[1:]


FILTERS = {
    "capital": _capital,
    "shown": _shown,
    "hold": hold_words,
    "amount": _amount,
    "term": _term,
    "typed": _typed,
    "kitchen": _kitchen,
    "plainly": number,
    "short": _short,
    "drops": _drops,
    "later": _later,
    "span": _span,
    "left": _left,
    "when": _when,
    "clock": _clock,
    "clock_on": _clock_on,
    "hour": _hour,
    "moment": datetime.fromisoformat,
}
