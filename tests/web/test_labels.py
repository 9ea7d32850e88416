"""Labels as a person goes: printed for a selection, read by a reader of codes, opened by who works here and who does
not."""

import pypdfium2
import pytest
import zxingcpp
from playwright.sync_api import Page, expect

from tests.web.conftest import sign_in

pytestmark = pytest.mark.browser


def test_labels_of_a_selection_lead_to_their_devices(page: Page, complaints: list[str]) -> None:
    sign_in(page, "piet", to="/estate?q=kind = printer and place = Saltholm")
    page.get_by_role("button", name="Labels").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Sheet").select_option("A4, 3 by 7 of 63.5 × 38.1 mm")
    dialog.get_by_label("First free label").fill("4")
    dialog.get_by_label("Moved right, mm").fill("50")
    dialog.get_by_role("button", name="Write the PDF").click()
    expect(dialog.get_by_text("20 mm at the most")).to_be_visible()
    dialog.get_by_label("Moved right, mm").fill("1")
    with page.expect_download() as file:
        dialog.get_by_role("button", name="Write the PDF").click()
    first = pypdfium2.PdfDocument(file.value.path())[0]
    codes = [c.text for c in zxingcpp.read_barcodes(first.render(scale=6).to_numpy())]
    assert codes
    assert "Skerrivane Ferries" in first.get_textpage().get_text_range()
    code = codes[0].rpartition("/")[2]
    page.goto(f"/l/{code}")
    page.wait_for_url("**/assets/*")
    expect(page.get_by_role("region", name="Identity")).to_be_visible()

    page.context.clear_cookies()
    page.goto(f"/l/{code}")
    expect(page.get_by_role("heading", name="You have found something")).to_be_visible()
    expect(page.get_by_role("link", name="Call +00 555 0134")).to_be_visible()
    page.goto(f"/l/{code[:-1]}{'2' if code[-1] != '2' else '3'}")
    expect(page.get_by_text("is mistyped")).to_be_visible()
    assert [c for c in complaints if "404" not in c and "422" not in c] == []
