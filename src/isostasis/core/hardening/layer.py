"""Heat and cure in one poured layer: 1-D conduction through resin, bed and board, with the heat of reaction.

Solved by an exponential integrator on the eigenmodes of the conduction matrix: heat flow is then exact for
any step, and steps need only follow the reaction. `docs/science.md` (resin) has the model, its source and limits.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, exp, floor, log, log2, pi
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from ..catalogue import Reacts, Thermal
from ..stages import cached_stage
from .climate import Climate
from .cure import GAS_CONSTANT, KELVIN, ORDER, START, rate_constant

Array = NDArray[np.float64]

ABOVE_W_M2K = 9.0  # from the top face to the room
BELOW_W_M2K = 5.0  # from under the board to the room
ANCHOR_PEAK_C = 45.0  # what the label's greatest depth is taken to mean
HEAT_RANGE_J_G = (100.0, 450.0)
HEAT_UNCERTAIN = 0.12  # share by which the heat of reaction may differ from the label's
RESIN = Thermal(k=0.20, rho=1110, c=1900)
SKIN = Thermal(k=0.35, rho=1000, c=1000)
FOAM = Thermal(k=0.033, rho=35, c=1400)
PLYWOOD = Thermal(k=0.12, rho=550, c=1700)
ANCHOR_BED = ((5.0, SKIN), (25.0, FOAM), (9.0, PLYWOOD))
RESIN_CELLS = 12
TOP, FACE = RESIN_CELLS, RESIN_CELLS + 1  # what is read beside the resin's cells: its top face, and the bed's
LONGEST_H = 5000.0
STEP_CURE, STEP_C = 0.0012, 0.15  # by how much a step's two guesses may differ: degree of cure, degC

Slab = tuple[float, Thermal]  # thickness in mm, how heat passes


@dataclass(frozen=True, slots=True)
class Pour:
    """What is to be solved: depth mm, the bed from its face down to the board, the label, J/g, the room, and how far it
    had cured in the cup when it was poured."""

    WEIGHT: ClassVar[int] = 2000  # bytes in a registry of stages, about

    depth_mm: float
    bed: tuple[Slab, ...]
    label: Reacts
    heat_j_g: float
    climate: Climate
    thermal: Thermal = RESIN
    cured: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class Cured:
    """How a layer went: hours to gel, hard and full at its top face (None: not within LONGEST_H), greatest
    temperature in the resin and on the bed's face in degC, and the course of both (hours, degC, degree of cure)."""

    gel_h: float | None
    hard_h: float | None
    full_h: float | None
    peak_c: float
    bed_peak_c: float
    hours: Array
    top_c: Array
    core_c: Array
    cure: Array


def _graded(cells: int) -> Array:
    """Shares of a slab's thickness that widen downwards."""
    share = np.geomspace(1, 1.6, cells)
    return np.asarray(share / share.sum())


def _graded_to_faces(cells: int) -> Array:
    """Shares of a layer's depth that widen from both faces to its middle."""
    edges = np.linspace(0, 1, cells + 1)
    return np.diff(0.35 * edges + 0.65 * edges**2 * (3 - 2 * edges))


_RESIN_SHARES, _THIN_SHARES, _THICK_SHARES = _graded_to_faces(RESIN_CELLS), _graded(3), _graded(6)


def _slabs(pour: Pour) -> tuple[Array, Array, Array]:
    """Cells from the top face down: widths m, conductivity W/m/K, heat capacity J/m2/K."""
    depth = pour.depth_mm / 1000
    widths = [_RESIN_SHARES * depth]
    k = [np.full(RESIN_CELLS, pour.thermal.k)]
    heat = [widths[0] * pour.thermal.rho * pour.thermal.c]
    for thickness, slab in pour.bed:
        cells = (_THIN_SHARES if thickness < 8 else _THICK_SHARES) * thickness / 1000
        widths.append(cells)
        k.append(np.full(len(cells), slab.k))
        heat.append(cells * slab.rho * slab.c)
    return np.concatenate(widths), np.concatenate(k), np.concatenate(heat)


def _modes(pour: Pour) -> tuple[Array, Array, Array, Array, Array, float, float]:
    """Conduction as modes: rates 1/s, (cells x modes) forward and (modes x cells) back, what they are at 1 degC
    throughout, the room's drive per mode and degC, and the weights of the top cell and of the second cell below the
    bed's face in face temperatures."""
    widths, k, heat = _slabs(pour)
    half = widths / 2 / k
    between = 1 / (half[:-1] + half[1:])
    above = 1 / (half[0] + 1 / ABOVE_W_M2K)
    below = 1 / (half[-1] + 1 / BELOW_W_M2K)
    loss = np.zeros(len(widths))
    loss[:-1] += between
    loss[1:] += between
    loss[0] += above
    loss[-1] += below
    scale = 1 / np.sqrt(heat)
    matrix = np.diag(loss) - np.diag(between, 1) - np.diag(between, -1)
    rates, vectors = np.linalg.eigh(matrix * scale[:, None] * scale[None, :])
    forward = scale[:, None] * vectors
    back = vectors.T * scale[None, :]
    edge = np.zeros(len(widths))
    edge[0], edge[-1] = above, below
    top_weight = (1 / half[0]) / (1 / half[0] + ABOVE_W_M2K)
    resin = RESIN_CELLS
    bed_weight = (1 / half[resin - 1]) / (1 / half[resin - 1] + 1 / half[resin]) if len(widths) > resin else 1.0
    return rates, forward, back, back @ heat, back @ edge, float(top_weight), float(bed_weight)


def solve(pour: Pour, heats: tuple[float, ...] | None = None) -> tuple[Cured, ...]:
    """The layer's course for each heat of reaction in `heats` J/g (default: the pour's own), solved together.

    Depth above 0. Second order in time: a step is guessed along the trend of the last one, then corrected, and held so
    that both differ by no more than STEP_CURE and STEP_C. Source: conduction after Fourier, rate law of `cure`;
    exponential time differencing after Cox and Matthews (2002).
    Raises ValueError unless a layer's depth is above 0.

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> pour = Pour(3, ANCHOR_BED, label, 286.5, Climate((0.0,), (23.0,), (0.5,)))
    >>> round(solve(pour)[0].peak_c, 1)
    28.8
    """
    return solve_layers((pour,), heats if heats is not None else (pour.heat_j_g,))[0]


@dataclass(frozen=True, slots=True, eq=False)
class _Stack:
    """The modes of layers solved together, padded with modes that hold no heat: `rates` (layers, heats, modes) 1/s,
    `source` (layers, cells + 1, modes) from W/m3 in the resin and, nothing, at its top face, `seen` (layers, modes,
    cells + 2) to the resin, its top face and the bed's, without what the room adds to the top face, `drive` (layers,
    heats, modes) of the room per degC, `start` (layers, heats, modes) at 1 degC throughout, `top_room` (layers, heats)
    the room's share in the top face. What is the same for each heat stands there for each: numpy is then twice as
    fast with arrays so small."""

    rates: Array
    source: Array
    seen: Array
    drive: Array
    start: Array
    top_room: Array


def _stacked(pours: tuple[Pour, ...], heats: int) -> _Stack:
    modes = [_modes(pour) for pour in pours]
    layers, most = len(pours), max(len(rates) for rates, *_ in modes)
    rates, source = np.ones((layers, heats, most)), np.zeros((layers, RESIN_CELLS + 1, most))
    seen, drive, start = np.zeros((layers, most, RESIN_CELLS + 2)), np.zeros(rates.shape), np.zeros(rates.shape)
    top_room = np.zeros((layers, heats))
    for layer, (pour, (rate, forward, back, level, room, top, face)) in enumerate(zip(pours, modes, strict=True)):
        count = len(rate)
        rates[layer, :, :count], drive[layer, :, :count] = rate, room
        source[layer, :TOP, :count] = (back[:, :RESIN_CELLS] * _RESIN_SHARES * pour.depth_mm / 1000).T
        seen[layer, :count, :RESIN_CELLS] = forward[:RESIN_CELLS].T
        seen[layer, :count, TOP] = top * forward[0]
        seen[layer, :count, FACE] = face * forward[RESIN_CELLS - 1] + (1 - face) * forward[min(RESIN_CELLS, count - 1)]
        start[layer, :, :count] = level
        top_room[layer] = 1 - top
    return _Stack(rates, source, seen, drive, start, top_room)


def solve_layers(pours: tuple[Pour, ...], heats: tuple[float, ...]) -> tuple[tuple[Cured, ...], ...]:
    """Layers of one label in one room, each for each heat of reaction in `heats` J/g, solved in the same steps as
    `solve` says: a step costs about as much for several as for one. Source: as `solve`. Raises ValueError unless depths
    are above 0.

    >>> from isostasis.core.catalogue import shipped
    >>> label, room = shipped().mixes['coating-resin'].reacts, Climate((0.0,), (23.0,), (0.5,))
    >>> upper = Pour(3, ((3.0, RESIN), *ANCHOR_BED), label, 286.5, room)
    >>> [round(one.peak_c, 1) for (one,) in solve_layers((Pour(3, ANCHOR_BED, label, 286.5, room), upper), (286.5,))]
    [28.8, 28.4]
    """
    if any(pour.depth_mm <= 0 for pour in pours):
        raise ValueError("a layer's depth is above 0")
    label, climate = pours[0].label, pours[0].climate
    stack = _stacked(pours, len(heats))
    source, cells = stack.source, np.ascontiguousarray(stack.seen[..., :FACE])  # resin cells, then the top face itself
    # J/m3 that a unit of cure gives off, for each mode.
    spans, drive = 1 / stack.rates, np.empty(stack.rates.shape)
    drive[:] = np.asarray(heats, dtype=float)[None, :, None] * 1000 * pours[0].thermal.rho
    barrier = label.activation_kj_mol * 1000 / GAS_CONSTANT
    start_rate = log(rate_constant(label)) + barrier / (label.temp_c + KELVIN)

    def kelvin_of(room: float) -> Array:
        """What is added to temperatures as `cells` gives them, for kelvin."""
        added = np.full((len(pours), len(heats), FACE), KELVIN)
        added[..., TOP] += stack.top_room * room
        return added

    def speed(temps: Array, added: Array, cured: Array) -> Array:
        """d(alpha)/dt in 1/s, in the resin's cells and at its top face."""
        rate = np.exp(start_rate - barrier / (temps + added))
        rate *= START + cured
        rate *= (1 - cured) ** ORDER
        return rate

    now, step = 0.0, label.hard_h * 12.0  # a three-hundredth of the label's hours, in seconds
    room = climate.temp_at(0.0)
    added, driven, modes = kelvin_of(room), stack.drive * room, stack.start * room
    alpha = np.full(added.shape, pours[0].cured)
    changes = [hour * 3600 for hour in climate.hours[1:]] + [np.inf]
    change = 0
    times, rooms, courses, alphas = [0.0], [room], [modes], [alpha[..., TOP]]
    fast = speed(modes @ cells, added, alpha)
    trend = np.zeros(fast.shape)  # of the speeds in the last step, 1/s2
    least = float(alpha[..., TOP].min())
    factors: dict[float, tuple[Array, Array, Array, Array]] = {}
    # A cold room may never get there: stop at LONGEST_H.
    while least < label.full and now < LONGEST_H * 3600:
        # Steps go by eighths of an octave, so that the modes' factors can be kept; a change of room cuts one short.
        step = min(2.0 ** (floor(log2(step) * 8) / 8), changes[change] - now, LONGEST_H * 3600 - now + 1)
        if step not in factors:
            fall = np.expm1(-step * stack.rates)
            gone = fall * -spans
            factors[step] = fall + 1, gone, gone * drive, (step - gone) * (spans * drive / step)
        shrink, gone, first, second = factors[step]
        steady = modes * shrink + (fast @ source) * first + driven * gone
        expected = step * trend
        guess_temp = (steady + (expected @ source) * second) @ cells
        guess_alpha = alpha + step * (fast + expected / 2)
        quickening = speed(guess_temp, added, np.minimum(guess_alpha, 1.0)) - fast
        corrected = steady + (quickening @ source) * second
        temp = corrected @ cells
        error = max(
            float(np.abs(quickening - expected).max()) * step / 2 / STEP_CURE,
            float(np.abs(temp - guess_temp).max()) / STEP_C,
        )
        if error > 2.0 and step > 0.05:
            step *= max(0.3, 0.9 / error ** (1 / 3))
            continue
        now += step
        alpha = np.minimum(alpha + step * (fast + quickening / 2), 1.0)
        modes, before, taken = corrected, fast, step
        least = float(alpha[..., TOP].min())
        if now >= changes[change] - 1e-6:
            change += 1
            room = climate.temp_at(now / 3600 + 1e-9)
            added, driven = kelvin_of(room), stack.drive * room
            step = min(step, 60.0)
        fast = speed(temp, added, alpha)
        trend = (fast - before) / taken
        times.append(now)
        rooms.append(room)
        courses.append(modes)
        alphas.append(alpha[..., TOP])
        step *= min(2.0, max(0.4, 0.9 / max(error, 1e-9) ** (1 / 3)))
    return _read_off(label, stack, times, rooms, courses, alphas)


def _read_off(
    label: Reacts, stack: _Stack, times: list[float], rooms: list[float], courses: list[Array], alphas: list[Array]
) -> tuple[tuple[Cured, ...], ...]:
    """What is read off the courses of the modes, for each layer and heat: steps at `times` s with the room's degC and
    degrees of cure at the top."""
    hours, cure = np.asarray(times) / 3600, np.stack(alphas, axis=-1)  # cure: (layers, heats, times)
    course_c = np.stack(courses, axis=2) @ stack.seen[:, None]  # (layers, heats, times, cells + 2)
    core, bed = course_c[..., :RESIN_CELLS].max(axis=-1), course_c[..., FACE]
    top = course_c[..., TOP] + stack.top_room[..., None] * np.asarray(rooms)

    def reached(course: Array, goal: float) -> float | None:
        index = int(np.searchsorted(course, goal))
        if index >= len(course):
            return None
        span = course[index] - course[index - 1]
        return float(hours[index - 1] + (hours[index] - hours[index - 1]) * (goal - course[index - 1]) / span)

    return tuple(
        tuple(
            Cured(
                reached(course, label.gel),
                reached(course, label.hard),
                reached(course, label.full),
                float(core[layer, run].max()),
                float(bed[layer, run].max()),
                hours,
                top[layer, run],
                core[layer, run],
                course,
            )
            for run, course in enumerate(cure[layer])
        )
        for layer in range(len(cure))
    )


@dataclass(frozen=True, slots=True)
class Heat:
    """Heat of reaction in J/g that the label implies, and whether its depth can be about heat at all."""

    j_g: float
    cosmetic: bool


@cached_stage
def heat_from_label(label: Reacts, thermal: Thermal = RESIN) -> Heat:
    """The heat of reaction at which the label's greatest depth, at its temperature, over 5 mm skin on 25 mm foam
    on 9 mm plywood, peaks at 45 degC; held within 100..450 J/g. Where that bites, the depth is no matter of
    heat (`cosmetic`) and stands as a limit of its own.

    >>> round(heat_from_label(Reacts(hard_h=48, max_depth_mm=50, working_min=120)).j_g)
    155
    """
    climate = Climate((0.0,), (label.temp_c,), (0.5,))
    pour = Pour(label.max_depth_mm, ANCHOR_BED, label, 0.0, climate, thermal)
    low, high = HEAT_RANGE_J_G
    cool, hot = (one.peak_c - ANCHOR_PEAK_C for one in solve(pour, HEAT_RANGE_J_G))
    if cool >= 0 or hot <= 0:
        return Heat(low if cool >= 0 else high, cosmetic=True)
    for _ in range(3):  # several heats are solved as fast as one: 350 J/g come down to 1, then a straight line
        heats = np.linspace(low, high, 8)
        peaks = [one.peak_c for one in solve(pour, tuple(float(heat) for heat in heats))]
        place = int(np.searchsorted(peaks, ANCHOR_PEAK_C))
        low, high = float(heats[place - 1]), float(heats[place])
    return Heat(float(np.interp(ANCHOR_PEAK_C, peaks[place - 1 : place + 1], (low, high))), cosmetic=False)


Courses = tuple[Cured, Cured, Cured]


@cached_stage
def solved(pours: tuple[Pour, ...]) -> tuple[Courses, ...]:
    """Layers of one pour, each with its own heat of reaction, and with that heat 12 % lower and higher: the peak's
    range."""
    heat = pours[0].heat_j_g
    return solve_layers(pours, (heat, heat * (1 - HEAT_UNCERTAIN), heat * (1 + HEAT_UNCERTAIN)))  # type: ignore[return-value]


CUP_W_M2K = 8.0


@cached_stage
def gel_in_cup(label: Reacts, volume_ml: float, heat_j_g: float, temp_c: float) -> float:
    """Hours to gel of a mixed batch in a cup as tall as wide, lumped, that loses 8 W/m2/K over all its faces.

    `volume_ml` above 0, `heat_j_g` J/g, the room `temp_c` degC. Integrated over the degree of cure instead of time
    (fourth-order Runge-Kutta), so that it ends at the gel itself. Source: lumped heat balance; docs/science.md, resin.
    Raises ValueError unless a batch is above 0 ml.

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> round(gel_in_cup(label, 100, 286.5, 23.0), 2)
    1.09
    """
    if volume_ml <= 0:
        raise ValueError("a batch is above 0 ml")
    return hours_in_cup(label, volume_ml, heat_j_g, Climate((0.0,), (temp_c,), (0.5,)), label.gel)


@cached_stage
def hours_in_cup(label: Reacts, volume_ml: float, heat_j_g: float, climate: Climate, goal: float) -> float:
    """Hours to a degree of cure `goal` of a batch in a cup, in a room that changes (`climate` from its mixing on): the
    lumped law of `gel_in_cup`. Raises ValueError unless a batch is above 0 ml, a goal above 0 and below 1.

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> round(hours_in_cup(label, 7.5, 286.5, Climate((0.0,), (23.0,), (0.5,)), label.hard), 1)
    5.1
    """
    if volume_ml <= 0 or not 0 < goal < 1:
        raise ValueError("a batch is above 0 ml, a goal above 0 and below 1")
    width = (4 * volume_ml * 1e-6 / pi) ** (1 / 3)
    cooling = CUP_W_M2K * 1.5 * pi * width**2 / (volume_ml * 1e-6 * RESIN.rho * RESIN.c)
    warming = heat_j_g * 1000 / RESIN.c
    k_rate, barrier = rate_constant(label), label.activation_kj_mol * 1000 / GAS_CONSTANT
    cold = barrier / (label.temp_c + KELVIN)
    temp_c = climate.temp_at(0.0)

    def slope(alpha: float, warmer: float) -> tuple[float, float]:
        """Seconds, and degrees above the room, gained for each unit of cure."""
        rate = k_rate * exp(cold - barrier / (temp_c + warmer + KELVIN)) * (START + alpha) * (1 - alpha) ** ORDER
        return 1 / rate, warming - cooling * warmer / rate

    # A small cup follows the room at once: enough steps for that to stay stable.
    steps = max(60, ceil(goal * cooling * max(slope(0.0, 0.0)[0], slope(goal, 0.0)[0] if goal > label.gel else 0.0)))
    step, seconds, warmer = goal / steps, 0.0, 0.0
    for number in range(steps):
        alpha = number * step
        room = temp_c if climate.steady else climate.temp_at(seconds / 3600)
        if room != temp_c:
            temp_c, warmer = room, warmer + temp_c - room
        t1, w1 = slope(alpha, warmer)
        t2, w2 = slope(alpha + step / 2, warmer + step / 2 * w1)
        t3, w3 = slope(alpha + step / 2, warmer + step / 2 * w2)
        t4, w4 = slope(alpha + step, warmer + step * w3)
        seconds += step / 6 * (t1 + 2 * t2 + 2 * t3 + t4)
        warmer += step / 6 * (w1 + 2 * w2 + 2 * w3 + w4)
    return seconds / 3600


@cached_stage
def rested_in_cup(label: Reacts, volume_ml: float, heat_j_g: float, temp_c: float, hours: float) -> tuple[float, float]:
    """(degree of cure, greatest temperature in degC) of a batch that rests in a cup for so long: the lumped law of
    `gel_in_cup`, along time. The cure stops at the gel. Source: lumped heat balance; docs/science.md, resin.
    Raises ValueError unless a batch is above 0 ml, a rest 0 h or more.

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['casting-resin'].reacts
    >>> [round(one, 2) for one in rested_in_cup(label, 100, 346.7, 21.0, 0.5)]
    [0.02, 23.38]
    """
    if volume_ml <= 0 or hours < 0:
        raise ValueError("a batch is above 0 ml, a rest 0 h or more")
    width = (4 * volume_ml * 1e-6 / pi) ** (1 / 3)
    cooling = CUP_W_M2K * 1.5 * pi * width**2 / (volume_ml * 1e-6 * RESIN.rho * RESIN.c)
    k_rate, barrier = rate_constant(label), label.activation_kj_mol * 1000 / GAS_CONSTANT
    cold = barrier / (label.temp_c + KELVIN)
    steps = max(60, ceil(hours * 120))
    step, alpha, temp, peak = hours * 3600 / steps, 0.0, temp_c, temp_c
    for _ in range(steps):  # second order: half a step ahead, then the whole with that slope
        middle, warm = alpha, temp
        for share in (0.5, 1.0):
            rate = k_rate * exp(cold - barrier / (warm + KELVIN)) * (START + middle) * max(1 - middle, 0.0) ** ORDER
            slope = heat_j_g * 1000 / RESIN.c * rate - cooling * (warm - temp_c)
            middle, warm = min(alpha + share * step * rate, label.gel), temp + share * step * slope
        alpha, temp = middle, warm
        peak = max(peak, temp)
    return alpha, peak


def working_minutes(label: Reacts, volume_ml: float, density: float, heat_j_g: float, temp_c: float) -> float:
    """Working time of a batch: the label's x gel of this batch here / gel of the label's batch at its temperature.

    >>> from isostasis.core.catalogue import shipped
    >>> label = shipped().mixes['coating-resin'].reacts
    >>> round(working_minutes(label, 100 / 1.11, 1.11, 286.5, 23.0), 1) == label.working_min
    True
    """
    mine = gel_in_cup(label, round(volume_ml, 3), heat_j_g, temp_c)
    labels = gel_in_cup(label, round(label.pot_mass_g / density, 3), heat_j_g, label.temp_c)
    return label.working_min * mine / labels
