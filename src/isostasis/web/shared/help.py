"""What each place is for, in a sentence or two, and the words of the craft that are used there."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Purpose:
    """What one place is for, what to do there first, and which words it uses."""

    name: str
    for_: str
    first: str
    words: tuple[str, ...] = ()


# By the name that its pages give their place.
PURPOSES = {
    "scenes": Purpose(
        "Scenes", "All of your boards, and ways to begin one.", "Pick the nearest start and change its numbers."
    ),
    "ground.page": Purpose(
        "Ground",
        "The foam from above, and beneath it the cut along the red line.",
        "Drag a form, one of its corners, or its height in the cut.",
        ("Form", "Spot"),
    ),
    "layup.page": Purpose(
        "Lay-up",
        "What lies on each spot, bottom up, with its amount, its hours and its look.",
        "Choose a spot, then a lift of it; add the next on top.",
        ("Lift", "Lay-up", "Skin", "Fix", "Hold"),
    ),
    "pour.page": Purpose(
        "Pour",
        "How much water stands in a hollow, in how many layers, how hot it gets and when it is hard.",
        "Drag the level in the cut.",
        ("Pour", "Working time", "Gel"),
    ),
    "mix.page": Purpose(
        "Mix",
        "One batch at a time, by volume, by mass and in your own measures.",
        "Begin the card that is on top; write down what really went in.",
        ("Batch", "Working time", "Loss"),
    ),
    "clock.page": Purpose(
        "Clock",
        "When to do what within your evenings, and until when it waits.",
        "Say your bench hours; drag a post to another evening.",
        ("Window", "Touch", "Gate"),
    ),
    "bench": Purpose(
        "Bench",
        "The one thing to do now, what is wet, and what comes then.",
        "Do it, and press that it is done.",
        ("Touch", "Window"),
    ),
    "shelf": Purpose(
        "Shelf", "What is there, who counts on it, and what is short.", "Enter a pack; count the rest in one pass."
    ),
    "labels": Purpose(
        "Labels",
        "What your tins say, and what each field of it moves in a scene.",
        "Open a tin and write what yours says.",
    ),
    "swatches": Purpose(
        "Swatches",
        "Ways side by side on a scrap, judged in rounds, so that you know which won and by how much.",
        "Begin a scrap; judge it without looking at its names.",
        ("Control", "Tie"),
    ),
    "reckoner": Purpose(
        "Reckoner", "One quick sum without a scene.", "Choose a sum; its numbers stand on the picture."
    ),
    "records": Purpose(
        "Records",
        "What came against what was said, and what that teaches the next plan.",
        "Touch what is wet and weigh what goes in: records make themselves.",
        ("Factor", "Mishap", "Touch"),
    ),
    "find": Purpose("Find", "Anything that is kept, by the beginning of a word.", "Type; arrows and Enter open it."),
    "archive": Purpose(
        "Everything in one file", "A copy of all of it, for another machine or for later.", "Save it now and then."
    ),
    "things": Purpose(
        "My things", "Your bowls, cups, spoons, hours, sieves and scale.", "Say what your mixing cup holds."
    ),
    "devices": Purpose("Devices", "Which phones and scales may speak to this machine.", "Pair a phone by its code."),
    "history": Purpose(
        "History", "Every revision of a scene; nothing is lost.", "Bring one back; that is a revision too."
    ),
}
GLOSSARY = {
    "Form": "a thing of foam, paper or plaster that shapes the bare ground",
    "Spot": "a part of the ground with a lay-up of its own",
    "Lift": "one layer of a lay-up, laid at one time",
    "Lay-up": "all lifts of a spot, bottom up",
    "Skin": "a compound trowelled over the ground",
    "Fix": "a thinned binder, soaked into what is strewn",
    "Pour": "water of resin, gel or glue water, in layers no deeper than its label says",
    "Hold": "how firmly a binder keeps what is strewn: glue solids in a millilitre of it",
    "Working time": "how long a mixed batch can be poured or spread",
    "Gel": "when a resin runs no more; after that no wave can be pushed into it",
    "Batch": "what is mixed in one cup or bowl at one time",
    "Loss": "what stays in the cup and on the tools; it is mixed besides",
    "Window": "when the next lift can go on: not before, not after",
    "Gate": "something that work waits for, such as a delivery",
    "Touch": "a look at what is wet: not yet, or ready; it teaches the waits",
    "Factor": "how many times what was said really comes, learnt from records",
    "Mishap": "a record that teaches nothing, because an accident made it",
    "Control": "the lane of a scrap that is left alone, or done as always",
    "Tie": "two ways that the rounds so far cannot tell apart",
}
