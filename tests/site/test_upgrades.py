"""Homes that earlier states of Tarn made: they come to this release, hold, and go back by the backup made first.

`tests/homes` has a few, each named by the day and the commit that made it: six devices taken in from documents, and an
account.
"""

import sqlite3
import tarfile
from pathlib import Path

import pytest

from tests.apps.test_keeping import run, tarn

HOMES = sorted((Path(__file__).parents[1] / "homes").glob("*.tar.gz"))


def migrations(home: Path) -> int:
    with sqlite3.connect(home / "tarn.sqlite3") as db:
        return int(db.execute("SELECT count(*) FROM django_migrations").fetchone()[0])


@pytest.mark.parametrize("home", HOMES, ids=lambda path: path.name.removesuffix(".tar.gz"))
def test_a_home_of_an_earlier_tarn_comes_to_this_one_and_goes_back(home: Path, tmp_path: Path) -> None:
    data = tmp_path / "data"
    with tarfile.open(home) as archive:
        archive.extractall(data, filter="data")
    before = migrations(data)
    told = tarn(data, "ask", "software[product ~ quill]", "--format", "count")
    assert told.returncode == 0, told.stderr
    assert "the data is of this release now; to go back" in told.stderr
    assert migrations(data) > before
    held = tarn(data, "rebuild", "--check")
    assert held.returncode == 0, held.stdout + held.stderr
    assert "The tables are what the sightings say." in held.stdout
    with sqlite3.connect(data / "tarn.sqlite3") as db:
        assert db.execute("SELECT count(*) FROM estate_assetspan WHERE valid_to IS NULL").fetchone() == (6,)
    # Once brought there it starts without more ado.
    again = tarn(data, "ask", "", "--format", "count")
    assert "to go back" not in again.stderr
    # And back out: what was there before is in the backup, whole.
    (backup,) = (data / "backups").glob("before-*.tar.gz")
    back = tmp_path / "back"
    code = f"""
import django; django.setup()
from pathlib import Path
from tarn.site.keeping import read_backup
print(read_backup(Path({str(backup)!r}), force=True))
"""
    told = run(back, "-c", code)
    assert told.returncode == 0, told.stderr
    assert migrations(back) == before


def test_there_are_homes() -> None:
    assert len(HOMES) >= 3
