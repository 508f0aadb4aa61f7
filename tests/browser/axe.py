"""What axe finds on a page: WCAG 2.2 AA and its best practice."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
RULES = {
    "type": "tag",
    "values": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"],
}
RUN = """async (of) => {
  // What is still fading in has no colour of its own yet.
  const ends = document.getAnimations().filter((each) => each.effect?.getComputedTiming().endTime < Infinity);
  await Promise.all(ends.map((each) => each.finished.catch(() => undefined)));
  // Of a sheet that is open, itself: what lies under it is looked at without it.
  const sheet = document.querySelector('[role=dialog]');
  return axe.run(sheet ?? document, {resultTypes: ['violations'], runOnly: of});
}"""
COLOURS = {"type": "rule", "values": ["color-contrast", "link-in-text-block"]}


def wrong(page: Page, of: dict[str, object] = RULES) -> list[str]:
    """What axe finds, moderate and minor too."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    result = page.evaluate(RUN, of)
    return [
        f"{v['id']}: {n['target']} {n.get('failureSummary', '')}" for v in result["violations"] for n in v["nodes"][:3]
    ]


def wrong_in_either(page: Page) -> list[str]:
    """What axe finds by day, and by night too: another theme changes colours and nothing else."""
    found = wrong(page)
    day = page.evaluate("() => document.documentElement.dataset.theme")
    page.evaluate("() => { document.documentElement.dataset.theme = 'night'; }")
    found += [f"by night, {each}" for each in wrong(page, COLOURS)]
    page.evaluate("(theme) => { document.documentElement.dataset.theme = theme; }", day)
    return found
