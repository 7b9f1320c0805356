"""What the reader writes and reads: millimetres and inches, cups and spoons, drops and scoops.

Inside the core lengths are mm, areas mm2, volumes ml, masses g. `parse` brings what a person
typed into those; `show` brings a value back into the person's measures. Unit definitions are
pint's own; drops and scoops are the user's.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from typing import Any, Literal

from .fault import Refusal
from .stages import cached_stage

System = Literal["metric", "imperial"]
Quantity = Literal["length", "area", "volume", "mass"]

CORE_UNIT: dict[Quantity, str] = {"length": "mm", "area": "mm2", "volume": "ml", "mass": "g"}
_EXAMPLE: dict[Quantity, str] = {
    "length": "25 mm, 2.5 cm or 1 1/2 in",
    "area": "300 cm2 or 46 in2",
    "volume": "250 ml, 1 1/2 cups, 2 tbsp, 3 fl oz, 12 drops or 4 scoops",
    "mass": "350 g, 1.2 kg or 12 oz",
}
_GLYPHS = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8", "⅓": "1/3"}
QUANTITY_OF: dict[str, Quantity] = {unit: quantity for quantity, unit in CORE_UNIT.items()}
EXACT = 12  # significant digits of what a field holds
HALF_A_THOUSANDTH = 5e-4
MAX_LETTERS = 80  # of a measure; a float holds any number that is shorter
_NUMBER = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d*\.?\d+)"
_PIECE = re.compile(rf"\s*({_NUMBER})\s*([a-zA-Z]+(?:\s+oz)?[23]?|)\s*")
# What people measure with, as they write it, and pint's own word where that differs.
_UNITS: dict[Quantity, frozenset[str]] = {
    "length": frozenset(("mm", "cm", "dm", "m", "in", "inch", "inches", "ft", "foot", "feet", "yd", "yard", "yards")),
    "area": frozenset(("mm2", "cm2", "dm2", "m2", "in2", "ft2", "yd2")),
    "volume": frozenset((
        "ml", "cl", "dl", "l", "liter", "litre", "liters", "litres", "cc", "fl oz", "floz", "tsp", "teaspoon",
        "teaspoons", "tbsp", "tablespoon", "tablespoons", "cup", "cups", "pint", "pints", "quart", "quarts", "gallon",
        "gallons",
    )),
    "mass": frozenset(("mg", "g", "kg", "oz", "ounce", "ounces", "lb", "lbs", "pound", "pounds")),
}  # fmt: skip
_PINT_NAME = {
    "l": "liter", "fl oz": "fluid_ounce", "floz": "fluid_ounce", "tsp": "teaspoon", "teaspoons": "teaspoon",
    "tbsp": "tablespoon", "tablespoons": "tablespoon", "cups": "cup", "inches": "inch", "inch": "inch",
    "feet": "foot", "cm2": "cm**2", "mm2": "mm**2", "dm2": "dm**2", "m2": "m**2", "in2": "inch**2", "ft2": "foot**2",
    "yd2": "yard**2", "lbs": "pound",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Measures:
    """The user's own measures: the reading system, what a drop and a scoop hold in ml, and in what money is."""

    system: System = "metric"
    drop_ml: float = 0.05
    scoop_ml: float = 15.0
    currency: str = ""
    vessels: tuple[tuple[str, float], ...] = ()  # the reader's own beside the kitchen's, and ml in each


class NotAMeasure(Refusal):
    """What was typed is no measure of the wanted quantity; the message is for the person who typed it."""


@cache
def _registry() -> Any:
    """pint's registry. Read definitions are cached for a quick start, in a folder of this installation's own: what is
    cached names files of the installation that read them, which another one may outlive."""
    from hashlib import sha256

    import pint
    from platformdirs import user_cache_path

    own = sha256(pint.__file__.encode()).hexdigest()[:16]
    try:
        return pint.UnitRegistry(cache_folder=str(user_cache_path("isostasis") / f"units-{own}"))
    except OSError:  # nothing can be written there: it is read anew each time
        return pint.UnitRegistry()


@cached_stage
def _factor(unit: str, core_unit: str) -> float:
    """How many core units one `unit` is."""
    return float(_registry()(_PINT_NAME.get(unit, unit)).to(_PINT_NAME.get(core_unit, core_unit)).magnitude)


def parse(text: str, quantity: Quantity, measures: Measures | None = None) -> float:
    """`text` as a number of core units (mm, mm2, ml, g).

    Takes decimals with a point or a comma, fractions and sums of pieces ("1 ft 2 1/2 in"); a bare number is taken in
    the core unit, or in inches where the reader works in imperial lengths. Raises NotAMeasure.

    >>> parse("1 1/2 in", "length")
    38.1
    >>> parse("2 cups", "volume")
    473.176473
    """
    measures = measures or Measures()
    core_unit = CORE_UNIT[quantity]
    wanted = f"write something like {_EXAMPLE[quantity]}"
    clean = text.strip()
    if len(clean) > MAX_LETTERS:
        raise NotAMeasure(f"“{clean[:20]}...” has {len(clean)} letters", wanted)
    for glyph, plain in _GLYPHS.items():
        clean = clean.replace(glyph, f" {plain}")
    clean = clean.replace("″", '"').replace('"', " in ").replace("′", "'").replace("'", " ft ").strip()
    clean = pointed(clean)
    if not clean:
        raise NotAMeasure("nothing was written", wanted)
    total, position = 0.0, 0
    while position < len(clean):
        piece = _PIECE.match(clean, position)
        if piece is None:
            raise NotAMeasure(f"“{text}” is no {quantity}", wanted)
        try:
            number = float(sum(Fraction(part) for part in piece[1].split()))
        except ZeroDivisionError:
            raise NotAMeasure(f"“{text}” divides by zero", wanted) from None
        unit = re.sub(r"\s+", " ", piece[2].lower())
        if quantity == "volume" and unit in ("drop", "drops"):
            factor = measures.drop_ml
        elif quantity == "volume" and unit in ("scoop", "scoops"):
            factor = measures.scoop_ml
        else:
            if not unit:
                unit = "in" if quantity == "length" and measures.system == "imperial" else core_unit
            if unit not in _UNITS[quantity]:
                raise NotAMeasure(f"“{piece[2]}” is no unit of {quantity}", wanted)
            factor = _factor(unit, core_unit)
        total += number * factor
        position = piece.end()
    return round(total, 9)


_THOUSANDS = re.compile(r"(?<![\d.,])[1-9]\d{0,2},\d{3}(?!\d)")  # which some write for 1500, and others for 1.5


def pointed(text: str) -> str:
    """A text with points for its decimal commas. Raises NotAMeasure where a comma could group thousands."""
    if _THOUSANDS.search(text) or re.search(r"\.\d*,|,\d*\.|,\d*,", text):
        raise NotAMeasure(f"“{text}” has a comma that could mean tenths or thousands", "write 1.5 or 1500")
    return re.sub(r"(?<=\d),(?=\d)", ".", text)


def number(value: float, digits: int = 3) -> str:
    """`value` with N significant digits, never in powers of ten: 0.0687, 20.9, 984, 12400."""
    if value == 0:
        return "0"
    from math import floor, log10

    places = max(0, digits - 1 - floor(log10(abs(value))))
    text = f"{value:.{min(places, 6)}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("-0", "") else text


def _inches(value_mm: float) -> str:
    """Inches as a person reads a rule: sixteenths up to a foot and a half, eighths beyond, never a bare 0."""
    inches = value_mm / 25.4
    if abs(inches) < 1 / 16:
        return number(inches, 2)
    return _ruled(inches, 16 if abs(inches) < 18 else 8)


def _ruled(inches: float, steps: int) -> str:
    """Inches to the nearest mark of a rule that has N to the inch."""
    whole, rest = divmod(round(abs(inches) * steps), steps)
    sign = "-" if inches < 0 else ""
    fraction = f"{Fraction(rest, steps)}" if rest else ""
    return sign + " ".join(part for part in (str(whole) if whole or not rest else "", fraction) if part)


def show(value: float | None, unit: str, measures: Measures | None = None, code: str = "") -> tuple[str, str]:
    """`value` as (number, unit) in the reader's measures; `code` says why there is none, if not that it never comes.

    >>> show(897.2, "ml")
    ('897', 'ml')
    >>> show(38.1, "mm", Measures(system="imperial"))
    ('1 1/2', 'in')
    """
    system = measures.system if measures else "metric"
    if value is None:
        return {"no-limit": "no limit"}.get(code, "never"), ""
    if unit == "money":
        return f"{value:.2f}", measures.currency if measures else ""
    if unit == "h":
        return duration(value)
    if unit == "min":
        return duration(value / 60)
    if system == "imperial":
        if unit == "mm":
            return _inches(value), "in"
        if unit == "degC":
            return number(value * 9 / 5 + 32), "°F"
        if unit == "mm2":
            return number(value / 25.4**2), "in²"
        if unit == "ml":
            return (number(value / _factor("fl oz", "ml")), "fl oz") if value >= 5 else (
                number(value / _factor("tsp", "ml")), "tsp")  # fmt: skip
        if unit == "g":
            return number(value / _factor("oz", "g")), "oz"
    if unit == "mm2":
        return (number(value / 100), "cm²") if value < 1e6 else (number(value / 1e6), "m²")
    if unit == "ml" and value >= 10_000:
        return number(value / 1000), "l"
    if unit == "g" and value >= 10_000:
        return number(value / 1000), "kg"
    return number(value), {"degC": "°C", "deg": "°", "m2": "m²", "g/m2/h": "g/m²/h", "g/m2": "g/m²"}.get(unit, unit)


def typed(value: float, unit: str, measures: Measures | None = None) -> str:
    """`value` as text for an input field, which `parse` reads back as it is, to a thousandth: in the reader's measures
    where it is a plain number there, else in the core unit.

    >>> typed(1234.5, "mm"), typed(20, "mm", Measures(system="imperial")), typed(19.05, "mm", Measures("imperial"))
    ('1234.5 mm', '20 mm', '3/4 in')
    """
    plain = {"mm2": "cm2"}.get(unit, unit)
    exact = f"{number(value / _factor(plain, unit), EXACT)} {plain}"
    if measures is None or measures.system == "metric":
        return exact
    theirs = {"mm": "in", "mm2": "in2", "ml": "fl oz" if value >= 5 else "tsp", "g": "oz"}[unit]
    size = value / _factor(theirs, unit)
    plain_ones = [number(round(size, 3), EXACT)]
    if unit == "mm" and value > 0:
        plain_ones.insert(0, _ruled(size, 64))
    for shown in plain_ones:
        if abs(parse(f"{shown} {theirs}", QUANTITY_OF[unit]) - value) < HALF_A_THOUSANDTH:
            return f"{shown} {theirs}"
    return exact


def duration(hours: float) -> tuple[str, str]:
    """A span as people say it: ('35', 'min'), ('26.5', 'h'), ('4 d 14', 'h')."""
    if hours < 1:
        return number(hours * 60, 2), "min"
    if hours < 48:
        return number(hours), "h"
    days, rest = divmod(round(hours), 24)
    return (f"{days} d {rest}", "h") if rest else (str(days), "d")


# The vessels of a kitchen set: name, plural, how many hold a cup, the finest share of one.
_VESSELS = (("cup", "cups", 1, 4), ("tbsp", "tbsp", 16, 1), ("tsp", "tsp", 48, 4))
_SAME = 0.05  # a scoop that holds as much as one of them, within this share of it, is that one
_NEAR = 0.02  # as near as kitchen measures are filled by hand
_TOLD = 0.005  # an error above is told


def household(value_ml: float, measures: Measures) -> str:
    """A volume in kitchen measures, from the largest vessel down, in as few as come within 2 % of it, and by how much
    they are off where that is more than half a percent; whole drops when tiny.

    >>> household(193, Measures())
    '3/4 cup 1 tbsp'
    >>> household(100, Measures(scoop_ml=40))
    '1/4 cup 1 scoop (0.9 ml short)'
    >>> household(100, Measures(vessels=(("blue cup", 60.0), ("spoon", 5.0))))
    '1 × blue cup 2 scoops 2 × spoon'
    """
    return measured(value_ml, measures)[0]


def measured(value_ml: float, measures: Measures) -> tuple[str, float]:
    """A volume as `household` says it, and the ml that this really comes to."""
    tsp = _factor("tsp", "ml")
    if value_ml < tsp / 8:
        drops = max(round(value_ml / measures.drop_ml), 1)
        return f"{drops} drop{'s' if drops > 1 else ''}", drops * measures.drop_ml
    best, best_ml = "", 0.0
    vessels = _vessels(tsp * 48, measures)
    for depth in range(1, len(vessels) + 1):
        pieces, held = _filled(value_ml, vessels[:depth])
        off = held - value_ml
        if not pieces:
            continue
        said = f"{number(abs(off), 1)} ml"
        best = " ".join(pieces) + (f" ({said} {'over' if off > 0 else 'short'})" if abs(off) > _TOLD * value_ml else "")
        best_ml = held
        if abs(off) <= _NEAR * value_ml:
            break
    return best, best_ml


def _vessels(cup_ml: float, measures: Measures) -> list[tuple[str, str, float, int]]:
    """(name, plural, ml, finest share) of what there is to measure with, from the largest down: what the reader has
    calibrated, else a kitchen set; and their own scoop where it is none of these."""
    vessels = [(f"× {name}", f"× {name}", ml, 1) for name, ml in measures.vessels]
    vessels = vessels or [(name, plural, cup_ml / count, finest) for name, plural, count, finest in _VESSELS]
    if all(abs(measures.scoop_ml - ml) > _SAME * ml for _, _, ml, _ in vessels):
        vessels.append(("scoop", "scoops", measures.scoop_ml, 1))
    return sorted(vessels, key=lambda one: -one[2])


def _filled(value_ml: float, vessels: list[tuple[str, str, float, int]]) -> tuple[list[str], float]:
    """(what is filled, ml in it) of some vessels; the last of them is filled to the nearest."""
    pieces, held = [], 0.0
    for place, (name, plural, ml, finest) in enumerate(vessels):
        step = ml / finest
        left = (value_ml - held) / step
        count = round(left) if place == len(vessels) - 1 else int(left + 1e-9)
        if count > 0:
            whole, rest = divmod(count, finest)
            said = " ".join(str(part) for part in (whole or "", Fraction(rest, finest) if rest else "") if part != "")
            pieces.append(f"{said} {plural if count > finest else name}")
            held += count * step
    return pieces, held
