"""States on disk at any size: a process that begins, one that carries on, what either keeps for itself."""

import json
import os
import sqlite3
import subprocess
import sys
from collections.abc import Callable, Iterator
from itertools import chain
from typing import Any

import numpy as np

from tarn.apps.estate.software.installs import installs, keep_on_disk
from tarn.apps.estate.store.database import begin_generation, raw_connection
from tarn.apps.estate.store.remembered import forget
from tests.bench.figures import Figure, best, timed

EACH = 135
"""Installations a device has."""
RELEASES, PRODUCTS = 12_000, 4_000
START = 1_790_000_000

BEGINNING = """
import json, time, sys
from tarn.site.ready import configure
configure()
began = time.perf_counter()
import numpy as np
from tarn.apps.estate.software.installs import installs
held = installs(None)
found = int(held.counted(("product",), np.ones(held.most, dtype=bool), 20_000).sum())
took = time.perf_counter() - began
own = sum(int(line.split()[1]) for line in open("/proc/self/smaps_rollup") if line.startswith("Private"))
print(json.dumps([took, found, own / 1e3]))
"""


def build(devices: int, say: Callable[[str], None]) -> None:
    """Fill what is installed where, and nothing else: as many rows as an estate of that size has."""
    db = raw_connection()
    say(f"installing {devices * EACH:,} releases on {devices:,} devices")
    db.execute("BEGIN")
    db.executemany(
        "INSERT INTO estate_source (id, kind, name) VALUES (?, 'sweep', 'bench') ON CONFLICT DO NOTHING", [(9001,)]
    )
    _fill(db, "estate_product", PRODUCTS, id="?1", name="'bench-' || ?1", publisher="'bench'", key="'bench-' || ?1")
    _fill(
        db,
        "estate_listing",
        PRODUCTS,
        id="?1",
        name="'bench-' || ?1",
        publisher="'bench'",
        product_id="?1",
        role="'product'",
        understood="1",
        why="'[]'",
    )
    _fill(db, "estate_release", RELEASES, id="?1", listing_id=f"1 + ?1 % {PRODUCTS}", version="?1", version_key="?1")
    indexes = db.execute(
        "SELECT name, sql FROM sqlite_master WHERE tbl_name = 'estate_installspan' AND type = 'index' AND sql IS NOT NULL"
    ).fetchall()
    for name, _ in indexes:
        db.execute(f"DROP INDEX {name}")
    db.executemany(
        "INSERT INTO estate_installspan (asset_id, source_id, listing_id, release_id, valid_from, initial) VALUES (?, 9001, ?, ?, ?, 1)",
        _rows(devices),
    )
    say("indexing them")
    for _, sql in indexes:
        db.execute(sql)
    begin_generation(db)
    db.execute("COMMIT")


def _fill(db: sqlite3.Connection, table: str, rows: int, **values: str) -> None:
    """Fill a table with numbered rows; what is not said of a column is empty text, and keys are numbers."""
    named = [row[1] for row in db.execute(f"PRAGMA table_info({table})")]
    chosen = ", ".join(values.get(name, "'k' || ?1" if name.endswith(("fold", "key")) else "''") for name in named)
    db.executemany(f"INSERT INTO {table} ({', '.join(named)}) SELECT {chosen}", ((n,) for n in range(1, rows + 1)))


def _rows(devices: int) -> Iterator[tuple[int, int, int, int]]:
    chance = np.random.default_rng(7)
    for asset in range(1, devices + 1):
        some = np.unique((RELEASES * chance.random(EACH) ** 2).astype(int) + 1)
        for release in some.tolist():
            yield asset, 1 + release % PRODUCTS, release, START


def _read_again(some: range, at: int) -> None:
    """Have devices told anew, as the door does: a sighting each, and one release exchanged for another."""
    db = raw_connection()
    db.execute("BEGIN")
    named = [row[1] for row in db.execute("PRAGMA table_info(estate_sighting)") if row[1] != "id"]
    values = {
        "document": "?1",
        "source_id": "9001",
        "at": "?2",
        "received_at": "?2",
        "asset_id": "?3",
        "head": "'[]'",
        "verdict": "'same'",
        "reasons": "'[]'",
        "candidates": "'[]'",
        "clock_skew": "NULL",
    }
    chosen = ", ".join(values.get(name, "''") for name in named)
    db.executemany(
        f"INSERT INTO estate_sighting ({', '.join(named)}) SELECT {chosen}",
        ((f"bench-{at}-{asset}", at, asset) for asset in some),
    )
    db.executemany(
        "UPDATE estate_installspan SET valid_to = ? WHERE id = (SELECT max(id) FROM estate_installspan WHERE asset_id = ? AND valid_to IS NULL)",
        ((at, asset) for asset in some),
    )
    db.execute("COMMIT")


def _another() -> tuple[float, int, float]:
    """Have another process begin and answer; returns seconds, its answer, and the megabytes it keeps for itself."""
    told = subprocess.run(
        [sys.executable, "-c", BEGINNING], env=dict(os.environ), capture_output=True, text=True, check=True
    )
    took, found, own = json.loads(told.stdout.splitlines()[-1])
    return took, found, own


def measure(devices: int, say: Callable[[str], None]) -> list[Figure]:
    """Measure on a data of its own."""
    build(devices, say)
    _read_again(range(1, 101), START + 1)
    say("reading the state from the tables, once")
    made = timed(lambda: installs(None))
    mine = int(_counted())
    begun, found, own = _another()
    assert found == mine, (found, mine)
    _read_again(range(200, 300), START + 2)
    carried = timed(_counted)
    exact = _from_tables()
    assert int(_counted()) == exact, (int(_counted()), exact)
    _read_again(range(300, 400), START + 3)
    others, found, own_beside = _another()
    assert found == _from_tables()
    counting = best(_counted, 5)
    half = best(_half, 5)
    exchanged = timed(keep_on_disk)
    forget()
    again = timed(_counted)
    rows = f"{devices * EACH / 1e6:.2f} million installations"
    note = f"from the tables {made:.1f} s; exchanged whole in {exchanged:.2f} s; counting products {counting * 1e3:.0f} ms, of half {half * 1e3:.0f} ms"
    return [
        Figure("state_first_answer", max(begun, again), "s of a process that begins", "<= 1", f"{rows}; {note}"),
        Figure("state_carried_on", carried, "s after 100 devices", "<= 0.5", rows),
        Figure("state_other_process", others, "s, begun after 100 more", "<= 1", rows),
        Figure("state_own_memory", max(own, own_beside), "MB a process keeps", "<= 250", rows),
    ]


def _counted() -> int:
    held = installs(None)
    return int(held.counted(("product",), np.ones(held.most, dtype=bool), 20_000).sum())


def _half() -> Any:
    held = installs(None)
    return held.counted(("product",), np.arange(held.most) % 2 == 0, 20_000)


def _from_tables() -> int:
    """How many pairs of device and product there are, by the tables alone."""
    cursor = raw_connection().execute(
        "SELECT i.asset_id << 32 | (i.listing_id) FROM estate_installspan i WHERE i.valid_to IS NULL"
    )
    return len(np.unique(np.fromiter(chain.from_iterable(cursor), dtype=np.int64)))
