"""The shelf in a database: what work takes and gives back, counts, the list for the shop, orders behind gates."""

import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from isostasis.core.catalogue import Bench, Price, shipped
from isostasis.core.fault import Faults
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.core.stock.asking import FREE, asked, taken_by
from isostasis.core.stock.model import NewPack, Seller
from isostasis.demo import document
from isostasis.store import Database, labels, logbook, purchases, scenes, shelf, supply, undoing
from isostasis.store import settings as kept
from tests.support.scenes import scene_data, written
from tests.support.store import do, fresh

NOW = datetime(2026, 3, 4, 19, tzinfo=UTC)


def fill(session):
    """The tarn, with more of everything on the shelf than it needs."""
    scene = scenes.create(session, written(scene_data()), "new", NOW)
    made = plan(scenes.resolve(session, scene.head))
    known = labels.catalogue(session)
    for need in made.buy:
        if need.material not in FREE:
            for part, size in shelf.split_kit(known, need.material, need.need.number * 20 + 10):
                shelf.add(session, NewPack(need.material, size, part), NOW)
    return scene


@pytest.fixture
def full(database):
    with database.writing() as session:
        fill(session)
    return database


def lefts(session):
    return {one.pack.key: one.left for one in shelf.stocked(session)}


def taken(before, after):
    return {key: before[key] - after[key] for key in before if abs(before[key] - after[key]) > 1e-9}


def needs(session):
    (asking,) = supply.needs_of(session, NOW)
    found = {}
    for one in asking.demands:
        found[one.key] = found.get(one.key, 0.0) + one.amount
    return found


def test_a_step_that_is_done_takes_what_the_plan_says_and_gives_it_back_when_it_is_not(full):
    with full.writing() as session:
        scene = scenes.find(session, "tarn")
        made = plan(scenes.resolve(session, scene.head))
        before, wanted = lefts(session), needs(session)
        step = next(one for one in made.steps if one.kind == "pour")
        do(session, scene, step.id, NOW)
        after, then = lefts(session), needs(session)
        meant = {}
        for use in asked(scenes.resolve(session, scene.head), made, labels.catalogue(session)):
            if use.step in (step.id, "") and (use.material, use.part) in before:
                meant[use.material, use.part] = meant.get((use.material, use.part), 0.0) + use.amount
        assert taken(before, after) == pytest.approx(meant)
        for key, amount in meant.items():  # what is taken is asked for no more
            assert wanted[key] - then.get(key, 0.0) == pytest.approx(amount)
        undoing.undo(session, scene, NOW)
        assert lefts(session) == before and needs(session) == pytest.approx(wanted)
        undoing.redo(session, scene, NOW)
        assert lefts(session) == pytest.approx(after)


def test_a_mended_share_takes_and_gives_the_difference(full):
    with full.writing() as session:
        scene = scenes.find(session, "tarn")
        before = lefts(session)
        step = next(one for one in plan(scenes.resolve(session, scene.head)).steps if one.kind == "pour")
        do(session, scene, step.id, NOW, "part", share=0.5)
        half = taken(before, lefts(session))
        do(session, scene, step.id, NOW + timedelta(minutes=5), "part", share=0.25)
        quarter = taken(before, lefts(session))
    for key, amount in half.items():
        assert quarter[key] == pytest.approx(amount / 2), key


def test_a_batch_that_was_mixed_takes_what_really_went_in_and_its_step_takes_nothing_more(full):
    with full.writing() as session:
        scene = scenes.find(session, "tarn")
        opened = scenes.resolve(session, scene.head)
        made = plan(opened)
        (batch,) = (one for one in made.batches if one.feeds[0].into == "tarn-water")
        planned = logbook.planned_batch(made, batch)
        row = logbook.start_batch(session, scene, batch.id, planned, (20, 0.5), NOW)
        first = planned.ingredients[0]
        logbook.write_down(row, {first.key: first.mass_g * 1.1})
        before = lefts(session)
        logbook.empty_cup(session, scene, row, (opened, made), NOW, "")
        gone = taken(before, lefts(session))
        gone.pop(("nitrile-gloves", None), None)
        meant = {
            (one.material, one.part): one.volume_ml * (1.1 if one is first else 1.0) for one in planned.ingredients
        }
        wanted = {key: amount for key, amount in meant.items() if key in before}
        assert {key: gone[key] for key in wanted} == pytest.approx(wanted)
        asked = needs(session)
        assert all(key not in asked for key in wanted if key[0] == "casting-resin")


def test_of_two_batches_one_that_is_mixed_is_asked_for_no_more(database):
    data = scene_data()
    data["bench"] = {"cup_ml": 60}
    with database.writing() as session:
        scene = scenes.create(session, written(data), "new", NOW)
        opened = scenes.resolve(session, scene.head)
        made = plan(opened)
        feeding = [one for one in made.batches if one.feeds[0].into == "tarn-water"]
        assert len(feeding) > 1
        before = needs(session)
        row = logbook.start_batch(
            session, scene, feeding[0].id, logbook.planned_batch(made, feeding[0]), (20, 0.5), NOW
        )
        logbook.empty_cup(session, scene, row, (opened, made), NOW, "")
        after = needs(session)
    for key, amount in before.items():
        if key[0] == "casting-resin":
            assert after[key] == pytest.approx(amount * (1 - 1 / len(feeding)))


def strewn_of(session, name, lift):
    """A demo scene in which one lift was strewn, with its figures."""
    scene = scenes.create(session, read(document(name)), "new", NOW)
    made = plan(scenes.resolve(session, scene.head))
    for part in made.lifts[lift].ingredients:
        shelf.add(session, NewPack(part.material, 100_000), NOW)
    do(session, scene, next(one.id for one in made.steps if one.lift == lift and one.course), NOW)
    return made.lifts[lift]


def test_what_is_swept_up_goes_back_or_into_a_jar_of_its_blend(database):
    with database.writing() as session:
        stone = strewn_of(session, "hollin-delf", "sump-gravel")
        (line,) = [line for line in shelf.lines(session) if line.what == "back"]
        ballast = shipped().materials["ballast-stone"]
        assert line.amount == pytest.approx(stone.strewn.swept_ml.number * ballast.density)
        blend = strewn_of(session, "hollin-delf", "floor-dust")
        (jar,) = [one for one in shelf.stocked(session) if not one.row.size]
        assert jar.left == pytest.approx(blend.strewn.swept_ml.number) and jar.row.material == "quarry-dust"
        assert shelf.label_of(labels.catalogue(session), "quarry-dust").name == "Quarry dust, in a jar"
        undoing.undo(session, scenes.find(session, "hollin-delf-2"), NOW)
        assert all(one.row.size for one in shelf.stocked(session))


def test_never_more_is_taken_than_is_there_and_opened_packs_go_first(database):
    with database.writing() as session:
        scene = scenes.create(session, written(scene_data()), "new", NOW)
        made = plan(scenes.resolve(session, scene.head))
        need = next(use.amount for use in made.uses if use.material == "casting-resin" and use.part == "A")
        fresh = shelf.add(session, NewPack("casting-resin", 1000, "A"), NOW)
        begun = shelf.add(session, NewPack("casting-resin", 1000, "A", need / 3, opened=NOW.date()), NOW)
        little = shelf.add(session, NewPack("casting-resin", need / 100, "B"), NOW)
        do(session, scene, next(one.id for one in made.steps if one.kind == "pour"), NOW)
        assert shelf.left_of(session, begun) == 0 and shelf.left_of(session, little) == 0
        assert shelf.left_of(session, fresh) == pytest.approx(1000 - need * 2 / 3)
        assert fresh.opened == NOW.date()


class Shelf(RuleBasedStateMachine):
    """Work done, taken back and done again, and counts, in any order: what is left is what a model of paper and pencil
    says, line by line."""

    @initialize()
    def start(self):
        self.folder = tempfile.TemporaryDirectory()
        self.database = Database(fresh(Path(self.folder.name, "x.db")))
        with self.database.writing() as session:
            fill(session)
            self.full = lefts(session)
        self.at = NOW
        self.paper = []  # [amounts by key, holds] of a mark, (key, amount) of a count, in the order of entry
        self.held, self.back = [], []

    def teardown(self):
        self.database.close()
        self.folder.cleanup()

    @rule(place=st.integers(0, 30))
    def work(self, place):
        self.at += timedelta(minutes=1)
        with self.database.writing() as session:
            scene = scenes.find(session, "tarn")
            resolved = scenes.resolve(session, scene.head)
            made = plan(resolved)
            waiting = [one for one in made.steps if not one.built and not one.gate]
            if not waiting:
                return
            step = waiting[place % len(waiting)]
            amounts = {}
            for use in taken_by(resolved, made, step, labels.catalogue(session)):
                if (use.material, use.part) in self.full:
                    amounts[use.material, use.part] = amounts.get((use.material, use.part), 0.0) + use.amount
            do(session, scene, step.id, self.at)
        self.paper.append([amounts, True])
        self.held.append(self.paper[-1])
        self.back = []

    @rule()
    def undo(self):
        with self.database.writing() as session:
            undoing.undo(session, scenes.find(session, "tarn"), self.at)
        if self.held:
            self.held[-1][1] = False
            self.back.append(self.held.pop()[0])

    @rule()
    def redo(self):
        with self.database.writing() as session:
            undoing.redo(session, scenes.find(session, "tarn"), self.at)
        if self.back:
            self.paper.append([self.back.pop(), True])
            self.held.append(self.paper[-1])

    @rule(place=st.integers(0, 20), share=st.floats(0, 1))
    def count(self, place, share):
        with self.database.writing() as session:
            pack = shelf.rows(session)[place % len(self.full)]
            shelf.count(session, pack, pack.size * share, self.at)
            self.paper.append(((pack.material, pack.part), pack.size * share))

    @invariant()
    def what_is_left_is_what_the_paper_says(self):
        meant = dict(self.full)
        for one in self.paper:
            if isinstance(one, tuple):
                meant[one[0]] = one[1]
            elif one[1]:
                for key, amount in one[0].items():
                    meant[key] = meant[key] - amount
        with self.database.reading() as session:
            there = lefts(session)
        for key, amount in meant.items():  # a pack that was counted short gives what it has
            assert there[key] == pytest.approx(max(amount, 0.0), abs=1e-6) or amount < 0, key
            assert there[key] >= 0


TestShelf = Shelf.TestCase
TestShelf.settings = settings(
    max_examples=6, stateful_step_count=10, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck)
)


def price(session, *offers, sellers=()):
    kept.change(session, bench=Bench(prices=tuple(Price(**one) for one in offers)), sellers=tuple(sellers))


def buying(session):
    made = supply.supply(session, NOW)
    return made, supply.to_buy(session, made)


def test_the_list_is_ticked_and_put_on_the_shelf_in_one_act(database):
    with database.writing() as session:
        scenes.create(session, written(scene_data()), "new", NOW)
        price(session, {"material": "casting-resin", "amount": 20, "pack": 300},
              {"material": "acrylic-sealer", "amount": 5, "pack": 50, "packs": 3})  # fmt: skip
        _, made = buying(session)
        rows = purchases.take_along(session, made, NOW)
        assert {row.material for row in rows} == {"casting-resin", "acrylic-sealer"}
        resin = next(row for row in rows if row.material == "casting-resin")
        purchases.tick(resin, NOW)
        assert purchases.take_along(session, made, NOW) != []  # what is ticked stays, the rest is made anew
        assert [row.material for row in purchases.open_list(session) if row.ticked_at] == ["casting-resin"]
        count = sum(one.count for one in purchases.bought_as(resin))
        assert purchases.put_on_shelf(session, [resin], NOW) == 2 * count
        assert {(one.row.part, one.left) for one in shelf.stocked(session)} == {("A", 200), ("B", 100)}
        assert sum(one.row.price for one in shelf.stocked(session)) == pytest.approx(20 * count, abs=0.02)
        _, again = buying(session)
        assert "casting-resin" not in [line.material for line in again.lines]
        (sealer,) = purchases.open_list(session)
        purchases.put_on_shelf(session, [sealer], NOW)
        assert [one.left for one in shelf.stocked(session) if one.row.material == "acrylic-sealer"] == [50] * 3
        with pytest.raises(Faults, match="no longer on it"):
            purchases.find_line(session, sealer.id)


def test_what_is_ordered_is_waited_for_behind_a_gate_until_it_is_there(database):
    with database.writing() as session:
        scenes.create(session, written(scene_data()), "new", NOW)
        price(session, {"material": "casting-resin", "amount": 20, "pack": 300, "seller": "post"},
              sellers=[Seller(name="post", postage=4, days=3)])  # fmt: skip
        made, shopping = buying(session)
        assert shopping.postage == {"post": 4}
        assert purchases.order(session, made, shopping, {"post": 3}, NOW) == ["tarn"]
        (gate,) = scenes.document(scenes.find(session, "tarn").head).gates
        assert gate.not_before == NOW + timedelta(days=3) and not gate.done and "tarn-water" in gate.blocks
        (row,) = purchases.open_list(session)
        assert row.comes_at == NOW + timedelta(days=3)
        purchases.put_on_shelf(session, [row], NOW)
        (gate,) = scenes.document(scenes.find(session, "tarn").head).gates
        assert gate.done


def test_a_foam_sheet_is_asked_for_by_its_cutting_plan(database):
    with database.writing() as session:
        scenes.create(session, written(scene_data()), "new", NOW)
        (asking,) = supply.needs_of(session, NOW)
        foam = sum(one.amount for one in asking.demands if one.material == "foam-xps")
        panel = shipped().materials["foam-xps"].panel_mm
        assert foam / (panel[0] * panel[1]) == pytest.approx(round(foam / (panel[0] * panel[1])))


def test_two_scenes_never_count_on_the_same_bottle(database):
    with database.writing() as session:
        for _ in range(2):
            scenes.create(session, written(scene_data()), "new", NOW)
        need = sum(one.amount for one in supply.needs_of(session, NOW)[0].demands if one.key == ("casting-resin", "A"))
        shelf.add(session, NewPack("casting-resin", need * 1.5, "A"), NOW)
        shelf.add(session, NewPack("casting-resin", need * 1.5, "B"), NOW)
        made = supply.supply(session, NOW)
    short = [one for one in made.reserved if one.demand.material == "casting-resin" and one.short > 0]
    assert {one.demand.scene for one in short} == {"tarn-2"}
    assert sum(one.short for one in short if one.demand.part == "A") == pytest.approx(need / 2)
    assert {doubt.code for doubt in made.doubts if doubt.material == "casting-resin"} >= {"short", "twice"}


def test_a_label_keeps_versions_lineage_and_photo(database):
    with database.writing() as session:
        mix = shipped().mixes["satin-1-1"]
        row = labels.keep(session, mix.model_copy(update={"id": "mine"}), NOW, "satin-1-1", [["mix", "satin-1-1", 0]])
        again = labels.keep(session, mix.model_copy(update={"id": "mine", "film_mm": 0.2}), NOW)
        assert (row.version, again.version, again.made_of) == (1, 2, [["mix", "satin-1-1", 0]])
        (change,) = labels.changes(session, NOW - timedelta(days=1), ["mine"])[:1]
        assert change.fields == (("film_mm", 0.12, 0.2),)
        assert labels.changes(session, NOW, ["mine"]) == []
        assert labels.changes(session, NOW - timedelta(days=1), ["other"]) == []
        labels.set_photo(session, "mix", "mine", "a" * 64)
        labels.set_photo(session, "mix", "mine", "b" * 64)
        assert labels.photo_of(session, "mix", "mine") == "b" * 64
        labels.set_photo(session, "mix", "mine", None)
        assert labels.photo_of(session, "mix", "mine") is None
