"""A phone in the comms room: its camera reads a label; it counts without signal, sends later, and the count is closed."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
import segno
from playwright.sync_api import BrowserContext, Page, Playwright, expect

from tarn.core.count_protocol import verify_protocol
from tests.web.conftest import CHROMIUM, Demo, sign_in

pytestmark = pytest.mark.browser
SIZE = 480


def film(text: str, to: Path) -> None:
    """Write a film (YUV4MPEG2) of a code that is held before the camera."""
    matrix = [[bool(module) for module in row] for row in segno.make(text, error="m").matrix_iter(border=4)]
    scale = SIZE // len(matrix)
    edge = (SIZE - scale * len(matrix)) // 2
    luma = bytearray(b"\xff" * SIZE * SIZE)
    for y, row in enumerate(matrix):
        for x, dark in enumerate(row):
            if dark:
                for line in range(scale):
                    begin = (edge + y * scale + line) * SIZE + edge + x * scale
                    luma[begin : begin + scale] = bytes(scale)
    frame = b"FRAME\n" + bytes(luma) + b"\x80" * (SIZE * SIZE // 2)
    to.write_bytes(f"YUV4MPEG2 W{SIZE} H{SIZE} F10:1 Ip A1:1 C420jpeg\n".encode() + frame * 20)


@pytest.fixture
def phone(playwright: Playwright, demo: Demo, tmp_path: Path) -> Iterator[BrowserContext]:
    """A browser of a phone's size whose camera shows `film.y4m`."""
    camera = [
        "--use-fake-device-for-media-stream",
        "--use-fake-ui-for-media-stream",
        f"--use-file-for-fake-video-capture={tmp_path / 'film.y4m'}",
    ]
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=[*CHROMIUM, *camera])
    context = browser.new_context(
        base_url=demo.url, viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True
    )
    yield context
    browser.close()


def label_of(page: Page, asset: int) -> str:
    """Print a label of a device; return its code."""
    cookie = next(c for c in page.context.cookies() if c["name"] == "csrftoken")
    printed = page.request.post(
        "/api/labels/print", data={"sheet": "a4-24", "assets": [asset]}, headers={"X-CSRFToken": cookie["value"]}
    )
    assert printed.ok, printed.text()
    return str(page.request.get(f"/api/assets/{asset}/labels").json()[0]["code"])


def test_a_label_is_scanned_a_count_goes_on_without_signal_and_its_protocol_is_sound(
    page: Page, phone: BrowserContext, demo: Demo, tmp_path: Path, complaints: list[str]
) -> None:
    sign_in(page, "wren", to="/lifecycle?tab=counts")
    found = page.request.get("/api/assets", params={"filter": "name = avrn-sw-01"}).json()["rows"][0]
    film(f"{demo.url}/l/{label_of(page, found['id'])}", tmp_path / "film.y4m")
    page.get_by_role("button", name="Count devices").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Port Averne's comms room")
    dialog.get_by_label("Which devices").fill('place = "Port Averne" and kind = ship')
    expect(dialog.get_by_role("alert")).to_be_visible()
    dialog.get_by_label("Which devices").fill('place = "Port Averne" and kind in (switch, server)')
    expect(dialog.get_by_role("status")).to_have_text(re.compile("^5 devices"))
    dialog.get_by_role("button", name="Open the count").click()
    expect(page.get_by_role("heading", name="Port Averne's comms room")).to_be_visible()

    hand = phone.new_page()
    sign_in(hand, "wren", to="/pocket")
    hand.get_by_role("button", name="Scan").click()
    expect(hand.get_by_role("heading", name="avrn-sw-01")).to_be_visible()
    hand.get_by_role("link", name="Count", exact=True).click()
    hand.get_by_role("link", name=re.compile("comms room")).click()
    expect(hand.get_by_text("0 of 5")).to_be_visible()
    hand.wait_for_function("navigator.serviceWorker.controller !== null")
    hand.wait_for_function("caches.open('pocket-page').then((kept) => kept.match('/pocket')).then(Boolean)")

    phone.set_offline(True)
    hand.get_by_label("I am at").fill("Port Averne")
    hand.get_by_role("button", name="Scan").click()
    expect(hand.get_by_label("Met last")).to_contain_text("avrn-sw-01")
    expect(hand.get_by_text("1 of 5")).to_be_visible()
    hand.get_by_role("button", name="Camera off").click()
    hand.get_by_role("listitem").filter(has_text="avrn-sw-02").get_by_role("button").click()
    hand.get_by_label("Number, serial number or name").fill("SX-foreign-7")
    hand.get_by_role("button", name="Met", exact=True).click()
    expect(hand.get_by_label("Met last")).to_contain_text("not among those taken along")
    expect(hand.get_by_text("3 kept here")).to_be_visible()
    where = hand.url
    hand.close()  # the application is closed in between, and opened again while there is still no signal
    hand = phone.new_page()
    hand.goto(where)
    expect(hand.get_by_text("no signal")).to_be_visible()
    expect(hand.get_by_text("3 kept here")).to_be_visible()
    expect(hand.get_by_text("2 of 5")).to_be_visible()

    phone.set_offline(False)
    expect(hand.get_by_text("kept here")).to_have_count(0)
    expect(hand.get_by_text("no signal")).to_have_count(0)

    page.reload()
    page.get_by_role("button", name=re.compile("^Unknown")).click()
    expect(page.get_by_role("grid").or_(page.get_by_role("table"))).to_contain_text("SX-foreign-7")
    page.get_by_role("button", name=re.compile("^Still to find")).click()
    rows = page.get_by_role("row").filter(has_text="avrn-")
    expect(rows).to_have_count(3)
    rows.nth(0).get_by_role("checkbox").check()
    page.get_by_role("button", name="Settle 1 line").click()
    page.get_by_role("dialog").get_by_label("What is done").select_option("explain")
    page.get_by_role("dialog").get_by_label("How it is").fill("lent to the harbour master")
    page.get_by_role("dialog").get_by_role("button", name="Settle").click()
    expect(page.get_by_text("lent to the harbour master")).to_be_visible()
    page.once("dialog", lambda asked: asked.accept())
    page.get_by_role("button", name="Close it").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Protocol, signed").click()
    verified = verify_protocol(Path(download.value.path()).read_bytes())
    assert (verified.faults, verified.number) == ([], 5)
    assert [c for c in complaints if "422" not in c] == []  # the filter that cannot be asked

    hand.get_by_role("link", name="Mine").click()
    hand.once("dialog", lambda asked: asked.accept())
    hand.get_by_role("button", name="Sign out").click()
    hand.wait_for_url(re.compile("/sign-in"))
    kept = hand.evaluate("indexedDB.databases().then((all) => all.map((one) => one.name))")
    assert "tarn-pocket" not in kept


def test_on_a_tablet_what_is_found_opens_beside_the_search(page: Page, complaints: list[str]) -> None:
    page.set_viewport_size({"width": 1024, "height": 768})
    sign_in(page, "wren", to="/pocket")
    page.get_by_label("Find a device").fill("avrn-sw")
    for name in ("avrn-sw-01", "avrn-sw-02"):
        page.get_by_role("list", name="Found").get_by_role("link").filter(has_text=name).click()
        expect(page.get_by_role("heading", name=name)).to_be_visible()
        expect(page.get_by_label("Find a device")).to_have_value("avrn-sw")
    page.set_viewport_size({"width": 390, "height": 780})
    expect(page.get_by_role("heading", name="avrn-sw-02")).to_be_visible()
    expect(page.get_by_label("Find a device")).to_be_hidden()
    assert complaints == []


def test_what_a_device_holds_and_is_open_to_unfolds_on_the_phone(phone: BrowserContext, complaints: list[str]) -> None:
    hand = phone.new_page()
    sign_in(hand, "oona", to="/")
    rows = hand.request.get("/api/assets", params={"filter": 'exposure = "act now" and kind = server'}).json()["rows"]
    hand.goto(f"/pocket/assets/{rows[0]['id']}")
    hand.get_by_text("Hardware", exact=True).click()
    expect(hand.get_by_text("Processor", exact=True)).to_be_visible()
    hand.get_by_text("Software", exact=True).click()
    hand.get_by_label("Find a package or publisher").fill("no such package")
    expect(hand.get_by_text("Nothing here is called so.")).to_be_visible()
    hand.get_by_text("Open to", exact=True).click()
    expect(hand.get_by_text("act now").nth(1)).to_be_visible()
    assert not complaints
