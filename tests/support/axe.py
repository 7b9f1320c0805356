"""The rules of WCAG 2.2 AA, asked of a page by axe."""

from axe_playwright_python.sync_playwright import Axe

RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
# What is dark differs in its colours alone.
CONTRAST = {"type": "rule", "values": ["color-contrast"]}


def broken(page, rules):
    """What breaks the rules on the page at rest."""
    return [
        (one["id"], one["nodes"][0]["html"][:140], one["nodes"][0]["failureSummary"][:300])
        for one in Axe().run(page, options={"runOnly": rules}).response["violations"]
    ]
