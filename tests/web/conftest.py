"""A whole Tarn for browser tests: the demo, started by the command a newcomer types."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Page, expect

CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-dev-shm-usage",
    "--disable-background-networking",
    "--disable-component-update",
]
ROOT = Path(__file__).resolve().parents[2]
expect.set_options(timeout=40_000)
"""Milliseconds to wait for what a page is to show: a machine that tests may be busy, and a sweep must begin first."""


def free_port() -> int:
    """Return a port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Demo:
    """A running demo; `log` is what it has written."""

    def __init__(self, home: Path) -> None:
        self.home, self.port = home, free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.log = home / "demo.log"
        environment = {**os.environ, "TARN_HOME": str(home), "TARN_PORT": str(self.port), "TARN_LAB_OFFSET": "15000"}
        environment["DJANGO_SETTINGS_MODULE"] = "tarn.site.settings"
        with self.log.open("w") as log:
            command = [sys.executable, "-m", "tarn.site.cli_main", "demo"]
            self.process = subprocess.Popen(command, env=environment, stdout=log, stderr=log, cwd=ROOT)
        until = time.monotonic() + 600
        while "Ctrl-C" not in self.log.read_text():
            assert self.process.poll() is None, self.log.read_text()
            assert time.monotonic() < until, self.log.read_text()
            time.sleep(0.3)

    def stacks(self) -> str:
        """Return what all threads of the web server are at, and what was written last."""
        begun = len(self.log.read_text())
        children = Path(f"/proc/{self.process.pid}/task/{self.process.pid}/children").read_text().split()
        for child in children:
            if b"serve" in Path(f"/proc/{child}/cmdline").read_bytes():
                os.kill(int(child), signal.SIGUSR1)
        time.sleep(1)
        written = self.log.read_text()
        return written[max(0, begun - 3_000) : begun + 20_000]

    def stop(self) -> None:
        """End it as Ctrl-C does."""
        self.process.send_signal(signal.SIGINT)
        self.process.wait(20)


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    """The demo, prepared and started once for all browser tests."""
    running = Demo(tmp_path_factory.mktemp("demo"))
    yield running
    running.stop()
    assert "Traceback" not in running.log.read_text()


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item: pytest.Item, call: pytest.CallInfo[None]) -> Iterator[None]:
    """Tell of a test that failed what the demo was at."""
    outcome = yield
    report = outcome.get_result()  # type: ignore[attr-defined]  # pluggy's, which the annotation cannot say
    held = getattr(item, "funcargs", {}).get("demo")
    if report.when == "call" and report.failed and held is not None:
        report.sections.append(("what the demo was at", held.stacks()))


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    """Debian's Chromium."""
    return {"executable_path": "/usr/bin/chromium", "args": CHROMIUM}


@pytest.fixture(scope="session")
def browser_context_args(demo: Demo) -> dict[str, Any]:
    """A window of an ordinary size."""
    return {"viewport": {"width": 1280, "height": 800}, "base_url": demo.url}


@pytest.fixture
def complaints(page: Page) -> list[str]:
    """What the page writes to its console as an error, and what it throws."""
    said: list[str] = []
    page.on("console", lambda m: said.append(m.text) if m.type == "error" else None)
    page.on("pageerror", lambda e: said.append(str(e)))
    return said


def sign_in(page: Page, name: str = "ines", to: str = "/estate") -> None:
    """Sign in as one of the demo's people and go to a page."""
    page.goto("/sign-in?to=/kinds")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(f"low-water-{name}")
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.wait_for_url(lambda url: "/sign-in" not in url)
    page.goto(to)


@pytest.fixture
def signed_in(page: Page, context: BrowserContext) -> Page:
    """A page on which the administrator has signed in."""
    sign_in(page)
    return page
