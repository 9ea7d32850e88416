"""`make screenshots`: one picture of each main view, from the demo's data, at an ordinary window size."""

import re
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.web.conftest import CHROMIUM, ROOT, Demo

OUT = ROOT / "docs" / "screenshots"


def _asset(page: Page, name: str) -> int:
    rows = page.evaluate(f"fetch('/api/assets?fields=name&filter=name%20%3D%20{name}').then(r => r.json())")["rows"]
    return int(rows[0]["id"])


def _sign_in(page: Page) -> None:
    page.goto("/sign-in?to=/estate")
    page.wait_for_selector("form")
    page.get_by_label("Name").fill("ines")
    page.get_by_label("Password").fill("low-water-ines")
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.wait_for_selector("[data-asset]")


def main() -> None:
    """Start a demo of its own, go through it, take the pictures."""
    OUT.mkdir(parents=True, exist_ok=True)
    demo = Demo(Path(tempfile.mkdtemp(prefix="tarn-pictures-")))
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
            context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=demo.url)
            page = context.new_page()

            def shoot(name: str, path: str = "", wait: int = 900) -> None:
                if path:
                    page.goto(path)
                page.wait_for_load_state("networkidle")
                page.wait_for_timeout(wait)
                page.screenshot(path=OUT / f"{name}.png")

            _sign_in(page)
            berth = _asset(page, "salt-berth-01")
            shoot("estate")
            shoot("today", "/today", wait=2500)
            shoot("dossier", f"/assets/{berth}")
            shoot("discovery", "/discovery")
            page.get_by_role("article").filter(has_text="Saltholm and Port Averne").get_by_role(
                "button", name="Start now"
            ).click()
            page.wait_for_url("**/runs/*")
            page.get_by_text(re.compile(r"^[3-9]\d found$")).first.wait_for(timeout=60_000)
            page.screenshot(path=OUT / "sweep-running.png")
            page.get_by_role("link", name="Decide at intake").wait_for(timeout=60_000)
            shoot("intake", "/discovery/intake")
            shoot("software", "/software")
            shoot("changes", "/software?tab=changes")
            shoot("report", "/reports/by-system")
            shoot("licences", "/licences", wait=1500)
            shoot("lifecycle", "/lifecycle", wait=1500)
            shoot("money", "/lifecycle?tab=money", wait=1500)
            shoot("exposure", "/exposure", wait=1500)
            shoot("advisory", "/exposure/advisories/CVE-2026-99041007")
            shoot("services", "/services?tab=stops&q=name+%3D+salt-db-01")
            shoot("inquiry", "/services?tab=inquiry&q=10.60.4.22,+salt-db-01,+salt-mail-01")
            shoot("programs", "/services?tab=programs")
            page.goto("/reports?tab=handbooks")
            page.get_by_role("button", name=re.compile("^Begin If the data room")).click()
            page.get_by_role("dialog").get_by_role("button", name="Begin").click()
            page.wait_for_url("**/handbooks/*")
            page.get_by_label("The handbook").get_by_text("Ticketing").first.wait_for()
            page.get_by_label("Close toast").first.click()
            shoot("handbook")
            page.goto("/estate?q=place+%3D+%22Port+Averne%22+and+kind+in+(switch,+server,+printer)")
            page.get_by_role("button", name="Count", exact=True).click()
            page.get_by_role("dialog").get_by_label("Name", exact=True).fill("Port Averne, comms room")
            page.get_by_role("dialog").get_by_role("button", name="Open the count").click()
            page.wait_for_url("**/counts/*")
            page.set_viewport_size({"width": 390, "height": 844})
            page.goto(page.url.replace("/counts/", "/pocket/count/"))
            for _ in range(3):
                page.get_by_role("button", name=re.compile("^Here")).first.click()
                page.wait_for_timeout(800)
            shoot("pocket")
            browser.close()
    finally:
        demo.stop()


if __name__ == "__main__":
    main()
