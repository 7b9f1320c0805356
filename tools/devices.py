"""Two devices that mark the same scenes at once, over a connection that loses answers: none may be lost, none doubled.

python -m tools.devices --events 5000
"""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from isostasis.store import Database, marks, scenes

from .browser import Served
from .soak import Person

# A step for each device on each scene.
STEPS = {
    "kettle-fen": ("ground-skin", "road-skin"),
    "hollin-delf": ("floor-wash", "sump-gravel"),
    "saltcote-pans": ("walks-skin", "salt-skin"),
    "ember-pools": ("crust-paint", "crust-fix"),
}
LOST = 0.2  # of the answers: what was pressed is sent once more, or twice


class Device(Person):
    """A device that gives every press a key, and sends again what it heard nothing of."""

    def press(self, slug: str, key: str, lost: random.Random, **sent: str) -> int:
        """How often one press was sent."""
        times = 1
        while True:
            self.headers = {"Idempotency-Key": key}
            status, text = self.ask("POST", f"/s/{slug}/clock/mark", **sent)
            if status >= 400:
                raise RuntimeError(f"{status}: {text[:300]}")
            if lost.random() >= LOST:
                return times
            times += 1


def work(port: int, number: int, count: int) -> tuple[int, int]:
    """(presses, times that they were sent) of one device: its step is begun and taken back, over and over."""
    device, lost = Device(port), random.Random(number)
    device.ask("GET", "/bench")
    sent = 0
    for press in range(count):
        slug = list(STEPS)[press % len(STEPS)]
        what = "started" if press // len(STEPS) % 2 == 0 else "undone"
        key = f"device-{number}-{press:06d}"
        sent += device.press(slug, key, lost, step=STEPS[slug][number], what=what, here="/bench")
    return count, sent


def main() -> int:
    """Let them mark, and count what was kept."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--events", type=int, default=5000)
    count = asked.parse_args().events // (2 * len(STEPS)) * len(STEPS)
    with tempfile.TemporaryDirectory() as folder:
        with Served(folder) as served, ThreadPoolExecutor(2) as both:
            runs = list(both.map(lambda number: work(served.port, number, count), range(2)))
        with Database(Path(folder) / "demo.db").reading() as session:
            kept = [
                [one.what for one in marks.events(session, scenes.find(session, slug)) if one.step == step]
                for slug, steps in STEPS.items()
                for step in steps
            ]
    meant = [("started", "undone")[press % 2] for press in range(count // len(STEPS))]
    pressed, sent = (sum(numbers) for numbers in zip(*runs, strict=True))
    right = all(found == meant for found in kept)
    told = "each once, in order" if right else "WRONG"
    print(f"{pressed} presses, sent {sent} times; kept {sum(map(len, kept))}, {told}")
    return 0 if right else 1


if __name__ == "__main__":
    sys.exit(main())
