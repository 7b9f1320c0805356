"""What was done a while ago: to take back, to photograph, to give back to the shelf what was left over."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from ...core.bench import BenchScene
from ...core.plan import Step
from ...store import marks, photos, scenes, shelf
from ...store.tables import StepEventRow, StepPhotoRow

JUST = timedelta(hours=12)  # for which what was done stands on the bench's page


@dataclass(frozen=True)
class JustDone:
    """Something that was done a while ago: its step and mark, what of it could go back to the shelf, its photos."""

    scene: BenchScene
    step: Step
    event: StepEventRow
    took: tuple[shelf.Taken, ...]
    photos: tuple[StepPhotoRow, ...]


def just_done(session: Session, bench_scenes: list[BenchScene], at: datetime, most: int) -> list[JustDone]:
    """What was done last over some scenes, the newest first."""
    done = []
    for scene in bench_scenes:
        row = scenes.find(session, scene.slug)
        steps, shots = {step.id: step for step in scene.plan.steps}, photos.by_step(session, row)
        for event in marks.laid(marks.events(session, row)):
            if event.at > at - JUST and event.step in steps:
                done.append((scene, steps[event.step], event, tuple(shots.get(event.step, ()))))
    newest = sorted(done, key=lambda each: each[2].at, reverse=True)[:most]
    return [
        JustDone(one, step, event, tuple(shelf.taken_by(session, event)), shots) for one, step, event, shots in newest
    ]
