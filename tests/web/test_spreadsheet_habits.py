"""The register as people who live in spreadsheets use it: paste, tick, copy, change a cell, undo, by hand and by key."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def names(rows: Locator, *places: int) -> list[str]:
    return [rows.nth(n).get_by_role("gridcell").nth(1).inner_text() for n in places]


def test_a_pasted_column_is_found_in_its_order_ticked_and_copied(page: Page, complaints: list[str]) -> None:
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    sign_in(page, "oona", to="/estate")
    rows = page.locator("[data-asset]")
    expect(rows.nth(9)).to_be_visible()
    wanted = names(rows, 7, 2, 5)
    column = [wanted[0].upper(), "no-such-one", f"{wanted[1]}.skerrivane.example", f"{wanted[2]}\ta second column"]
    page.evaluate("text => navigator.clipboard.writeText(text)", "\r\n".join(column))
    page.locator("[data-ask-line] .cm-content").click()
    page.keyboard.press("ControlOrMeta+v")
    note = page.get_by_role("status").filter(has_text="of what you pasted")
    expect(note).to_contain_text("3 devices")
    expect(note).to_contain_text("no-such-one")
    expect(rows).to_have_count(3)
    assert names(rows, 0, 1, 2) == wanted
    page.get_by_label("Tick all that answer").click()
    expect(page.get_by_text("3 assets ticked")).to_be_visible()
    page.get_by_role("button", name="Copy", exact=True).click()
    expect(page.get_by_text("3 rows copied.")).to_be_visible()
    lines = page.evaluate("() => navigator.clipboard.readText()").split("\n")
    assert lines[0].startswith("Name\tKind\t")
    assert [line.split("\t")[0] for line in lines[1:]] == wanted
    assert complaints == []


def test_a_range_is_ticked_with_shift_and_a_column_moves_by_key_into_the_link(
    page: Page, complaints: list[str]
) -> None:
    sign_in(page, "oona", to="/estate")
    ticks = page.get_by_label(re.compile("^Pick "))
    ticks.nth(2).click()
    ticks.nth(6).click(modifiers=["Shift"])
    expect(page.get_by_text("5 assets ticked")).to_be_visible()
    page.get_by_role("columnheader", name="Kind").get_by_role("button").focus()
    page.keyboard.press("Alt+ArrowRight")
    heads = page.get_by_role("grid", name="Register").get_by_role("columnheader")
    expect(heads.nth(2)).to_contain_text("System")
    expect(heads.nth(3)).to_contain_text("Kind")
    before = heads.nth(3).bounding_box()
    page.get_by_label("Width of Kind").focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    after = heads.nth(3).bounding_box()
    assert (after or {"width": 0})["width"] > (before or {"width": 0})["width"] + 40
    page.evaluate("() => localStorage.clear()")
    page.reload()
    expect(heads.nth(3)).to_contain_text("Kind")
    assert complaints == []


def test_a_cell_is_changed_where_it_stands_and_undone_by_key(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/estate?q=kind+%3D+server")
    row = page.locator("[data-asset]").first
    expect(row).to_be_visible()
    name, place = names(page.locator("[data-asset]"), 0)[0], row.get_by_role("gridcell").nth(7).inner_text()
    page.get_by_role("grid", name="Register").focus()
    page.keyboard.press("F2")
    expect(page.get_by_label(f"Kind of {name}")).to_be_focused()
    page.keyboard.press("Tab")
    cell = page.get_by_label(f"Place of {name}")
    expect(cell).to_be_focused()
    cell.fill("The far store")
    cell.press("Enter")
    expect(row).to_contain_text("The far store")
    page.get_by_role("grid", name="Register").focus()
    page.keyboard.press("ControlOrMeta+z")
    expect(page.get_by_text("Undone.")).to_be_visible()
    expect(row.get_by_role("gridcell").nth(7)).to_contain_text(place)
    row.get_by_role("gridcell").nth(7).hover()
    row.get_by_role("button", name=f"Change Place of {name}").click()
    page.get_by_label(f"Place of {name}").press("Escape")
    expect(row.get_by_role("gridcell").nth(7)).to_contain_text(place)
    assert complaints == []


def test_a_view_is_kept_chosen_from_another_page_and_let_go(page: Page, complaints: list[str]) -> None:
    sign_in(page, "ines", to="/estate?q=kind+%3D+server&sort=-memory&cols=name,memory,place&bands=place")
    expect(page.locator("[data-asset]").first).to_be_visible()
    page.get_by_role("button", name="Views").click()
    page.get_by_role("button", name="Keep this view").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Servers by memory")
    page.get_by_role("dialog").get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("The view “Servers by memory” is kept.")).to_be_visible()
    page.goto("/estate")
    page.get_by_role("button", name="Views").click()
    page.get_by_role("button", name=re.compile("^Servers by memory")).click()
    heads = page.get_by_role("grid", name="Register").get_by_role("columnheader")
    expect(heads).to_have_count(4)
    expect(heads.nth(2)).to_contain_text("Memory ↓")
    assert "kind+%3D+server" in page.url
    page.get_by_role("button", name="Views").click()
    page.get_by_role("button", name="Drop the view Servers by memory").click()
    expect(page.get_by_text("is dropped.")).to_be_visible()
    assert complaints == []


def test_any_list_is_sorted_laid_out_ticked_and_written_to_a_file(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/software")
    table = page.get_by_role("table", name="Products")
    heads = table.locator("th[aria-sort]")
    firsts = table.locator("tbody tr td:nth-child(2) a")
    expect(firsts.first).to_have_text("Corvid Protect")
    table.get_by_role("button", name="Product", exact=True).click()
    expect(heads.first).to_have_attribute("aria-sort", "ascending")
    expect(firsts.first).to_have_text("Berthwright Planner")
    table.get_by_role("button", name="This list").click()
    table.get_by_label("Newest").uncheck()
    expect(heads.filter(has_text="Newest")).to_have_count(0)
    page.keyboard.press("Escape")
    page.reload()
    expect(heads.filter(has_text="Releases")).to_be_visible()
    expect(heads.filter(has_text="Newest")).to_have_count(0)
    boxes = table.locator("tbody input[type=checkbox]")
    boxes.nth(1).click()
    boxes.nth(3).click(modifiers=["Shift"])
    expect(page.get_by_text("3 rows ticked")).to_be_visible()
    table.get_by_role("button", name="This list").click()
    with page.expect_download() as begun:
        table.get_by_role("button", name="CSV", exact=True).click()
    lines = begun.value.path().read_text("utf-8-sig").splitlines()
    assert lines[0].startswith("Product,Publisher,Devices")
    assert len(lines) == 4
    table.get_by_role("button", name="This list").click()
    table.get_by_role("button", name="As it came").click()
    expect(heads.filter(has_text="Newest")).to_be_visible()
    assert complaints == []


def test_a_question_of_a_form_is_built_of_conditions(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/software?tab=baselines")
    page.get_by_role("button", name="New baseline").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Which devices", exact=True).fill("kind = server")
    dialog.get_by_role("button", name="Build it").click()
    builder = dialog.get_by_label("Build the question")
    expect(builder.get_by_role("status")).to_contain_text("asset")
    builder.get_by_label("Value").first.fill("laptop")
    builder.get_by_role("button", name="Use it").click()
    expect(dialog.get_by_label("Which devices", exact=True)).to_have_value("kind = laptop")
    assert complaints == []
