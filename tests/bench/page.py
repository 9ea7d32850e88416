"""What the processes hold, what the first screen weighs, how soon the register can be used."""

import gzip
import os
import re
import socket
import statistics
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from tests.bench.crowd import crowd
from tests.bench.figures import Figure

ROOT = Path(__file__).resolve().parents[2]
DIST = ROOT / "web" / "dist"


def weight() -> Figure:
    """Gzipped script and style that the register's page loads before it can be used."""
    index = (DIST / "index.html").read_text()
    names = set(re.findall(r"/static/(assets/[\w.-]+\.(?:js|css))", index))
    entry = next(n for n in names if "/index-" in n and n.endswith(".js"))
    text = (DIST / entry).read_text()
    estate = re.findall(r"assets/(?:Estate|Why|undo)-[\w-]+\.js", text)
    names |= set(estate)
    total = sum(len(gzip.compress((DIST / n).read_bytes(), 9)) for n in names)
    return Figure(
        "first_screen", total / 1000, "kB gzipped", "<= 200", f"{len(names)} files; the ask line's editor follows after"
    )


def _memory(pid: int) -> float:
    status = Path(f"/proc/{pid}/status").read_text()
    found = re.search(r"VmRSS:\s+(\d+) kB", status)
    return int(found[1]) / 1024 if found else 0.0


def _port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def processes() -> list[Figure]:
    """Start web server and worker on the bench's estate; use the register in a browser; weigh both."""
    from tarn.apps.people.actions.accounts import make_person
    from tarn.apps.people.actions.tokens import make_token

    person = make_person(None, "bench", "bench-bench-1", "administrator")
    token = make_token(person, "bench")[1]
    port = _port()
    environment = dict(os.environ)
    tarn = [sys.executable, "-m", "tarn.site.cli_main"]
    web = subprocess.Popen([*tarn, "serve", "--port", str(port)], env=environment)
    worker = subprocess.Popen([*tarn, "worker"], env=environment)
    try:
        _until(port)
        for path in (
            "assets?filter=kind%20%3D%20server",
            "strata",
            "strata?as_of=2026-06-01",
            "assets/5",
            "assets.csv?fields=name",
        ):
            request = urllib.request.Request(
                f"http://127.0.0.1:{port}/api/{path}", headers={"Authorization": f"Bearer {token}"}
            )
            urllib.request.urlopen(request, timeout=120).read()
        usable = _usable(port)
        time.sleep(1)
        return [
            Figure("web_memory", _memory(web.pid), "MB", "<= 250"),
            Figure("worker_memory", _memory(worker.pid), "MB", "<= 250", "idle after start"),
            usable,
            *crowd(port, token),
        ]
    finally:
        for child in (web, worker):
            child.terminate()
            child.wait(10)


def _until(port: int) -> None:
    until = time.monotonic() + 60
    while time.monotonic() < until:
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.1)
    raise TimeoutError("the web server did not start")


def _usable(port: int) -> Figure:
    from playwright.sync_api import sync_playwright

    from tests.web.conftest import CHROMIUM

    times = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.goto(f"http://127.0.0.1:{port}/sign-in?to=/estate")
        page.get_by_label("Name").fill("bench")
        page.get_by_label("Password").fill("bench-bench-1")
        page.get_by_role("button", name="Sign in", exact=True).click()
        page.wait_for_selector("[data-asset]")
        for _ in range(5):
            began = time.perf_counter()
            page.goto(f"http://127.0.0.1:{port}/estate", wait_until="commit")
            page.wait_for_selector("[data-asset] a")
            times.append(time.perf_counter() - began)
        browser.close()
    return Figure(
        "register_usable", statistics.median(times), "s", "<= 1", "median of 5 navigations, headless, to the first rows"
    )
