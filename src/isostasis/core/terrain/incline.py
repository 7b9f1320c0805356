"""An odd height from stock risers, a constant-grade wedge and shims: n t + s x = H."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ..fault import fault
from ..figure import Figure, Term

MAX_RISERS = 8
NEAR_MM = 0.05  # heights closer than this are one height
MAX_ANSWERS = 6


@dataclass(frozen=True, slots=True)
class Incline:
    """One way up to the height: risers from the bottom, then the wedge cut at `cut_mm`, or shims.

    A wedge of a riser's thickness climbs to each riser; `starts_mm` says where along the run each riser begins.
    """

    risers_mm: tuple[float, ...]
    starts_mm: tuple[float, ...]
    shims_mm: tuple[float, ...]
    wedge_mm: Figure
    cut_mm: Figure
    run_mm: Figure
    left_over_mm: Figure
    pieces: int
    cuts: int

    @property
    def effort(self) -> int:
        """What sorts the ways: a cut to measure is worth four pieces from stock, a gap to fill two (craft estimate)."""
        return self.pieces + 4 * self.cuts + (2 if self.left_over_mm.number > NEAR_MM else 0)

    def words(self, shown: Callable[[float], str] = "{:.4g} mm".format) -> str:
        """The parts in one line; `shown` says a length in the reader's measures."""
        parts = []
        for name, pieces in (("riser", self.risers_mm), ("shim", self.shims_mm)):
            counts = [(pieces.count(one), one) for one in dict.fromkeys(pieces)]
            if pieces:
                sizes = " + ".join(f"{many} × {shown(one)}" if many > 1 else shown(one) for many, one in counts)
                parts.append(f"{name}{'s' if len(pieces) > 1 else ''} {sizes}")
        if self.wedge_mm.number > NEAR_MM:
            parts.append(f"a wedge cut at {shown(self.cut_mm.number)}")
        return ", ".join(parts) or "nothing at all"


def _stacks(height: float, stock: tuple[float, ...], most: int) -> Iterator[tuple[float, ...]]:
    """Every stack of at most `most` pieces, thickest first, that is no higher than `height`."""
    yield ()
    for index, piece in enumerate(stock):
        if piece <= height + NEAR_MM and most > 0:
            for rest in _stacks(height - piece, stock[index:], most - 1):
                yield (piece, *rest)


def solve(
    height_mm: float, grade: float, risers_mm: tuple[float, ...], shims_mm: tuple[float, ...], grade_most: float
) -> tuple[Incline, ...]:
    """The best ways up to `height_mm` at a constant `grade` (a fraction), least work first.

    n risers of stock thickness and a wedge run x with sum(t) + grade x = height; or risers and shims alone. The last
    wedge climbs no more than a riser that goes at least twice into the height. Raises Faults for a height or grade
    that is not above 0, a grade steeper than `grade_most`, or a height that eight risers do not reach.

    >>> best = solve(31.0, 0.025, (25.0, 12.0, 6.0), (1.0,), 0.03)[0]
    >>> best.words(), best.run_mm.number
    ('risers 25 mm + 6 mm', 1240.0)
    """
    if not height_mm > 0 or not grade > 0:
        raise fault("incline", "a height and a grade are above 0", "write 31 mm and 2.5 percent, or such")
    if grade > grade_most + 1e-12:
        raise fault(
            "grade",
            f"{grade * 100:.3g} percent is steeper than your limit of {grade_most * 100:.3g} percent",
            f"at most {grade_most * 100:.3g}, which takes {height_mm / grade_most:.4g} mm of run",
        )
    stock = tuple(sorted({one for one in risers_mm if one <= height_mm + NEAR_MM}, reverse=True))
    thinnest = min(risers_mm, default=height_mm)
    # A wedge is no block of foam: it climbs no more than a riser that goes at least twice into the height.
    wedge_most = max((one for one in risers_mm if 2 * one <= height_mm), default=thinnest)
    answers = []
    for stack in _stacks(height_mm, stock, MAX_RISERS):
        left = height_mm - sum(stack)
        if left <= NEAR_MM:
            answers.append(_incline(height_mm, grade, stack, (), 0.0))
            continue
        if left <= wedge_most + NEAR_MM:
            answers.append(_incline(height_mm, grade, stack, (), left))
        if left < thinnest:
            answers += [
                _incline(height_mm, grade, stack, shims, 0.0)
                for shims in _stacks(left, tuple(sorted(shims_mm, reverse=True)), 4)
                if shims and left - sum(shims) <= 0.25
            ]
    if not answers:
        raise fault(
            "height",
            f"{MAX_RISERS} risers of your stock do not reach {height_mm:.4g} mm",
            "write thicker risers under my things, or climb it in two inclines",
        )
    answers.sort(key=lambda one: (one.effort, one.left_over_mm.number, one.cut_mm.number))
    return tuple(answers[:MAX_ANSWERS])


def _incline(height: float, grade: float, stack: tuple[float, ...], shims: tuple[float, ...], wedge: float) -> Incline:
    reached = [sum(stack[:place]) for place in range(len(stack) + 1)]
    slope = Term("grade", grade * 100, "%", "as wanted")
    over = height - sum(stack) - sum(shims) - wedge
    whole = (*stack, *shims)  # each has a wedge of its own thickness that climbs to its top
    return Incline(
        risers_mm=stack,
        starts_mm=tuple(one / grade for one in reached[1:]),
        shims_mm=shims,
        wedge_mm=Figure(wedge, "mm", "height − risers",
                        (Term("height", height, "mm"), Term("risers", sum(stack), "mm"))),
        cut_mm=Figure(wedge / grade, "mm", "where the last wedge is cut: its height / grade",
                      (Term("its height", wedge, "mm"), slope)),
        run_mm=Figure(height / grade, "mm", "height / grade", (Term("height", height, "mm"), slope)),
        left_over_mm=Figure(max(over, 0.0), "mm", "height − risers − shims − wedge"),
        pieces=2 * len(whole) + (1 if wedge > NEAR_MM else 0),
        cuts=1 if wedge > NEAR_MM else 0,
    )  # fmt: skip


def as_forms(
    answer: Incline, height_mm: float, grade: float, start: tuple[float, float], towards: tuple[float, float],
    width_mm: float, ground_mm: float, stem: str, material: str,
) -> list[dict[str, object]]:  # fmt: skip
    """The incline as forms: a sheet for every riser and shim, and one ramp over them. `towards` is a unit vector,
    `ground_mm` the height that it starts from. Level ground is taken for granted under it."""
    (x, y), (dx, dy) = start, towards
    run, half = height_mm / grade, width_mm / 2

    def strip(begin: float, end: float) -> list[list[float]]:
        corners = [(begin, -half), (end, -half), (end, half), (begin, half)]
        return [[round(x + dx * a - dy * b, 3), round(y + dy * a + dx * b, 3)] for a, b in corners]

    forms: list[dict[str, object]] = []
    reached = 0.0
    for number, piece in enumerate((*answer.risers_mm, *answer.shims_mm), start=1):
        begin = reached / grade + piece / grade  # the wedge before it climbs to its own top
        if begin < run - 1e-6:
            forms.append({
                "id": f"{stem}-riser-{number}", "kind": "sheet", "name": f"Riser {number}, {piece:g} mm",
                "outline": strip(begin, run), "thickness_mm": piece, "material": material,
            })  # fmt: skip
        reached += piece
    end = [round(x + dx * run, 3), round(y + dy * run, 3)]
    forms.append({
        "id": stem, "kind": "ramp", "name": "Incline", "path": [[round(x, 3), round(y, 3)], end],
        "width_mm": width_mm, "start_mm": round(ground_mm, 3), "end_mm": round(ground_mm + height_mm, 3),
        "material": material,
    })  # fmt: skip
    return forms
