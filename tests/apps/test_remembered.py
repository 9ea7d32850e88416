"""What is remembered: until what it rests on changes, carried on where only evidence is new, dropped all at once."""

import ast
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.software.catalogue import catalogue
from tarn.apps.estate.software.installs import installs
from tarn.apps.estate.store import remembered
from tarn.apps.estate.store.remembered import Remembered, everything, weigh
from tarn.apps.estate.store.stamps import CATALOGUE, EVIDENCE, Ground
from tests.documents import packages, sighting

pytestmark = pytest.mark.django_db
ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def kept(monkeypatch):
    """Make what is remembered for one test alone."""
    monkeypatch.setattr(remembered, "_ALL", [])
    return lambda *grounds, **rest: Remembered("of a test", *grounds, **{"most": 3, **rest})


def test_it_is_made_once_until_what_it_rests_on_changes(kept):
    moved, made = [1], []
    held = kept(Ground("tide", lambda: moved[0]))

    def make():
        made.append(moved[0])
        return f"tide {moved[0]}"

    assert [held.get("quay", make), held.get("quay", make), held.get("pier", make)] == ["tide 1"] * 3
    moved[0] = 2
    assert held.get("quay", make) == "tide 2"
    assert made == [1, 1, 2]
    list(take_in([sighting("new", 0, identity={"serial": "S-1"})]))
    assert held.get("quay", make) == "tide 2", "evidence is nothing it rests on"
    assert held.shown().held == 2, "of one key only the newest is kept"
    for key in "abcd":
        held.get(key, make)
    assert held.shown().held == 3


def test_it_is_carried_on_where_only_evidence_is_new(kept):
    moved, since = [1], []
    held = kept(EVIDENCE, Ground("tide", lambda: moved[0]))

    def carry(before, newest):
        since.append(newest)
        return [*before, "carried"] if len(before) < 3 else None

    assert held.get("k", lambda: ["made"], carry) == ["made"]
    for n in range(3):
        (taken,) = take_in([sighting(f"h-{n}", 0, identity={"serial": f"S-{n}00"})])
        assert taken.asset
        got = held.get("k", lambda: ["made"], carry)
        assert got == [["made", "carried"], ["made", "carried", "carried"], ["made"]][n]
    assert since == sorted(since)
    moved[0] = 2
    assert held.get("k", lambda: ["anew"], carry) == ["anew"], "more than evidence has changed"


def test_what_is_large_is_made_by_one_of_those_who_ask_at_once(kept):
    held, made = kept(Ground("tide", lambda: 1), one_at_a_time=True), []

    def make():
        time.sleep(0.05)
        made.append(1)
        return len(made)

    got = []
    threads = [threading.Thread(target=lambda: got.append(held.get("k", make))) for _ in range(5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(10)
    assert (got, len(made)) == ([1] * 5, 1)


def test_forgetting_drops_all_of_it_and_reads_anew():
    list(take_in([sighting("h", 0, identity={"serial": "S-100"}, packages=packages(a="1"))]))
    installs(None)
    catalogue()
    assert {s.name for s in everything() if s.held} >= {"catalogue", "installations"}
    forget()
    assert not [s.name for s in everything() if s.held]


def test_the_catalogue_rests_on_what_is_listed_and_not_on_all_evidence():
    def told(day, **more):
        listed = [{"name": "Keel", "version": "1.2", **more}]
        list(take_in([sighting("h", day, identity={"serial": "S-100"}, packages=listed)]))

    told(0)
    before = catalogue()
    told(1)
    assert catalogue() is before, "the same packages, read again"
    told(2, publisher="Orrin")
    after = catalogue()
    assert after is not before
    assert [one.publisher for one in after.listed.values()] == ["Orrin"]
    told(3, publisher="Orrin", system="deb")
    assert catalogue() is not after, "by Debian's rule versions may stand in another order"
    assert CATALOGUE.read() != EVIDENCE.read()


def test_weights_are_of_arrays_and_of_long_collections_by_a_sample():
    assert weigh(np.zeros(1_000, dtype=np.int64)) == 8_000
    shared = np.zeros(1_000)
    assert weigh((shared, shared)) < 9_000
    many = {n: f"{n:0100}" for n in range(10_000)}
    assert 1_500_000 < weigh(many) < 2_500_000


def test_nothing_else_in_the_apps_remembers_by_itself():
    """A dictionary of a module that is ordered to be cut is something remembered that nobody would forget."""
    own = []
    for path in (ROOT / "tarn" / "apps").rglob("*.py"):
        if "store" in path.parts or "migrations" in path.parts:
            continue
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, (ast.Assign, ast.AnnAssign)) and "OrderedDict(" in ast.unparse(node):
                own.append(f"{path.relative_to(ROOT)}: {ast.unparse(node)[:60]}")
    assert own == []


def test_the_doctor_tells_how_it_stands_and_what_is_amiss(tmp_path):
    import os

    def doctor():
        command = [sys.executable, "-m", "tarn.site.cli_main", "doctor"]
        env = {**os.environ, "TARN_HOME": str(tmp_path)}
        return subprocess.run(command, env=env, capture_output=True, text=True, check=False)

    first = doctor()
    assert first.returncode == 1
    assert "migrations are due" in first.stdout
    ready = "from tarn.site.ready import ready; ready()"
    subprocess.run([sys.executable, "-c", ready], env={**os.environ, "TARN_HOME": str(tmp_path)}, check=True)
    told = doctor()
    assert told.returncode == 0, told.stdout + told.stderr
    assert "AMISS" not in told.stdout
    assert "installations" in told.stdout
