"""A handbook from one that ships to two issues, with what differs between them, and its files read back."""

import io
import re
from pathlib import Path

import docx
import pypdfium2
import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def test_a_handbook_from_one_that_ships_to_two_issues_and_their_difference(page: Page, complaints: list[str]) -> None:
    sign_in(page, "wren", to="/reports?tab=handbooks")
    page.get_by_role("button", name=re.compile("^Begin If the data room")).click()
    page.get_by_role("dialog").get_by_role("button", name="Begin").click()
    expect(page.get_by_role("heading", name="If the data room is lost").first).to_be_visible()
    text = page.get_by_label("The handbook")
    expect(text).to_contain_text("Ticketing")  # its blocks are filled while one writes
    page.get_by_role("button", name="Issue it").click()
    expect(page.get_by_text("The first issue")).to_be_visible()
    page.go_back()

    # A block put in by keyboard, set in place; prose changed.
    text.get_by_text("Write here where keys and codes lie.").click()
    page.keyboard.press("End")
    page.keyboard.type(" The spare host stands at the workshop.")
    expect(page.get_by_role("status").first).to_contain_text(re.compile(r"draft \d+ · kept"))
    find = page.get_by_label("Find a block")
    find.fill("figure")
    find.press("Enter")
    expect(text).to_contain_text("A figure")
    page.get_by_role("button", name="Set A figure").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Heading").fill("Virtual hosts")
    dialog.get_by_label("Question").fill("kind = hypervisor")
    dialog.get_by_label("In words").fill("hosts carry the rest")
    dialog.get_by_role("button", name="Set it").click()
    expect(text).to_contain_text("hosts carry the rest")
    page.get_by_role("button", name="Settings").click()
    dialog.get_by_label("An issue waits until a second person").check()
    dialog.get_by_role("button", name="Save").click()
    page.get_by_role("button", name="Ask for approval").click()
    expect(page.get_by_text("It waits for a second person")).to_be_visible()
    differing = page.get_by_label("What differs from the issue before")
    expect(differing).to_contain_text("The spare host stands at the workshop.")
    expect(differing).to_contain_text("Virtual hosts")

    where = page.url
    page.context.clear_cookies()
    sign_in(page, "piet", to="/today")
    page.get_by_role("link", name="Look at it").click()
    page.goto(where[where.index("/handbooks") :])
    page.get_by_label("Why").fill("read it")
    page.get_by_role("button", name="Approve").click()
    expect(page.get_by_text("approved by piet: read it")).to_be_visible()
    files = {}
    for form in ("PDF", "DOCX"):
        with page.expect_download() as download:
            page.get_by_role("link", name=form, exact=True).click()
        files[form] = Path(download.value.path()).read_bytes()
    pages = [" ".join(p.get_textpage().get_text_range().split()) for p in pypdfium2.PdfDocument(files["PDF"])]
    assert "Ticketing" in pages[0]
    assert "The spare host stands at the workshop." in " ".join(pages)
    document = docx.Document(io.BytesIO(files["DOCX"]))
    assert "Ticketing" in [c.text for t in document.tables for r in t.rows for c in r.cells]
    assert complaints == []
