"""Acting on the estate, as a person does: a strange product found, kept as a set, uninstalled, seen gone."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def test_a_strange_product_is_found_kept_uninstalled_and_seen_gone(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/software")
    page.get_by_role("link", name="driftshare", exact=True).click()
    page.get_by_role("link", name="2 devices").click()
    expect(page.get_by_text("2 of ")).to_be_visible()
    page.get_by_role("button", name="Keep as a set").click()
    page.get_by_label("Name of the set").fill("Shares by itself")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("holds 2 assets now")).to_be_visible()
    page.get_by_role("button", name="Run a task").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What is to be done").select_option("Uninstall a product")
    dialog.get_by_label("Product").select_option("driftshare (2)")
    expect(dialog.get_by_role("region", name="What would run where")).to_contain_text("dpkg --remove driftshare")
    dialog.get_by_label("Why").fill("Nobody permitted it")
    dialog.get_by_role("button", name="Run on 2 devices").click()
    page.wait_for_url(re.compile(r"/tasks/\d+"))
    expect(page.get_by_role("status", name="How it fares")).to_have_text(
        "2 worked · 2 seen by a reading since", timeout=90_000
    )
    page.goto("/estate?q=in+set+%22Shares+by+itself%22")
    expect(page.get_by_text("No asset answers this.")).to_be_visible()
    assert complaints == []


def test_a_restart_of_many_waits_for_a_second_person(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/estate?q=kind+%3D+kiosk")
    page.get_by_role("button", name="Run a task").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("waits until a second person approves")
    dialog.get_by_role("button", name="Ask for approval").click()
    expect(dialog.get_by_label("Why")).to_be_focused()
    dialog.get_by_label("Why").fill("New screens")
    dialog.get_by_role("button", name="Ask for approval").click()
    page.wait_for_url(re.compile(r"/tasks/\d+"))
    expect(page.get_by_text("waits for a second person")).to_be_visible()
    expect(page.get_by_role("button", name="Approve and run")).to_have_count(0)
    where = page.url
    page.context.clear_cookies()
    sign_in(page, "ines", to=where[where.index("/tasks") :])
    page.get_by_role("button", name="Refuse").click()
    expect(page.get_by_text("refused", exact=True).first).to_be_visible()
    assert complaints == []
