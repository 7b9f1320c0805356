"""Keeps the parts of Bulma that are used: `python -m tools.bulma path/to/bulma.min.css` writes them to static/vendor.

Kept are rules for elements alone and for classes that stand in a template, and of the variables those that they need.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator
from pathlib import Path

WEB = Path(__file__).parents[1] / "src" / "isostasis" / "web"
TARGET = WEB / "static" / "vendor" / "bulma.parts.css"
UNLESS = {"is-multiple", "is-loading", "is-rounded"}  # what Bulma's own rules leave out by :not()
Rule = tuple[str, str | list["Rule"]]


def rules(css: str) -> Iterator[Rule]:
    """(selector, declarations) of each rule; (at-rule, rules) of a block of rules."""
    place = 0
    while (open_at := css.find("{", place)) >= 0:
        head, depth, end = css[place:open_at].strip(), 1, open_at + 1
        while depth:
            depth += {"{": 1, "}": -1}.get(css[end], 0)
            end += 1
        body = css[open_at + 1 : end - 1]
        nested = head.startswith(("@media", "@supports"))
        yield head, list(rules(body)) if nested else body
        place = end


def used_classes() -> set[str]:
    """Every word that stands in a class attribute of a template."""
    found = set(UNLESS)
    for template in WEB.rglob("*.html"):
        for attribute in re.findall(r'class="([^"]*)"', template.read_text()):
            found.update(re.findall(r"[\w-]+", attribute))
    return found


def kept(found: Iterator[Rule] | list[Rule], used: set[str]) -> Iterator[Rule]:
    """The rules for elements alone and for classes that are used."""
    for head, body in found:
        if isinstance(body, list):
            inner = list(kept(body, used))
            if inner:
                yield head, inner
        elif not head.startswith("@"):
            selectors = [
                one
                for one in re.split(r",(?![^(]*\))", head)
                if used.issuperset(re.findall(r"\.([A-Za-z][\w-]*)", one))
            ]
            if selectors:
                yield ",".join(selectors), body


def written(found: list[Rule], needed: set[str]) -> str:
    """The rules as CSS, a rule a line; of variables those that are needed."""
    lines = []
    for head, body in found:
        if isinstance(body, list):
            inner = written(body, needed)
            if inner:
                lines.append(f"{head} {{\n{inner}\n}}")
            continue
        parts = [part for part in re.split(r";(?![^(]*\))", body) if part.strip()]
        parts = [part for part in parts if not part.startswith("--") or part.partition(":")[0] in needed]
        if parts:
            lines.append(f"{head} {{ {'; '.join(parts)} }}")
    return "\n".join(lines)


def references(found: list[Rule]) -> Iterator[tuple[str, set[str]]]:
    """(the variable that is set, or nothing; the variables that it needs) of each declaration."""
    for _, body in found:
        if isinstance(body, list):
            yield from references(body)
            continue
        for part in re.split(r";(?![^(]*\))", body):
            name = part.partition(":")[0] if part.startswith("--") else ""
            yield name, set(re.findall(r"var\((--[\w-]+)", part))


def main(source: str) -> None:
    """Write the parts of a whole Bulma that are used."""
    css = Path(source).read_text()
    banner = css[: css.index("*/") + 2]
    found = list(kept(rules(re.sub(r"/\*.*?\*/|@charset[^;]*;", "", css, flags=re.S)), used_classes()))
    links = list(references(found))
    needed: set[str] = set().union(*(needs for name, needs in links if not name))
    while more := set().union(*(needs for name, needs in links if name in needed)) - needed:
        needed |= more
    TARGET.write_text(f"{banner}\n{written(found, needed)}\n")


if __name__ == "__main__":
    main(sys.argv[1])
