"""Work marked straight in the store, as the pages mark it."""

from isostasis.core.plan import plan
from isostasis.store import logbook, scenes


def do(session, scene, step, at, what="done", **more):
    """Mark a step of a scene by its id."""
    resolved = scenes.resolve(session, scene.head)
    made = plan(resolved)
    found = next(one for one in made.steps if one.id == step)
    return logbook.add_event(session, scene, (resolved, made), found, what, at, **more)
