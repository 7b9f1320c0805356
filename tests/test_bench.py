"""The benchmark's own arithmetic, and that it measures what it says (never how fast)."""

import json

import pytest
from click.testing import CliRunner

import benchmarks
from isostasis.cli import main
from isostasis.core.stages import STAGES


def test_marks_are_ratios():
    within, over = benchmarks.Mark("a", 5, 10, "ms"), benchmarks.Mark("b", 20, 10, "ms")
    assert (within.ratio, over.ratio) == (0.5, 2)
    assert "within" in str(within)
    assert "OVER" in str(over)
    assert within.as_json() == {"name": "a", "measured": 5, "most": 10, "unit": "ms", "ratio": 0.5}


@pytest.mark.parametrize(("measured", "code"), [(5, 0), (20, 1)])
def test_the_verb_prints_and_tells_by_its_exit(monkeypatch, measured, code):
    monkeypatch.setattr(benchmarks, "run", lambda browser: [benchmarks.Mark("a", measured, 10, "ms")])
    done = CliRunner().invoke(main, ["bench", "--json"])
    assert done.exit_code == code
    assert json.loads(done.stdout)[0]["ratio"] == measured / 10
    assert "ratio" in CliRunner().invoke(main, ["bench"]).stdout


def kept(stage):
    return next(count.entries for count in STAGES.status().stages if count.name == stage)


def test_a_warm_plan_starts_with_no_stage_kept():
    mark = benchmarks._plan()
    assert mark.measured > 0
    assert kept("core.plan.plan") > 0
    benchmarks.forget_stages()
    assert kept("core.plan.plan") == 0


def test_accuracy_marks_hold():
    for mark in benchmarks._layer()[2:]:
        assert mark.ratio < 1, mark


def test_a_served_demo_answers(tmp_path):
    import urllib.request

    with benchmarks.Served(str(tmp_path)) as served, urllib.request.urlopen(served.url + "/s/ember-pools/pour") as page:
        assert b"Ember Pools" in page.read()
    assert served.process.returncode is not None
