"""The benchmark's own arithmetic, and that it measures what it says (never how fast)."""

import json

import pytest
from click.testing import CliRunner

from isostasis import bench
from isostasis.cli import main
from isostasis.core.lifts.kinds import skin
from isostasis.core.lifts.kinds.pour import pools


def test_marks_are_ratios():
    within, over = bench.Mark("a", 5, 10, "ms"), bench.Mark("b", 20, 10, "ms")
    assert (within.ratio, over.ratio) == (0.5, 2)
    assert "within" in str(within)
    assert "OVER" in str(over)
    assert within.as_json() == {"name": "a", "measured": 5, "most": 10, "unit": "ms", "ratio": 0.5}


@pytest.mark.parametrize(("measured", "code"), [(5, 0), (20, 1)])
def test_the_verb_prints_and_tells_by_its_exit(monkeypatch, measured, code):
    monkeypatch.setattr(bench, "run", lambda browser: [bench.Mark("a", measured, 10, "ms")])
    done = CliRunner().invoke(main, ["bench", "--json"])
    assert done.exit_code == code
    assert json.loads(done.stdout)[0]["ratio"] == measured / 10
    assert "ratio" in CliRunner().invoke(main, ["bench"]).stdout


def test_a_warm_plan_starts_with_no_stage_kept():
    mark = bench._plan()
    assert mark.measured > 0
    assert skin._laid.cache_info().currsize > 0
    bench.forget_stages()
    assert skin._laid.cache_info().currsize == pools._at_level.cache_info().currsize == 0


def test_accuracy_marks_hold():
    for mark in bench._layer()[2:]:
        assert mark.ratio < 1, mark


def test_a_served_demo_answers(tmp_path):
    import urllib.request

    with bench.Served(str(tmp_path)) as served, urllib.request.urlopen(served.url + "/s/ember-pools/pour") as page:
        assert b"Ember Pools" in page.read()
    assert served.process.returncode is not None
