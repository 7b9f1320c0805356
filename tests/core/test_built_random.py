"""Random work and random edits over days: what was built stays, and what is asked for is what is missing.

ISOSTASIS_EVENINGS sets how many casters; by default as many as a busy machine has time for.
"""

import copy
from os import environ

from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from isostasis.core.built.remains import layable_ml
from isostasis.core.fault import Faults
from tests.support.casting import Bench
from tests.support.layups import SKIN, board, coat, texture
from tests.support.scenes import square

FORMS = [
    {"id": "slab", "kind": "sheet", "outline": square(0, 0, 300, 200), "thickness_mm": 40},
    {"id": "hut", "kind": "sheet", "outline": square(10, 10, 45, 60), "thickness_mm": 8},
    {"id": "hollow", "kind": "basin", "outline": square(80, 50, 250, 150), "depth_mm": 14, "bank_deg": 60},
]
WATER = {"id": "water", "kind": "pour", "mix": "casting-resin", "level_mm": 35}
ONE_PERCENT = 0.01


class Caster(RuleBasedStateMachine):
    """Somebody who works through a plan and changes their mind."""

    @initialize()
    def begin(self):
        data = board(SKIN, coat("tone", "paint-teal"), coat("seal", "acrylic-sealer", coats=2), WATER)
        data["forms"] = copy.deepcopy(FORMS)
        data["patches"].append({"id": "top", "name": "Top", "area": {"outline": square(0, 0, 60, 200)}, "lifts": [
            {**SKIN, "id": "top-skin", "depth_mm": 2}, texture(id="top-bed", depth_mm=2)]})  # fmt: skip
        self.bench = Bench(data)
        self.past = []
        self.known = ()
        self.number = 0

    def edited(self, change):
        before = copy.deepcopy(self.bench.data)
        was = self.bench.plan.as_json()
        change(self.bench.data)
        try:
            _ = self.bench.plan
        except Faults:
            self.bench.data = before  # the program refuses it, and nothing is changed
            return
        self.past.append((before, len(self.bench.built), was))

    def lifts(self):
        return [
            (patch, place, lift) for patch in self.bench.data["patches"] for place, lift in enumerate(patch["lifts"])
        ]

    def field(self, draw, name, values):
        having = [lift for *_, lift in self.lifts() if lift.get(name) is not None]
        if having:
            name_of, value = draw.draw(st.sampled_from([lift["id"] for lift in having])), draw.draw(values)
            self.edited(lambda _: self.bench.lift(name_of).__setitem__(name, value))

    def ready(self):
        steps = self.bench.open_steps()
        names = {step.id for step in steps}
        return [step for step in steps if not names.intersection(step.after)]

    @precondition(lambda self: self.ready())
    @rule(draw=st.data())
    def do_a_step(self, draw):
        self.bench.do(draw.draw(st.sampled_from([step.id for step in self.ready()])))

    @precondition(lambda self: any(step.lift for step in self.ready()))
    @rule(draw=st.data(), share=st.sampled_from([0.25, 0.5, 0.8]))
    def do_a_part(self, draw, share):
        self.bench.do(draw.draw(st.sampled_from([step.id for step in self.ready() if step.lift])), share=share)

    @rule(draw=st.data())
    def change_a_level(self, draw):
        self.field(draw, "level_mm", st.sampled_from([31.0, 33.0, 35.0, 36.5, 38.0]))

    @rule(draw=st.data())
    def change_a_thickness(self, draw):
        self.field(draw, "depth_mm", st.sampled_from([1.0, 2.0, 3.0, 4.5, 6.0]))

    @rule(draw=st.data())
    def change_coats(self, draw):
        self.field(draw, "coats", st.integers(1, 4))

    @rule(draw=st.data(), mix=st.sampled_from(["casting-resin", "day-resin", "deep-resin"]))
    def change_the_resin(self, draw, mix):
        self.edited(lambda data: [lift.update(mix=mix) for *_, lift in self.lifts() if lift["kind"] == "pour"])

    @rule(depth=st.sampled_from([10, 14, 18, 22]))
    def change_the_hollow(self, depth):
        self.edited(lambda data: data["forms"][-1].update(depth_mm=depth))

    @rule(west=st.sampled_from([5, 10, 20]))
    def move_the_hut(self, west):
        self.edited(lambda data: data["forms"][1].update(outline=square(west, 10, west + 35, 60)))

    @rule(draw=st.data())
    def remove_a_lift(self, draw):
        patch, place, _ = self.lifts()[draw.draw(st.integers(0, len(self.lifts()) - 1))]
        if len(patch["lifts"]) > 1:
            number = self.bench.data["patches"].index(patch)
            self.edited(lambda data: data["patches"][number]["lifts"].pop(place))

    @rule(draw=st.data(), material=st.sampled_from(["paint-earth", "gloss-varnish"]))
    def add_a_coat(self, draw, material):
        patch, place, _ = self.lifts()[draw.draw(st.integers(0, len(self.lifts()) - 1))]
        number = self.bench.data["patches"].index(patch)
        self.number += 1
        added = coat(f"coat-{self.number}", material)
        self.edited(lambda data: data["patches"][number]["lifts"].insert(place + 1, added))

    @precondition(lambda self: self.past)
    @rule()
    def take_an_edit_back(self):
        before, count, was = self.past.pop()
        self.bench.data = before
        if len(self.bench.built) == count:
            assert self.bench.plan.as_json() == was

    @invariant()
    def what_was_built_stays(self):
        if hasattr(self, "bench"):
            assert self.bench.built[: len(self.known)] == self.known
            self.known = self.bench.built

    @invariant()
    def nothing_built_is_planned_and_nothing_missing_is_forgotten(self):
        if not hasattr(self, "bench"):
            return
        made = self.bench.plan
        used = {entry.step for entry in self.bench.built}
        steps = [step for step in made.steps if not step.built]
        assert not used & {step.id for step in steps}
        assert len({step.id for step in made.steps}) == len(made.steps)
        needs = {need.material for need in made.buy}
        for name, work in made.works.items():
            whole = made.lifts[name].volume_ml.number
            if work.estimate is None:
                continue
            mine = [step for step in steps if step.lift == name]
            assert [step.id for step in mine] == list(work.ids)
            fed = {batch.id for batch in made.batches for feed in batch.feeds if feed.lift == name}
            assert {one for step in mine for one in step.batch} == fed and (fed or whole == 0)
            assert {one.material for one in work.estimate.plan.ingredients} <= needs

    @invariant()
    def amounts_balance(self):
        if not hasattr(self, "bench"):
            return
        made = self.bench.plan
        if any("does not fit" in one.text for work in made.works.values() for one in work.notices):
            return  # a pour that the ground as built cannot hold: all is reckoned as it was meant
        for name, work in made.works.items():
            whole = made.lifts[name].volume_ml.number
            if made.lifts[name].kind == "coat":
                continue  # what a first coat takes goes by how thirsty its bed was then
            if name in {layer.entry.lift.id for layer in self.stays(made)}:
                continue
            under = 0.0 if work.state == "new" else work.built_ml
            there = under + work.remains_ml + work.hidden_ml
            least = layable_ml(whole)
            pieces = max(
                len(work.layers), 1
            )  # each within a hundredth; too little to lay, and too much to matter, besides
            assert abs(there - whole) <= ONE_PERCENT * whole * pieces + 2 * least, (name, work.state, there, whole)
        for off in made.off or ():
            loose = sum(layer.loose_ml if not whole else (layer.entry.volume_ml or 0) for layer, whole in off.parts)
            assert off.volume_ml.number <= loose + 1e-6

    def stays(self, made):
        planned = {lift["id"] for *_, lift in self.lifts()}
        return [layer for name, work in made.works.items() if name not in planned for layer in work.layers]


TestCaster = Caster.TestCase
TestCaster.settings = settings(
    max_examples=int(environ.get("ISOSTASIS_EVENINGS", "10")),
    stateful_step_count=30,
    deadline=None,
    suppress_health_check=list(HealthCheck),
    phases=(Phase.explicit, Phase.reuse, Phase.generate),  # shrinking replays whole evenings
)
