"""A caster who does what a plan says, one step after the other, and writes it down."""

import copy
from datetime import UTC, datetime, timedelta

from isostasis.core.plan import plan
from isostasis.core.plan.record import ground_of, leaves_something, record
from tests.support.scenes import resolved

MONDAY = datetime(2027, 3, 1, 18, 0, tzinfo=UTC)


class Bench:
    """A document, and what was done of it."""

    def __init__(self, data):
        self.data = copy.deepcopy(data)
        self.built = ()
        self.grounds = ()
        self.at = MONDAY

    @property
    def scene(self):
        scene = resolved(self.data)
        return scene.model_copy(update={"built": self.built, "built_on": self.grounds})

    @property
    def plan(self):
        return plan(self.scene)

    def step(self, name):
        return next(step for step in self.plan.steps if step.id == name)

    def do(self, *names, share=1.0, actual=None):
        """Do some steps, by id."""
        for name in names:
            scene, made, step = self.scene, self.plan, self.step(name)
            assert not step.built, name
            if not leaves_something(step):
                continue
            ground = f"g{len(self.grounds) + 1}"
            self.grounds += (ground_of(scene, ground),)
            begun = self.at
            self.at += timedelta(minutes=step.hands_on_min)
            batches = () if actual is None else (actual,)
            entry = record(
                scene, made, step, name=f"b{len(self.built) + 1}", ground=ground, begun=begun, ended=self.at, share=share,
                batches=batches,
            )  # fmt: skip
            self.built += (entry,)
            self.at += timedelta(days=1)
        return self

    def do_all(self, until=None):
        """Do every step that is planned, in the order of the plan, up to and with that of an id."""
        while True:
            open_steps = [step for step in self.plan.steps if not step.built and leaves_something(step)]
            names = {step.id for step in open_steps}
            ready = [step for step in open_steps if not names.intersection(step.after)]
            if not ready:
                return self
            self.do(ready[0].id)
            if ready[0].id == until:
                return self

    def lift(self, name, patch=0):
        return next(lift for patch in self.data["patches"] for lift in patch["lifts"] if lift["id"] == name)

    def works(self, name):
        return self.plan.works[name]

    def open_steps(self):
        return [step for step in self.plan.steps if not step.built and leaves_something(step)]
