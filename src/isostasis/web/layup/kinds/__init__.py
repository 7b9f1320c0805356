"""How each kind of lift stands on the pages: its words, fields, hatch and figures, one module a kind.

To add a kind, write its module here and name it in PAGES (CONTRIBUTING.md walks through it).
"""

from __future__ import annotations

from types import ModuleType

from . import coat, falls, fix, pour, shell, skin, texture, waves

PAGES: tuple[ModuleType, ...] = (shell, skin, texture, fix, coat, pour, waves, falls)
# What each module defines itself: none of them has a default.
HOOKS = (
    "KIND", "STEM", "WORDS", "HATCH", "CUT_HATCH", "TONE", "LANE_PX", "TELLS_THIRST", "ON_POUR", "FIELDS", "COMPARED",
    "COMPARED_NOTE", "PICTURE", "values", "document", "begin", "summary", "figures", "picture",
)  # fmt: skip
_BY_KIND = {page.KIND: page for page in PAGES}


def page_of_kind(kind: str) -> ModuleType:
    """The module of a kind's pages. Raises KeyError for a kind that is not built."""
    return _BY_KIND[kind]


def hatch_of(kind: str) -> str:
    """The hatch of a kind in core samples and lanes."""
    hatch: str = page_of_kind(kind).HATCH
    return hatch


def cut_hatch_of(kind: str) -> str:
    """The hatch of a kind along the cut; empty for what is drawn there otherwise."""
    hatch: str = page_of_kind(kind).CUT_HATCH
    return hatch
