"""The daily loop, as a person goes: a strange product, a set, a report, a weekly letter; rulings and corrections."""

import io
import re

import openpyxl
import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def unexpected(complaints: list[str]) -> list[str]:
    """Return what the page complained of, but for answers that refuse wrong input."""
    return [c for c in complaints if "422" not in c]


def test_a_strange_product_is_found_ruled_on_and_its_devices_kept_as_a_set(page: Page, complaints: list[str]) -> None:
    sign_in(page, "wren", to="/software")
    page.get_by_label("Find a product or publisher").fill("ostler")
    row = page.get_by_role("row").filter(has_text="ostler-client")
    expect(row).to_contain_text("no ruling yet")
    row.get_by_role("checkbox").check()
    page.get_by_role("button", name="Rule on 1").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text(re.compile(r"Found on \d+ devices now"))
    dialog.get_by_label("The company says").select_option("tolerated")
    dialog.get_by_label("Why").fill("Nobody knows what it is for.")
    dialog.get_by_label("Until, that day in").fill("2020-01-01")
    dialog.get_by_role("button", name="Rule", exact=True).click()
    expect(dialog.get_by_role("alert")).to_contain_text("over already")
    dialog.get_by_label("The company says").select_option("barred")
    dialog.get_by_role("button", name="Rule", exact=True).click()
    expect(dialog).not_to_be_visible()
    expect(row).to_contain_text("barred")
    row.get_by_role("link", name=re.compile(r"^\d+$")).click()
    page.wait_for_url("**/estate?*ostler-client*")
    page.get_by_role("button", name="Keep as a set").click()
    page.get_by_label("Name of the set").fill("With the Ostler client")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("keeps itself up to date")).to_be_visible()
    page.goto("/sets")
    page.get_by_role("link", name="With the Ostler client", exact=True).click()
    expect(page.get_by_role("heading", name="Who came and went")).to_be_visible()
    expect(page.get_by_role("region", name="Left")).to_contain_text("salt-lt-06")
    assert unexpected(complaints) == []


def test_what_changed_is_one_line_a_change_and_leads_to_the_devices(page: Page, complaints: list[str]) -> None:
    sign_in(page, "oona", to="/software?tab=changes")
    page.get_by_role("button", name="Four weeks").click()
    line = page.get_by_role("row").filter(has_text="Pellucid Reader").filter(has_text="11.0.3").first
    expect(line).to_contain_text("updated")
    expect(page.get_by_role("row").filter(has_text="rolled back")).to_contain_text("7.4.2")
    line.get_by_role("link", name=re.compile("devices")).click()
    page.wait_for_url("**/estate?*")
    expect(page.get_by_text(re.compile(r"\d+ of \d+ assets"))).to_be_visible()
    page.goto("/software?tab=changes")
    page.get_by_role("button", name="Four months").click()
    expect(page.get_by_role("row").filter(has_text="renamed").first).to_contain_text("tillmaster")
    assert unexpected(complaints) == []


def test_missing_every_one_of_these_becomes_a_set_a_report_and_a_weekly_letter(
    page: Page, complaints: list[str]
) -> None:
    sign_in(page, "ines", to="/sets?tab=phrases")
    page.get_by_role("button", name="New phrase").click()
    page.get_by_label("Name", exact=True).fill("readers")
    page.get_by_label("Words and patterns").fill("Pellucid Reader\nEmber Reader")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("row").filter(has_text="@readers")).to_contain_text("Pellucid Reader")
    page.goto("/estate?q=kind+=+server")
    page.get_by_role("button", name="Build", exact=True).click()
    builder = page.get_by_role("region", name="Build the question")
    builder.get_by_label("Add a list").last.select_option("software")
    builder.get_by_label("How many of them").last.select_option("no")
    builder.get_by_role("button", name="+ condition").nth(-2).click()
    builder.get_by_label("Field").last.select_option("Product")
    builder.get_by_label("Value").last.fill("@readers")
    expect(builder.locator("code")).to_have_text("kind = server and no software[product = @readers]")
    builder.get_by_role("button", name="Ask this").click()
    page.get_by_role("button", name="Keep as a set").click()
    page.get_by_label("Name of the set").fill("Without a reader")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("keeps itself up to date")).to_be_visible()
    page.goto("/sets")
    page.get_by_role("link", name="Without a reader", exact=True).click()
    page.get_by_role("button", name="Change", exact=True).click()
    form = page.get_by_role("dialog")
    form.get_by_label("Folder").fill("Ticketing/Desks")
    form.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Sets · Ticketing/Desks")).to_be_visible()
    page.goto("/reports/compose")
    page.get_by_label("Name", exact=True).fill("Servers without a reader")
    page.get_by_label("Of which devices").fill('in set "Without a raeder"')
    expect(page.get_by_role("alert")).to_contain_text("Did you mean “Without a reader”")
    page.get_by_label("Of which devices").fill('in set "Without a reader"')
    page.get_by_label("Find a column to add").fill("serial")
    page.get_by_role("button", name="+ Serial number").click()
    page.get_by_role("listitem").filter(has_text="Place").get_by_label("group").check()
    expect(page.get_by_text(re.compile("^All")).first).to_be_visible()
    page.get_by_role("button", name="Keep the report").click()
    page.wait_for_url("**/reports/*")
    expect(page.get_by_role("heading", name="Servers without a reader")).to_be_visible()
    page.get_by_role("button", name="Files").click()
    with page.expect_download() as awaited:
        page.get_by_role("link", name="Workbook (XLSX)").click()
    book = openpyxl.load_workbook(io.BytesIO(awaited.value.path().read_bytes()))
    heads = [c.value for c in next(book["Report"].iter_rows())]
    assert heads == ["Name", "Kind", "Place", "Serial number"]
    names = [r[0].value for r in book["Report"].iter_rows(min_row=2)]
    shown = page.get_by_role("table").locator("tbody tr").count()
    assert len(names) == shown
    page.get_by_role("button", name="Watch it").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Writes when").select_option("there are any rows")
    dialog.get_by_label("To", exact=True).fill("ines")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_role("alert")).to_contain_text("no address for mail")
    dialog.get_by_label("To", exact=True).fill("ines@skerrivane.example")
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_text("watches: every Monday at 07:00")).to_be_visible()
    page.goto("/reports?tab=watches")
    sheet = page.get_by_role("region", name="Servers without a reader")
    sheet.get_by_role("button", name="Send it to me").click()
    expect(page.get_by_text(re.compile("Sent to ines@skerrivane.example"))).to_be_visible(timeout=20_000)
    page.goto("/reports?tab=mailbox")
    expect(page.get_by_role("article")).to_contain_text("Try-out: Servers without a reader")
    expect(page.get_by_role("article")).to_contain_text("All of it: http")
    assert unexpected(complaints) == []


def test_a_report_as_of_sixty_days_ago_says_what_was_so_then(page: Page, complaints: list[str]) -> None:
    sign_in(page, "oona")
    past = page.evaluate("new Date(Date.now() - 60 * 864e5).toISOString().slice(0, 10)")
    page.goto("/reports/versions")
    expect(page.get_by_text("Quill Office / 16.1.1")).to_be_visible()
    page.goto(f"/reports/versions?at={past}")
    expect(page.get_by_text("Quill Office / 16.0.1")).to_be_visible()
    expect(page.get_by_text("Quill Office / 16.1.1")).not_to_be_visible()
    expect(page.get_by_role("link", name="Copy and change")).not_to_be_visible()
    assert unexpected(complaints) == []


def test_a_name_nobody_understands_is_corrected_after_a_rehearsal(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/software?tab=names")
    row = page.get_by_role("row").filter(has_text="{5C1F0E2A")
    row.get_by_role("button", name="Say what it is").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("the product is").fill("Slipway Plan")
    dialog.get_by_label("and it is").select_option("a product")
    dialog.get_by_role("button", name="Rehearse").click()
    expect(dialog).to_contain_text("1 listed name would change")
    dialog.get_by_role("button", name="Correct", exact=True).click()
    expect(page.get_by_text("Every listed name is understood.")).to_be_visible()
    page.goto("/software")
    expect(page.get_by_role("link", name="Slipway Plan")).to_be_visible()
    assert unexpected(complaints) == []


def test_what_should_be_there_is_counted_and_a_condition_added(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/software?tab=baselines")
    sheet = page.get_by_role("region", name="What is carried")
    expect(sheet.get_by_role("row").filter(has_text="encrypted = yes")).to_be_visible()
    sheet.get_by_role("button", name="Change").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Another condition").click()
    dialog.get_by_label("Condition 3", exact=True).fill("passcod = yes")
    dialog.get_by_role("button", name="Save").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Did you mean passcode")
    dialog.get_by_label("Condition 3", exact=True).fill("passcode = yes")
    dialog.get_by_role("button", name="Save").click()
    expect(sheet).to_contain_text("passcode = yes")
    assert unexpected(complaints) == []


def test_a_whole_selection_is_changed_and_undone(page: Page, complaints: list[str]) -> None:
    sign_in(page, "wren", to="/estate?q=kind%20%3D%20camera")
    page.get_by_role("button", name="Change these").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Department").fill("Harbour watch")
    dialog.get_by_role("button", name=re.compile("^Change .* devices")).click()
    expect(page.get_by_text(re.compile("devices changed, with your name"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Undone.")).to_be_visible()
    page.goto('/estate?q=department%20%3D%20"Harbour watch"')
    expect(page.get_by_text(re.compile("^0 of"))).to_be_visible()
    assert unexpected(complaints) == []


def test_the_networks_of_a_selection_open_exactly_their_devices(page: Page, complaints: list[str]) -> None:
    sign_in(page, to="/estate?q=kind+=+server+or+kind+=+switch&tab=networks")
    table = page.get_by_role("table", name="Networks of the selection")
    first = table.locator("tbody tr").first
    number = first.get_by_role("link").inner_text()
    address = first.locator("td").first.inner_text()
    first.get_by_role("link").click()
    expect(page.get_by_text(re.compile(f"^{number} of "))).to_be_visible()
    assert page.url.endswith(f"address+in+{address.replace('/', '%2F')}")
    page.go_back()
    page.get_by_role("group", name="platform").get_by_role("button").first.click()  # a band narrows the lens
    expect(page.get_by_text(re.compile(r"^\d+ networks? holds? "))).to_be_visible()
    expect(page).to_have_url(re.compile(r"q=%28kind"))
    assert complaints == []
