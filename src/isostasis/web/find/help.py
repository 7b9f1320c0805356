"""What can be found beside what is kept: the places, quick sums, symptoms, and words of the craft."""

from __future__ import annotations

from flask import url_for

from ...core.faults.model import symptoms
from ...core.reckoner import SUMS
from ...store.finding import Entry
from ..shared.help import GLOSSARY

# (title, what for, other words for it, endpoint): places and pages that need no scene.
PAGES = (
    ("Scenes", "all of your boards; start one", "start new photo import board", "scenes.page"),
    ("Bench", "what to do now, what is wet, what comes next", "now next timer evening touch", "bench.page"),
    ("Shelf", "what is there, how much is left", "stock packs tins opened best before", "shelf.page"),
    ("What to buy", "what is short, and the least that covers it", "shop list shopping order money", "shelf.buy"),
    ("Dear or cheap", "prices, sellers, what a useful unit costs", "price cost currency postage", "shelf.prices"),
    ("Labels", "what tins say, and what that moves", "tin material mix recipe own", "labels.page"),
    ("A new tin", "a label of your own in a few fields", "add brand label", "labels.new"),
    ("A mix of my own", "put together from what there is", "recipe parts ratio", "labels.mixed"),
    ("Swatches", "trials on scrap, judged and ranked", "test try scrap colour compare", "swatches.page"),
    ("Match a colour", "with the paints and powders on the shelf", "paint tint blend mix hex", "swatches.match"),
    ("Records", "what came against what was said; factors", "learn history accuracy mishap", "records.page"),
    ("What went wrong?", "from a symptom to its likely cause", "fault problem help rescue", "faults.page"),
    ("Reckoner", "one quick sum without a scene", "calculate volume how much", "reckoner.page"),
    ("How far will it go", "what is left covers so much", "enough remaining cover", "reckoner.how_far_page"),
    ("My things", "bowls, tubs, prices, hours, scale, sieves", "settings bench hours units cup", "shared.things"),
    ("Everything in one file", "save all of it, or bring it back", "archive backup export move zip", "archive.page"),
    ("Devices", "phones and scales that may speak to this machine", "pair phone tablet code", "devices.page"),
)  # fmt: skip
# Where a word of the craft is met without a scene.
MET = {
    "Factor": "records.page",
    "Mishap": "records.page",
    "Control": "swatches.page",
    "Tie": "swatches.page",
    "Touch": "bench.page",
}


def entries() -> list[Entry]:
    """All of it; the key of each is its address, or its endpoint where a scene is needed first."""
    listed = [Entry("help", url_for(endpoint), title, what, more) for title, what, more, endpoint in PAGES]
    listed += [
        Entry("help", url_for("reckoner.page", name=one.name), one.title, "a quick sum", one.name)
        for one in SUMS.values()
    ]
    listed += [
        Entry(
            "help",
            url_for("faults.page", symptom=one.code),
            one.title,
            "what went wrong",
            " ".join(c.title for c in one.causes),
        )
        for one in symptoms().values()
    ]
    listed += [
        Entry("help", url_for(MET[word]) if word in MET else "", word, what, "word meaning glossary")
        for word, what in GLOSSARY.items()
    ]
    return listed
