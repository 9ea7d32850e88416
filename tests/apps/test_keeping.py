"""Backup, restore and keys: what is wrong is refused in words, and what was there stays as it was."""

import io
import json
import os
import sqlite3
import subprocess
import sys
import tarfile
from pathlib import Path

import pytest
from cryptography.fernet import Fernet

PREPARE = """
import django; django.setup()
from tarn.site.ready import ready; ready()
from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.people.actions.accounts import make_person
make_person(None, "ines", "slack-tide-5678", "administrator")
make_credential(None, CredentialIn(name="linux", protocol="ssh", user="u", reach=["10.60.4.0/24"]), {"password": "low"})
"""
OPENED = """
import django; django.setup()
from tarn.apps.discovery.models import Credential
from tarn.apps.discovery.credentials.sealing import opened
print(opened(Credential.objects.get()).password)
"""


def run(home, *command, umask=0o022, **env):
    return subprocess.run(
        [sys.executable, *command],
        env={**os.environ, "TARN_HOME": str(home), "DJANGO_SETTINGS_MODULE": "tarn.site.settings", **env},
        capture_output=True,
        text=True,
        check=False,
        preexec_fn=lambda: os.umask(umask),
    )


def tarn(home, *words, **env):
    return run(home, "-m", "tarn.site.cli_main", *words, **env)


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """A home with an account, a credential and a paper, and a backup of it; made with an umask that hides nothing."""
    base = tmp_path_factory.mktemp("keeping")
    home = base / "home"
    told = run(home, "-c", PREPARE, umask=0)
    assert told.returncode == 0, told.stderr
    papers = home / "papers"
    papers.mkdir()
    content = b"a delivery note"
    import hashlib

    (papers / hashlib.sha256(content).hexdigest()).write_bytes(content)
    told = tarn(home, "backup", str(base / "b.tgz"), umask=0)
    assert told.returncode == 0, told.stderr
    return base


def changed(made, tmp_path, change):
    """Write the backup anew with its members changed: `change` takes and returns contents by name."""
    with tarfile.open(made / "b.tgz") as archive:
        inside = {m.name: archive.extractfile(m).read() for m in archive.getmembers()}
    out = tmp_path / "changed.tgz"
    with tarfile.open(out, "w:gz") as archive:
        for name, content in change(inside).items():
            info = tarfile.TarInfo(name)
            info.size = len(content)
            archive.addfile(info, io.BytesIO(content))
    return out


def test_files_are_their_owners_alone_whatever_the_umask(made):
    for path in [made / "home", *(made / "home").rglob("*"), made / "b.tgz"]:
        assert path.stat().st_mode & 0o077 == 0, path


def test_what_is_not_tarns_is_left_as_it_is(tmp_path):
    """Somebody keeps the data in a folder of their own: neither it nor their files are closed to others."""
    home = tmp_path / "shared"
    (home / "public").mkdir(parents=True)
    (home / "public" / "page.html").write_text("hello")
    (home / "jobs.sqlite3").touch(mode=0o644)
    for one in (home, home / "public"):
        one.chmod(0o755)
    (home / "public" / "page.html").chmod(0o644)
    assert tarn(home, "schema", "sighting").returncode == 0
    modes = [oct(p.stat().st_mode & 0o777) for p in (home, home / "public", home / "public" / "page.html")]
    assert modes == ["0o755", "0o755", "0o644"]
    told = run(home, "-c", "from tarn.site.home import home; home()")
    assert told.returncode == 0, told.stderr
    assert oct((home / "jobs.sqlite3").stat().st_mode & 0o777) == "0o600"


def test_a_backup_comes_back_whole(made, tmp_path):
    told = tarn(tmp_path / "new", "restore", str(made / "b.tgz"))
    assert told.returncode == 0, told.stderr
    assert "1 files of papers" in told.stdout
    assert run(tmp_path / "new", "-c", OPENED).stdout.strip() == "low"


def _later(inside):
    told = json.loads(inside["backup.json"])
    told["migrations"].append(["estate", "9999_of_tomorrow"])
    return {**inside, "backup.json": json.dumps(told).encode()}


def _other(inside):
    return {**inside, "backup.json": json.dumps({**json.loads(inside["backup.json"]), "program": "another"}).encode()}


def _key(inside):
    import hashlib

    key = Fernet.generate_key()
    told = json.loads(inside["backup.json"])
    told["files"]["secrets.key"] = hashlib.sha256(key).hexdigest()
    return {**inside, "secrets.key": key, "backup.json": json.dumps(told).encode()}


def _without(name):
    return lambda inside: {n: c for n, c in inside.items() if not n.startswith(name)}


WRONG = {
    "later release": (_later, "of a later release"),
    "another program": (_other, "not of Tarn"),
    "wrong key": (_key, "does not open the secrets"),
    "no key": (_without("secrets.key"), "secrets.key is missing"),
    "a paper gone": (_without("papers/"), "is missing from"),
    "a paper changed": (lambda i: {n: b"x" if n.startswith("papers/") else c for n, c in i.items()}, "not what it was"),
    "no list": (_without("backup.json"), "no list of what is in it"),
    "one more": (lambda i: {**i, f"papers/{'0' * 64}": b"y"}, "its list does not name it"),
    "a stranger": (lambda i: {**i, "../evil": b"y"}, "is no backup of Tarn"),
}


@pytest.mark.parametrize("what", WRONG)
def test_what_is_wrong_is_said_and_the_old_data_stays(made, tmp_path, what):
    change, says = WRONG[what]
    archive = changed(made, tmp_path, change)
    before = (made / "home" / "tarn.sqlite3").read_bytes()
    told = tarn(made / "home", "restore", "--force", str(archive))
    assert told.returncode != 0
    assert says in told.stderr, told.stderr
    assert (made / "home" / "tarn.sqlite3").read_bytes() == before
    assert run(made / "home", "-c", OPENED).stdout.strip() == "low"


def test_nothing_is_exchanged_while_tarn_runs(made):
    hold = "import time\nfrom tarn.site.running import at_work\nat_work()\nprint('at work', flush=True)\ntime.sleep(60)"
    env = {**os.environ, "TARN_HOME": str(made / "home")}
    with subprocess.Popen([sys.executable, "-c", hold], env=env, stdout=subprocess.PIPE, text=True) as runs:
        assert runs.stdout.readline().strip() == "at work"
        for words in (("restore", "--force", str(made / "b.tgz")), ("keys", "rotate")):
            told = tarn(made / "home", *words)
            assert (told.returncode, "Tarn runs on" in told.stderr) == (1, True), told.stderr
        runs.terminate()


def test_the_key_is_exchanged_and_everything_still_opens(made, tmp_path):
    home = tmp_path / "home"
    assert tarn(home, "restore", str(made / "b.tgz")).returncode == 0
    before = (home / "secrets.key").read_text()
    told = tarn(home, "keys", "rotate")
    assert told.returncode == 0, told.stderr
    assert "1 of credential" in told.stdout
    assert (home / "secrets.key").read_text().strip() != before.strip()
    assert before.strip() not in (home / "secrets.key").read_text()
    assert run(home, "-c", OPENED).stdout.strip() == "low"


def test_keys_may_be_kept_outside_the_data(tmp_path):
    outside = tmp_path / "keys"
    told = run(tmp_path / "home", "-c", PREPARE, TARN_KEYS=str(outside))
    assert told.returncode == 0, told.stderr
    assert sorted(p.name for p in outside.iterdir()) == ["secrets.key", "session.key"]
    assert not (tmp_path / "home" / "secrets.key").exists()
    assert sqlite3.connect(Path(tmp_path / "home" / "tarn.sqlite3")).execute(
        "SELECT count(*) FROM discovery_credential"
    ).fetchone() == (1,)
