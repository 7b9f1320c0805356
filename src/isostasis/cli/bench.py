"""The verb that runs the benchmark, which lives in the source tree."""

from __future__ import annotations

import json
import sys
from importlib import import_module
from pathlib import Path

import click

from .shared import json_option, stop


@click.command()
@json_option
@click.option("--browser/--no-browser", default=True, help="Measure the drag in Chromium too.")
def bench(as_json: bool, browser: bool) -> None:
    """Measure speed against the project's own marks. Prints ratios (below 1 is within)."""
    root = Path(__file__).parents[3]
    if not (root / "benchmarks").is_dir():
        stop("the benchmarks come with the source, not with the package; run it in a checkout")
    sys.path.insert(0, str(root))
    try:
        run = import_module("benchmarks").run
    except ModuleNotFoundError as missing:
        stop(f"{missing.name} is missing; `pip install -e '.[test]'` brings it")
    results = run(browser=browser)
    if as_json:
        click.echo(json.dumps([result.as_json() for result in results], indent=1))
    else:
        for result in results:
            click.echo(str(result))
    if any(result.ratio > 1 for result in results):
        sys.exit(1)
