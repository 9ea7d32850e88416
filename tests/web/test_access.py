"""Every main view in both themes: no violation axe-core can find, and usable at phone width."""

from contextlib import suppress

import pytest
from playwright.sync_api import Page, TimeoutError, expect

from tests.web.conftest import ROOT, sign_in

pytestmark = pytest.mark.browser

VIEWS = {
    "today": "/today",
    "estate": "/estate?q=kind+%3D+server&peek=12",
    "past": "/estate?at=2026-09-20",
    "wrong": "/estate?q=knid+%3D+1",
    "dossier": "/assets/12",
    "discovery": "/discovery",
    "intake": "/discovery/intake",
    "settings": "/settings",
    "crosscheck": "/estate?tab=crosscheck",
    "source": "/discovery/sources/2",
    "import": "/discovery/imports",
    "people": "/people",
    "branches": "/branches",
    "kinds": "/kinds",
    "fill rules": "/fill-rules",
    "tasks": "/tasks",
    "administrators": "/software?tab=administrators",
    "protection": "/software?tab=protection",
    "sql": "/reports/sql",
    "exposure": "/exposure",
    "advisories": "/exposure?tab=advisories",
    "by place": "/exposure?tab=places",
    "names outside": "/exposure?tab=names",
    "over the year": "/exposure?tab=year",
    "advisory": "/exposure/advisories/CVE-2026-99041007",
    "feeds": "/exposure/feeds",
    "feed": "/exposure/feeds/1",
    "positions": "/licences",
    "keys": "/licences?tab=keys",
    "licence": "/licences/2",
    "river": "/lifecycle",
    "contract": "/lifecycle/contracts/1",
    "orders": "/lifecycle?tab=orders",
    "payments": "/lifecycle?tab=payments",
    "stock": "/lifecycle?tab=stock",
    "hand-overs": "/lifecycle?tab=hand-overs",
    "refresh": "/lifecycle?tab=refresh",
    "money": "/lifecycle?tab=money",
    "money lens": "/estate?q=kind+%3D+server&tab=money",
    "networks lens": "/estate?q=kind+%3D+server&tab=networks",
    "purchases": "/licences?tab=purchases",
    "idle": "/licences?tab=idle",
    "warnings": "/licences?tab=warnings",
    "remedy": "/licences?tab=remedy",
    "outlook": "/licences?tab=outlook",
    "services": "/services",
    "stops": "/services?tab=stops&q=name+%3D+salt-db-01",
    "programs": "/services?tab=programs",
    "hosts": "/services?tab=hosts",
    "ports": "/services?tab=ports",
    "talk": "/services?tab=talk",
    "racks": "/services?tab=racks",
    "inquiry": "/services?tab=inquiry&q=salt-db-01",
    "counts": "/lifecycle?tab=counts",
    "handbooks": "/reports?tab=handbooks",
    "pocket": "/pocket",
    "pocket people": "/pocket/people?q=Saltholm",
    "pocket device": "/pocket/assets/12",
    "pocket mine": "/pocket/mine",
    "acknowledge": "/acknowledge/none",
    "a code": "/l/none",
}
AXE = ROOT / "web/node_modules/axe-core/axe.min.js"


def violations(page: Page) -> list[str]:
    """Run axe-core and return what it finds, with the first place."""
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found["violations"]]


@pytest.mark.parametrize("theme", ["tarn", "tarn-night"])
def test_no_violation_in_any_view(page: Page, theme: str) -> None:
    sign_in(page)
    page.evaluate(f"localStorage.setItem('theme', '{theme}')")
    found = {}
    for name, path in VIEWS.items():
        page.goto(path)
        page.wait_for_load_state("networkidle")
        with suppress(TimeoutError):  # a page without a heading is for axe to tell
            page.locator("h1").first.wait_for()
        page.wait_for_timeout(400)
        if said := violations(page):
            found[name] = said
    page.goto("/sign-in")
    assert not found, "\n".join(f"{view}: {v}" for view, several in found.items() for v in several)


@pytest.mark.parametrize("path", ["/today", "/estate", "/assets/12", "/discovery/intake"])
def test_nothing_is_wider_than_a_phone(page: Page, path: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    sign_in(page, to=path)
    expect(page.locator("main")).to_be_visible()
    page.wait_for_timeout(600)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
