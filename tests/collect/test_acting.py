"""What is done to the lab's devices: who may, what it leaves behind, and that it outlives the lab."""

from datetime import UTC, datetime

import pytest

from tarn.lab.acting import HAND, Ledger, change
from tarn.lab.shell import run
from tarn.lab.timeline import World

NOW = datetime(2026, 11, 23, 10, tzinfo=UTC)


@pytest.fixture
def server():
    return next(d for d in World().on(400) if d.name == "salt-berth-01")


def test_only_the_hand_may_act(server):
    line = "sudo -n env DEBIAN_FRONTEND=noninteractive dpkg --remove sextant-core"
    assert run(server, line, NOW) == ("", "sudo: a password is required\n", 1)
    assert "sextant-core" in server.packages
    out, _, code = run(server, line, NOW, HAND)
    assert (out.startswith("Removing sextant-core"), code) == (True, 0)
    assert "sextant-core" not in server.packages
    assert run(server, "dpkg --remove moor-core", NOW, HAND)[2] == 127, "without sudo it is no command of the reader's"


def test_what_was_done_outlives_the_lab(server, tmp_path):
    ledger = Ledger(tmp_path / "changes")
    change(server, "removed", "sextant-core", NOW)
    ledger.keep(server)
    change(server, "restarted", "", NOW)
    ledger.keep(server)
    ledger.keep(server)
    again = next(d for d in World().on(400) if d.name == "salt-berth-01")
    assert "sextant-core" in again.packages
    Ledger(tmp_path / "changes").apply(again)
    assert "sextant-core" not in again.packages
    assert again.restarted == NOW
    assert len((tmp_path / "changes").read_text().splitlines()) == 2
