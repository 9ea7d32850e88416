"""The continuous copy, with the real Litestream: to a folder and an object store, put in place, taken over."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from tarn.lab.objects import ACCESS_KEY, SECRET
from tests.apps.test_keeping import OPENED, PREPARE, run, tarn
from tests.web.conftest import free_port

WAIT = 60


def environment(home: Path, **more: str) -> dict[str, str]:
    return {**os.environ, "TARN_HOME": str(home), "DJANGO_SETTINGS_MODULE": "tarn.site.settings", **more}


def begun(home: Path, *words: str, **more: str) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "tarn.site.cli_main", *words]
    return subprocess.Popen(command, env=environment(home, **more), stderr=subprocess.PIPE, text=True)


def until(happened: Any, said: str = "") -> None:
    end = time.monotonic() + WAIT
    while not happened():
        assert time.monotonic() < end, said
        time.sleep(0.2)


@pytest.fixture
def first(tmp_path: Path) -> Path:
    """A home with an account, a credential and a paper."""
    import hashlib

    home = tmp_path / "first"
    told = run(home, "-c", PREPARE)
    assert told.returncode == 0, told.stderr
    (home / "papers").mkdir(exist_ok=True)
    (home / "papers" / hashlib.sha256(b"a delivery note").hexdigest()).write_bytes(b"a delivery note")
    return home


def wrote(home: Path, number: int) -> None:
    """Write something that can be found again: an account."""
    code = f"import django; django.setup()\nfrom tarn.apps.people.actions.accounts import make_person\nmake_person(None, 'p{number}', 'slack-tide-5678', 'viewer')"
    told = run(home, "-c", code)
    assert told.returncode == 0, told.stderr


def accounts(home: Path) -> set[str]:
    with sqlite3.connect(home / "tarn.sqlite3") as db:
        return {name for (name,) in db.execute("SELECT username FROM auth_user")}


def newest(home: Path) -> float:
    return json.loads((home / "copy.beat").read_text())["behind"]


def kill(process: subprocess.Popen[str]) -> None:
    """End a process and what it started at once, as a machine that dies."""
    for child in Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split():
        os.kill(int(child), signal.SIGKILL)
    process.kill()
    process.wait()


def test_a_copy_in_a_folder_is_put_in_place_as_of_now_and_of_a_moment(first: Path, tmp_path: Path) -> None:
    place = tmp_path / "copy"
    copying = begun(first, "copy", "--to", str(place))
    until(lambda: (place / "database").exists() and (place / "secrets.key").exists())
    wrote(first, 1)
    time.sleep(4)
    between = time.time()
    time.sleep(2)
    wrote(first, 2)
    time.sleep(4)
    kill(copying)  # nobody closed anything
    second = tmp_path / "second"
    told = tarn(second, "restore", "--from", str(place))
    assert told.returncode == 0, told.stderr
    assert "as of its newest moment" in told.stdout
    assert "1 files of papers" in told.stdout
    assert {"p1", "p2"} <= accounts(second)
    assert run(second, "-c", OPENED).stdout.strip() == "low", "the key came with it"
    assert len(list((second / "papers").iterdir())) == 1
    third = tmp_path / "third"
    at = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime(between))
    told = tarn(third, "restore", "--from", str(place), "--at", at)
    assert told.returncode == 0, told.stderr
    assert "p1" in accounts(third)
    assert "p2" not in accounts(third)
    # What is there is not replaced unasked; a moment before all copies is refused in words.
    again = tarn(second, "restore", "--from", str(place))
    assert again.returncode == 1
    assert "holds data already" in again.stderr
    before = tarn(second, "restore", "--from", str(place), "--at", "2001-01-01", "--force")
    assert before.returncode == 1
    assert "gives no database as of 2001-01-01" in before.stderr
    assert {"p1", "p2"} <= accounts(second), "nothing was changed"


def test_two_do_not_write_to_one_copy(first: Path, tmp_path: Path) -> None:
    place = tmp_path / "copy"
    copying = begun(first, "copy", "--to", str(place))
    until(lambda: (place / "owner.json").exists())
    second = tmp_path / "second"
    run(second, "-c", PREPARE)
    refused = tarn(second, "copy", "--to", str(place))
    assert refused.returncode == 1
    assert "Two must not write to one copy" in refused.stderr
    other = begun(second, "copy", "--to", str(place), "--take-over")
    _, said = copying.communicate(timeout=WAIT)
    assert copying.returncode == 1
    assert "has taken the copy" in said
    other.send_signal(signal.SIGTERM)
    other.wait(WAIT)


@pytest.fixture
def objects(tmp_path: Path) -> Iterator[dict[str, str]]:
    """The stand-in that speaks S3; returns what is set to use it."""
    port, ready = free_port(), tmp_path / "objects.ready"
    code = f"from pathlib import Path; from tarn.lab.objects import main; main({port}, Path({str(ready)!r}))"
    server = subprocess.Popen([sys.executable, "-c", code])
    until(ready.exists)
    yield {
        "AWS_ACCESS_KEY_ID": ACCESS_KEY,
        "AWS_SECRET_ACCESS_KEY": SECRET,
        "TARN_COPY_ENDPOINT": f"http://127.0.0.1:{port}",
        "AWS_EC2_METADATA_DISABLED": "true",
    }
    server.kill()
    server.wait()


def test_a_stand_by_takes_over_from_an_object_store(first: Path, tmp_path: Path, objects: dict[str, str]) -> None:
    place, port, other_port = "s3://copies/tarn", free_port(), free_port()
    running = begun(first, "run", "--port", str(port), TARN_COPY=place, **objects)
    second = tmp_path / "second"
    beside = begun(
        second,
        "standby",
        f"http://127.0.0.1:{port}",
        "--from",
        place,
        "--patience",
        "5",
        TARN_PORT=str(other_port),
        **objects,
    )
    import httpx

    def answers(at: int) -> bool:
        try:
            return httpx.get(f"http://127.0.0.1:{at}/api/readyz", trust_env=False).status_code == 200
        except httpx.HTTPError:
            return False

    try:
        until(lambda: answers(port))
        until((first / "copy.beat").exists)
        wrote(first, 7)
        time.sleep(6)
        for child in Path(f"/proc/{running.pid}/task/{running.pid}/children").read_text().split():
            for grandchild in Path(f"/proc/{child}/task/{child}/children").read_text().split():
                os.kill(int(grandchild), signal.SIGKILL)
            os.kill(int(child), signal.SIGKILL)
        running.kill()
        running.wait()
        until(lambda: answers(other_port), "the second never answered")
        assert "p7" in accounts(second)
        assert run(second, "-c", OPENED).stdout.strip() == "low"
        # The first comes back: it may not write to the copy any more.
        back = tarn(first, "copy", "--to", place, **objects)
        assert back.returncode == 1
        assert "Two must not write to one copy" in back.stderr
    finally:
        beside.send_signal(signal.SIGTERM)
        beside.wait(WAIT)
        if running.poll() is None:
            running.kill()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("copy", "--to", "relative/folder"), "is no place for a copy"),
        (("copy", "--to", "s3://bucket"), "names no bucket with a prefix"),
        (("copy", "--to", "s3://bucket/tarn"), "AWS_ACCESS_KEY_ID"),
        (("restore", "--from", "/nowhere/at/all"), "gives no database"),
        (("restore", "--from", "/nowhere/at/all", "--at", "yesterday"), "is no moment"),
        (("restore",), "name a backup"),
        (("restore", "b.tgz", "--at", "2026-01-01"), "a backup is of one moment"),
    ],
)
def test_what_cannot_be_is_refused_in_words(tmp_path: Path, words: tuple[str, ...], said: str) -> None:
    told = tarn(tmp_path / "home", *words)
    assert told.returncode == 1
    assert said in told.stderr
    assert "Traceback" not in told.stderr
