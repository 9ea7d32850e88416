"""Tarn in German: as the browser asks for it, and as somebody chose it, on whatever machine they sign in."""

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.web.conftest import Demo

pytestmark = pytest.mark.browser


def page_in(browser: Browser, demo: Demo, locale: str) -> Page:
    """A page of a browser that asks for a language."""
    context = browser.new_context(base_url=demo.url, viewport={"width": 1280, "height": 800}, locale=locale)
    return context.new_page()


def sign_in_german(page: Page, name: str) -> None:
    page.goto("/sign-in?to=/kinds")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Kennwort").fill(f"low-water-{name}")
    page.get_by_role("button", name="Anmelden", exact=True).click()
    page.wait_for_url(lambda url: "/sign-in" not in url)


def test_a_browser_that_asks_for_german_gets_it(browser: Browser, demo: Demo) -> None:
    page = page_in(browser, demo, "de-DE")
    sign_in_german(page, "oona")
    expect(page.get_by_role("navigation", name="Bereiche")).to_contain_text("Gefährdung")
    expect(page.locator("html")).to_have_attribute("lang", "de-DE")
    # What the server words is German too: a refusal with its place, a question as a sentence, a shipped report.
    page.goto("/estate?q=kindd+%3D+server")
    expect(page.get_by_role("alert").first).to_contain_text("kein Feld „kindd“")
    page.goto("/reports")
    expect(page.get_by_role("link", name="Fast volle Platten")).to_be_visible()
    page.goto("/estate?q=kind+%3D+printer")
    expect(page.get_by_role("columnheader", name="Seriennummer").or_(page.get_by_text("Drucker").first)).to_be_visible()
    page.goto("/licences")
    expect(page.get_by_role("heading", level=1)).to_have_text("Bilanz")
    # Figures as Germans write them.
    expect(page.locator("main")).to_contain_text("EUR, um zu beheben, was fehlt")
    page.context.close()


def test_what_somebody_chose_goes_with_them(browser: Browser, demo: Demo) -> None:
    first = page_in(browser, demo, "de-DE")
    sign_in_german(first, "piet")
    first.goto("/settings")
    expect(first.get_by_role("heading", name="Einstellungen")).to_be_visible()
    first.get_by_label("Sprache").select_option("en")
    expect(first.get_by_role("heading", name="Settings")).to_be_visible()
    first.context.close()
    # Another machine, whose browser asks for German: the choice is the person's.
    second = page_in(browser, demo, "de-DE")
    sign_in_german(second, "piet")
    expect(second.get_by_role("navigation", name="Rooms")).to_contain_text("Exposure")
    second.context.close()
