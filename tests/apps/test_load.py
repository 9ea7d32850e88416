"""More than one machine's worth of work: two workers on one queue (a real Redis), handing in through one door."""

import os
import socket
import sqlite3
import subprocess
import sys
import time

import pytest

from tarn.lab.serve import serving

SWEEPS = {
    "10.60.4.21": "salt-tix-01",
    "10.60.4.23": "salt-berth-01",
    "10.60.5.41": "salt-ws-21",
    "10.60.5.42": "salt-ws-22",
}

PLAN = """
import django; django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0)
from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import start_run
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.lab import scenario
linux = make_credential(None, CredentialIn(name="linux", protocol="ssh", reach=["10.60.0.0/16"], user=scenario.SSH_USER),
                        {"password": scenario.SSH_PASSWORD})
for address in %r:
    ranges = [address, "10.60.9.0/25"]
    made = make_sweep(None, SweepIn(name=address, ranges=ranges, credentials=[linux.pk], route="lab"))
    start_run(None, made.pk)
"""


@pytest.fixture
def redis(tmp_path):
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = ["redis-server", "--port", str(port), "--bind", "127.0.0.1", "--save", "", "--dir", str(tmp_path)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    for _ in range(100):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                break
        time.sleep(0.05)
    yield f"redis://127.0.0.1:{port}/0"
    server.terminate()
    server.wait(10)


def test_two_workers_share_sweeps_over_redis_and_nothing_is_read_twice(redis, tmp_path):
    home = tmp_path / "home"
    env = {
        **os.environ,
        "TARN_HOME": str(home),
        "TARN_REDIS": redis,
        "DJANGO_SETTINGS_MODULE": "tarn.site.settings",
    }
    subprocess.run([sys.executable, "-c", PLAN % list(SWEEPS)], env=env, check=True, timeout=60)
    worker = [sys.executable, "-m", "tarn.site.cli_main", "worker", "--workers", "1"]
    with serving(set(SWEEPS.values())):
        workers = [subprocess.Popen(worker, env=env, stderr=subprocess.PIPE, text=True) for _ in range(2)]
        try:
            states = _ended(home / "tarn.sqlite3")
        finally:
            for process in workers:
                process.terminate()
            said = [process.communicate(timeout=20)[1] for process in workers]
    assert states == ["done"] * 4
    taken = [text.count(" of “10.60") for text in said]
    assert sum(taken) == 4
    assert min(taken) >= 1, f"both took their share: {taken}"
    with sqlite3.connect(home / "tarn.sqlite3") as db:
        seen = db.execute("SELECT address, count(*) FROM estate_sighting GROUP BY address").fetchall()
        assert dict(seen) == dict.fromkeys(SWEEPS, 1)
        assert db.execute("SELECT count(*) FROM estate_asset").fetchone() == (4,)


def _ended(path):
    end = time.monotonic() + 90
    while time.monotonic() < end:
        with sqlite3.connect(path, timeout=10) as db:
            states = [s for (s,) in db.execute("SELECT state FROM discovery_run")]
        if all(s in ("done", "failed", "stopped") for s in states):
            return states
        time.sleep(0.2)
    raise AssertionError(states)
