"""The first steps: from a board to a planned pour in five, shown while there is one scene, left at any point."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, g, request, url_for
from sqlalchemy import func, select
from werkzeug.wrappers import Response

from ...store import clock, scenes, settings
from ...store.tables import SceneRow
from .answers import hx_redirect, safe_return_url
from .scenes import OpenScene, database


@dataclass(frozen=True)
class PathStep:
    """One of the five: what it is, in a few words, where it is done, and whether it is."""

    words: str
    url: str
    done: bool


def path_of(opened: OpenScene | None) -> list[PathStep]:
    """The five steps of the only scene; none where they were left, or there are several scenes."""
    if opened is None or g.settings.path == "left":
        return []
    with database().reading() as session:
        if (session.scalar(select(func.count()).select_from(SceneRow)) or 0) != 1:
            return []
        asked = bool(clock.forecasts(session, scenes.find(session, opened.slug)))
    kinds = {lift.kind for patch in opened.scene.patches for lift in patch.lifts}
    hollow = (
        any(one.kind in ("basin", "dips", "channel", "rim") for one in opened.scene.forms) or opened.scene.base.dammed
    )

    def at(endpoint: str) -> str:
        return url_for(endpoint, slug=opened.slug)

    return [
        PathStep("a board", at("scenes.settings"), True),
        PathStep("a hollow in it", at("ground.page"), bool(hollow)),
        PathStep("a skin over it", at("layup.page"), bool(kinds & {"skin", "shell"})),
        PathStep("water, at its level", at("pour.page"), "pour" in kinds),
        PathStep("your evenings", at("clock.page"), asked),
    ]


def install(blueprint: Blueprint) -> None:
    """Its one address."""

    @blueprint.post("/path")
    def leave_path() -> Response:
        """The first steps are left, or shown again."""
        with database().writing() as session:
            settings.change(session, path="shown" if request.form.get("how") == "shown" else "left")
        return hx_redirect(safe_return_url())
