"""What a module of a kind must have of its own."""


def missing(module, hooks):
    """The hooks that a module does not define itself; a package may take one from a module inside it."""
    inside = module.__name__
    found = []
    for name in hooks:
        thing = vars(module).get(name, missing)
        home = getattr(thing, "__module__", inside) if callable(thing) else inside
        if thing is missing or not (home == inside or home.startswith(f"{inside}.")):
            found.append(name)
    return found
