"""The stand-in level: readings that scatter about the truth, and a board that turns when a corner is raised."""

import pytest

from isostasis.core.document.scene import Base
from isostasis.core.terrain.level import levelling
from isostasis.standins.spirit_level import NOISE, SimulatedLevel, mean_of


def test_readings_scatter_about_the_truth_and_repeat_with_their_seed():
    level = SimulatedLevel(1.5, -0.8, seed=4)
    readings = [level.read() for _ in range(400)]
    assert len(set(readings)) > 10
    assert sum(east for east, _ in readings) / 400 == pytest.approx(1.5, abs=4 * NOISE / 20)
    assert all(abs(east / 0.05 - round(east / 0.05)) < 1e-6 for east, _ in readings)
    again = SimulatedLevel(1.5, -0.8, seed=4)
    assert [again.read() for _ in range(5)] == readings[:5]


def test_shims_bring_the_board_level():
    base = Base(width_mm=1000, depth_mm=400, tilt_mm_per_m=(2.0, -1.0))
    made = levelling(base)
    assert made.apart_mm.number == pytest.approx(2.4)
    assert made.shims["south-east"].number == 0
    assert made.shims["north-west"].number == pytest.approx(2.4)


@pytest.mark.parametrize(
    ("corner", "sign"), [("north-east", (1, 1)), ("south-west", (-1, -1)), ("north-west", (-1, 1))]
)
def test_raising_a_corner_turns_the_board_about_its_neighbours(corner, sign):
    level = SimulatedLevel(0.0, 0.0, seed=1)
    level.shim(corner, 1.0, 500, 250)
    assert (level.east, level.north) == (pytest.approx(2 * sign[0]), pytest.approx(4 * sign[1]))
    assert mean_of(level, 50) == (pytest.approx(level.east, abs=0.1), pytest.approx(level.north, abs=0.1))
