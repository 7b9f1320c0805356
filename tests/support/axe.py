"""The rules of WCAG 2.2 AA, asked of a page by axe."""

from axe_playwright_python.base import AXE_SCRIPT

RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
# What is dark differs in its colours alone.
CONTRAST = {"type": "rule", "values": ["color-contrast"]}
ASKED = """async (rules) => {
  const quick = { resultTypes: ["violations"], preload: false, selectors: false };
  const { violations } = await axe.run(document, { runOnly: rules, ...quick });
  return violations.map(({ id, nodes: [first] }) => [id, first.html.slice(0, 140), first.failureSummary.slice(0, 300)]);
}"""


def broken(page, rules):
    """What breaks the rules on the page at rest: which rule, where first, and why."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE_SCRIPT)
    return [tuple(one) for one in page.evaluate(ASKED, rules)]
