"""Looks elsewhere: processes with neither data nor files of Tarn look for a run over Debian's Redis; one is killed."""

import asyncio
import contextlib
import os
import shlex
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from cryptography.fernet import Fernet
from redis import Redis

from tarn.apps.discovery.models import RunAddress
from tarn.apps.discovery.sweeps import elsewhere, running
from tarn.apps.discovery.sweeps.runs import plan_run
from tarn.apps.estate.models import Asset, Sighting
from tarn.collect.looks import looker, sharing
from tarn.collect.looks.speech import ORDERS, Envelope, Seal, Unsealed
from tarn.collect.outpost.wire import HandIn, SweepOrder
from tests.apps.test_load import redis  # noqa: F401  fixture
from tests.apps.test_sweeping import NAMES, lab, planned  # noqa: F401  fixtures

KEY = Fernet.generate_key().decode()


def order(*addresses: str) -> SweepOrder:
    return SweepOrder(1, "night", "0" * 32, list(addresses), [], ["ssh"], 0.3, [22], 4, [])


@pytest.fixture
def shared(redis: str, monkeypatch: pytest.MonkeyPatch) -> str:  # noqa: F811
    """Redis, told to this process as to a worker; orders of two addresses, so that there are several."""
    monkeypatch.setenv("TARN_REDIS", redis)
    monkeypatch.setenv("TARN_LOOKS_KEY", KEY)
    monkeypatch.setattr(elsewhere, "LEAST", 2)
    monkeypatch.setattr(elsewhere, "MOST", 2)
    return redis


def told(where: str, home: Path, key: str = KEY, **more: str) -> dict[str, str]:
    """What a looker is told: where Redis is, the key, and nothing else of Tarn."""
    bare = {k: v for k, v in os.environ.items() if not k.startswith(("TARN_", "DJANGO_"))}
    lab_at = os.environ.get("TARN_LAB_OFFSET", "20000")
    return {
        **bare,
        "TARN_REDIS": where,
        "TARN_LOOKS_KEY": key,
        "TARN_LAB_OFFSET": lab_at,
        **more,
        "TARN_HOME": str(home),
    }


def begun(command: list[str], env: dict[str, str]) -> subprocess.Popen[str]:
    """A process in a session of its own, so that all it starts is ended with it."""
    there = Path(__file__).parents[2]
    return subprocess.Popen(command, env=env, stderr=subprocess.PIPE, text=True, cwd=there, start_new_session=True)


def looker_named(name: str) -> list[str]:
    return [sys.executable, "-m", "tarn.site.cli_main", "worker", "--looks", "--name", name]


def looking(where: str, name: str, home: Path, key: str = KEY, **more: str) -> subprocess.Popen[str]:
    """A looker beside us."""
    return begun(looker_named(name), told(where, home, key, **more))


LAB = """
import pathlib, sys, time
from tarn.lab.serve import serving
with serving(sys.argv[2].split()):
    pathlib.Path(sys.argv[1]).touch()
    time.sleep(300)
"""


def machine(where: str, name: str, home: Path) -> subprocess.Popen[str]:
    """A looker on a machine of its own: in a network namespace (network_namespaces(7)) with nothing but a loopback, on
    which the lab's devices answer. Redis is reached by a socket in the file system, and nothing else of Tarn at all."""
    up = home.with_suffix(".up")
    lab_there = shlex.join([sys.executable, "-c", LAB, str(up), " ".join(NAMES)])
    there = f"{lab_there} & until [ -e {up} ]; do sleep 0.1; done; exec {shlex.join(looker_named(name))}"
    return begun(["unshare", "--map-root-user", "--net", "sh", "-c", f"ip link set lo up; {there}"], told(where, home))


def end(one: subprocess.Popen[str]) -> None:
    """End a machine and all that runs on it."""
    with contextlib.suppress(ProcessLookupError):
        os.killpg(one.pid, signal.SIGKILL)
    one.communicate()


@pytest.fixture
def redis_in_a_file(tmp_path: Path) -> Iterator[str]:
    """Debian's Redis, reached by a socket in the file system alone."""
    path = tmp_path / "redis.sock"
    command = ["redis-server", "--port", "0", "--unixsocket", str(path), "--save", "", "--dir", str(tmp_path)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    while not path.exists():
        time.sleep(0.05)
    yield f"unix://{path}?db=0"
    server.terminate()
    server.wait(10)


def until_there(where: str, *names: str) -> None:
    db, end = Redis.from_url(where), time.monotonic() + 120
    while not all(db.exists(f"tarn:looks:alive:{n}") for n in names):
        assert time.monotonic() < end
        time.sleep(0.1)


EXPECTED = {
    "10.60.4.21": "fully read",
    "10.60.4.22": "no answer",
    "10.60.4.23": "fully read",
    "10.60.4.24": "left out",
    "10.60.5.2": "fully read",
    "10.60.5.6": "fully read",
    "10.60.5.15": "part read",
    "10.60.5.35": "answered",
    "10.60.5.40": "answered",
    "10.60.8.47": "answered",
    "10.60.20.32": "no answer",
    "10.60.21.5": "left out",
}


def two_look(operator: Any, sweep: Any, where: str, start: Callable[[str, str, Path], Any], homes: Path) -> None:
    """Two look for a run, one of which is killed while it does; nothing may be lost or come twice."""
    two = [start(where, name, homes / name) for name in ("salt-look", "avrn-look")]
    try:
        until_there(where, "salt-look", "avrn-look")
        run = plan_run(operator, sweep)
        killed: list[bytes] = []

        def kill_one() -> None:
            db = Redis.from_url(where)
            while not killed:
                for key in db.scan_iter("tarn:looks:at:*"):
                    if db.get(key) == b"salt-look":
                        two[0].kill()
                        killed.append(key)
                        db.delete(key)  # its sign of life is over at once, for the test's sake
                        return
                time.sleep(0.02)

        threading.Thread(target=kill_one, daemon=True).start()
        running.carry_out(run.pk)
        run.refresh_from_db()
        rows = {r.address: r for r in RunAddress.objects.filter(run=run)}
        assert run.state == "done"
        assert {a: r.outcome for a, r in rows.items()} == EXPECTED
        assert Asset.objects.count() == 8
        addresses = list(Sighting.objects.values_list("address", flat=True))
        assert len(addresses) == len(set(addresses)), "nothing came twice"
        assert {r.outpost for r in rows.values()} - {""} <= {"salt-look", "avrn-look"}
        assert any(r.outpost == "avrn-look" for r in rows.values()), "the page says who looked"
        assert Redis.from_url(where).llen(ORDERS) == 0
        assert killed, "one of them was at work when it was killed"
    finally:
        for one in two:
            end(one)
    for name in ("salt-look", "avrn-look"):
        left = {p.name for p in (homes / name).rglob("*")} if (homes / name).exists() else set()
        assert not any("sqlite" in n or "key" in n for n in left), "no data and no key of Tarn is made there"


def test_two_look_for_a_run_one_dies_and_nothing_is_lost_or_doubled(
    planned: Any,  # noqa: F811
    people: Any,
    shared: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(sharing, "HELD", 2)
    two_look(people["operator"], planned, shared, looking, tmp_path)


def test_two_machines_look_for_a_run_one_dies_and_nothing_is_lost_or_doubled(
    planned: Any,  # noqa: F811
    people: Any,
    shared: str,
    redis_in_a_file: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(sharing, "HELD", 2)
    monkeypatch.setenv("TARN_REDIS", redis_in_a_file)
    two_look(people["operator"], planned, redis_in_a_file, machine, tmp_path)


def test_without_anybody_or_without_redis_the_worker_looks_itself(
    planned: Any,  # noqa: F811
    people: Any,
    shared: str,
    monkeypatch: pytest.MonkeyPatch,
    caplog: pytest.LogCaptureFixture,
) -> None:
    run = plan_run(people["operator"], planned)
    running.carry_out(run.pk)
    assert {r.address: r.outcome for r in RunAddress.objects.filter(run=run)} == EXPECTED
    monkeypatch.setenv("TARN_REDIS", "redis://127.0.0.1:1/0")
    again = plan_run(people["operator"], planned)
    running.carry_out(again.pk)
    again.refresh_from_db()
    assert again.state == "done"
    assert "Redis does not answer" in caplog.text


def test_who_is_told_another_key_does_not_look(shared: str, tmp_path: Path) -> None:
    db = Redis.from_url(shared)
    db.set("tarn:looks:check", Seal(KEY).close(b"looks"))
    stranger = looking(shared, "stranger", tmp_path / "s", key=Fernet.generate_key().decode())
    _, said = stranger.communicate(timeout=40)
    assert stranger.returncode == 1
    assert "may not look: it was sealed with another key" in said
    assert "Traceback" not in said
    without = subprocess.run(
        [sys.executable, "-m", "tarn.site.cli_main", "worker", "--looks"],
        env={k: v for k, v in os.environ.items() if k != "TARN_LOOKS_KEY"},
        capture_output=True,
        text=True,
    )
    assert without.returncode == 1
    assert "TARN_LOOKS_KEY" in without.stderr


def test_what_lies_in_redis_is_sealed_and_no_forgery_is_taken(shared: str) -> None:
    seal = Seal(KEY)
    secret = order("10.60.4.21")
    secret.credentials = [{"kind": "ssh", "password": "low-tide"}]
    sealed = seal.close_order(Envelope("i", "lab", secret))
    assert b"low-tide" not in sealed
    assert seal.open_order(sealed).order.credentials == secret.credentials
    handed = seal.close_found("look-1", HandIn("a", 1, "0" * 32))
    assert seal.open_found(handed).looker == "look-1"
    for forged in (
        b"",
        handed[:-4] + b"AAAA",
        Seal(Fernet.generate_key().decode()).close_found("x", HandIn("a", 1, "0" * 32)),
    ):
        with pytest.raises(Unsealed):
            seal.open_found(forged)
    with pytest.raises(Unsealed, match="is no key"):
        Seal("secret")


def test_a_looker_keeps_what_it_found_while_redis_is_away(shared: str) -> None:
    """Its hand-ins wait in their order and go once Redis answers again."""

    class Away:
        """A Redis that fails for a while, then is the real one."""

        def __init__(self, real: Any) -> None:
            self.real, self.fails = real, 3

        def pipeline(self, **given: Any) -> Any:
            self.fails -= 1
            if self.fails >= 0:
                raise OSError("no way to it")
            return self.real.pipeline(**given)

    async def send() -> list[bytes]:
        from redis.asyncio import Redis as Later

        real = Later.from_url(shared)
        one = looker.Looker(Away(real), Seal(KEY), "look-1")
        one._unsent.extend(("i", f"{n}".encode()) for n in range(3))
        sending = asyncio.create_task(one._send())
        while one._unsent:
            await asyncio.sleep(0.05)
        sending.cancel()
        got = await real.lrange("tarn:looks:found:i", 0, -1)
        await real.aclose()
        return got

    real_sleep = asyncio.sleep
    looker.asyncio.sleep = lambda seconds: real_sleep(min(seconds, 0.05))  # type: ignore[attr-defined, assignment]
    try:
        assert asyncio.run(send()) == [b"0", b"1", b"2"]
    finally:
        looker.asyncio.sleep = real_sleep  # type: ignore[attr-defined]
