"""A report's content made into a site: every kind of page, in the order in which one reads them."""

from __future__ import annotations

from dryquarry.showing.report.cards import Beside
from dryquarry.showing.report.data import add_data, add_search
from dryquarry.showing.report.entrants import add_entrants
from dryquarry.showing.report.front import add_front, add_numbers, add_suite, day_of
from dryquarry.showing.report.grids import add_grid
from dryquarry.showing.report.pairs import add_pairs
from dryquarry.showing.report.questions import add_questions
from dryquarry.showing.report.site import Site
from dryquarry.workspace.reporting import ReportContent


def site_of(content: ReportContent, title: str | None = None) -> Site:
    """Return all pages of a report, and what stands beside them."""
    titles = [report.suite.title for report in content.suites]
    said = title or (titles[0] if len(titles) == 1 else f"Report on {len(titles)} suites")
    site = Site(said, f"Replies up to {day_of(content)}.")
    add_front(site, content)
    for report in content.suites:
        add_suite(site, content, report)
        add_grid(site, content, report)
    add_entrants(site, content)
    for report in content.suites:
        beside = Beside(report.pictures)
        add_questions(site, content, report, beside)
        site.files.update(beside.files)
    for report in content.suites:
        add_pairs(site, content, report)
    add_numbers(site, content)
    add_data(site, content)
    add_search(site, content)
    return site
