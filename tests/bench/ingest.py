"""Ingest and identity against their floors: bare executemany, a bare SQL diff, bare dictionary look-ups."""

import sqlite3
import tempfile
from collections.abc import Iterator
from pathlib import Path

from tarn.apps.estate.door import entrance as door_module
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.door.index import IdentityIndex
from tarn.apps.estate.store.database import raw_connection
from tarn.core.identifiers import identifiers
from tarn.core.identity import match
from tarn.core.sections import Identity
from tarn.core.signs import KnownAsset
from tests.bench.figures import Figure, best, timed
from tests.bench.synthetic import document, sightings

SAMPLE = 1000
TABLES = (
    "estate_installspan",
    "estate_fieldspan",
    "estate_assetspan",
    "estate_addressesspan",
    "estate_interfacesspan",
    "estate_disksspan",
    "estate_sectionstate",
    "estate_sourceseen",
    "estate_identifier",
    "estate_sighting",
    "estate_sectionbody",
    "estate_asset",
    "estate_term",
    "estate_listing",
    "estate_release",
)


def _empty_copy(db: sqlite3.Connection) -> sqlite3.Connection:
    """Return a database file with the same tables and indexes, and nothing in them."""
    path = Path(tempfile.mkdtemp(prefix="floor-")) / "floor.sqlite3"
    floor = sqlite3.connect(path, isolation_level=None)
    floor.execute("PRAGMA journal_mode=WAL")
    floor.execute("PRAGMA synchronous=NORMAL")
    floor.execute("PRAGMA cache_size=-65536")
    for (statement,) in db.execute(
        "SELECT sql FROM sqlite_master WHERE tbl_name LIKE 'estate_%' AND sql IS NOT NULL ORDER BY type DESC"
    ):
        floor.execute(statement)
    return floor


def first_ingest() -> Figure:
    """Rows a second through the door, against the same rows by bare executemany into the same tables."""
    documents = [document(n) for n in range(SAMPLE)]
    from tarn.core.sightings import read_sighting

    seconds = timed(lambda: list(take_in(read_sighting(d) for d in documents)))
    db = raw_connection()
    rows = {t: db.execute(f"SELECT * FROM {t}").fetchall() for t in TABLES}
    total = sum(len(r) for r in rows.values())
    floor = _empty_copy(db)

    def bare() -> None:
        # A transaction a hundred devices, as the door has it.
        step = {t: max(1, len(r) * 100 // SAMPLE) for t, r in rows.items()}
        for part in range(SAMPLE // 100):
            floor.execute("BEGIN IMMEDIATE")
            for table, several in rows.items():
                some = several[part * step[table] : (part + 1) * step[table]]
                if some:
                    floor.executemany(f"INSERT INTO {table} VALUES ({','.join('?' * len(some[0]))})", some)
            floor.execute("COMMIT")

    bare_seconds = timed(bare)
    floor.close()
    note = f"{total / seconds:,.0f} rows/s from document to spans; bare {total / bare_seconds:,.0f}"
    return Figure("first_ingest", bare_seconds / seconds, "of bare rows/s", ">= 0.25", note)


def again() -> Figure:
    """Devices a second when three packages of 150 changed, against a bare SQL diff of the same lists."""
    from tarn.core.sightings import read_sighting

    db = raw_connection()
    documents = [document(n, 1) for n in range(SAMPLE)]
    release = {(p, v): r for p, v, r in db.execute(
        "SELECT p.name, r.version, r.id FROM estate_release r JOIN estate_listing p ON p.id = r.listing_id")}  # fmt: skip
    floor = _empty_copy(db)
    held = db.execute(
        "SELECT asset_id, source_id, listing_id, release_id, valid_from, valid_to, initial FROM estate_installspan"
    ).fetchall()
    insert = (
        "INSERT INTO estate_installspan (asset_id, source_id, listing_id, release_id, valid_from, valid_to, initial) "
        "VALUES (?, ?, ?, ?, ?, ?, ?)"
    )
    floor.executemany(insert, held)
    floor.execute("CREATE TEMP TABLE said (asset_id INTEGER, release_id INTEGER, PRIMARY KEY (asset_id, release_id))")
    fresh = max(release.values()) + 1
    lists = []
    for n, d in enumerate(documents):
        for i, p in enumerate(d["readings"][-1]["items"]):
            number = release.get((p["name"], p["version"]), fresh + i) if i >= 3 else fresh + n * 3 + i
            lists.append((n + 1, number))

    def bare() -> None:
        for part in range(0, SAMPLE, 100):
            floor.execute("BEGIN IMMEDIATE")
            floor.execute("DELETE FROM said")
            floor.executemany("INSERT INTO said VALUES (?, ?)", lists[part * 150 : (part + 100) * 150])
            low, high = part + 1, part + 100
            floor.execute(
                "UPDATE estate_installspan SET valid_to = 1 WHERE valid_to IS NULL AND asset_id BETWEEN ? AND ? AND NOT EXISTS "
                "(SELECT 1 FROM said s WHERE s.asset_id = estate_installspan.asset_id AND s.release_id = estate_installspan.release_id)",
                (low, high),
            )
            floor.execute(
                "INSERT INTO estate_installspan (asset_id, source_id, listing_id, release_id, valid_from, valid_to, initial) "
                "SELECT s.asset_id, 1, 1, s.release_id, 2, NULL, 0 FROM said s WHERE NOT EXISTS (SELECT 1 FROM estate_installspan i "
                "WHERE i.valid_to IS NULL AND i.asset_id = s.asset_id AND i.release_id = s.release_id)"
            )
            floor.execute("COMMIT")

    bare_seconds = timed(bare)
    floor.close()
    seconds = timed(lambda: list(take_in(read_sighting(d) for d in documents)))
    note = f"{SAMPLE / seconds:,.0f} devices/s from document to spans; bare diff {SAMPLE / bare_seconds:,.0f}"
    return Figure("re_ingest", bare_seconds / seconds, "of bare devices/s", ">= 0.5", note)


def identity(devices: int) -> Figure:
    """Identity of 5,000 sightings against the whole register, against bare dictionary look-ups of the same keys."""
    index = IdentityIndex()
    index.refresh(raw_connection())
    found = []
    for n in range(5000):
        facts = document(n * 7 % devices)["readings"][0]["facts"]
        found.append(identifiers(Identity(**facts)))
    bare = dict(index._held)
    held = index.held

    def nothing(asset: int) -> KnownAsset:
        raise AssertionError("no candidate should need weighing here")

    def ours() -> None:
        for some in found:
            assert match(some, held, nothing, address=None, at=0).verdict == "same"

    def floor() -> None:
        for some in found:
            for identifier in some:
                bare.get(identifier.key)

    ours_seconds, floor_seconds = best(ours, 5), best(floor, 5)
    note = f"{5000 / ours_seconds:,.0f} sightings/s with explanation, over {len(bare):,} identifiers"
    return Figure("identity", ours_seconds / floor_seconds, "× bare look-ups", "<= 3", note)


def build(devices: int, say: "object") -> None:
    """Hand in the rest of the estate."""
    done = SAMPLE

    def counted() -> Iterator[object]:
        nonlocal done
        for s in sightings(SAMPLE, devices):
            yield s
            done += 1
            if done % 2000 == 0:
                say(f"{done:,} of {devices:,} devices")  # type: ignore[operator]

    for _ in take_in(counted()):  # type: ignore[arg-type]
        pass
    door_module.forget()
    raw_connection().execute("ANALYZE")
