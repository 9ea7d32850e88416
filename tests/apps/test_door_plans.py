"""The door's plans: where one ends and the next begins shows in nothing that is held."""

import json
import random
import sqlite3
import uuid
from datetime import UTC, datetime

import pytest

from tarn.apps.estate.door import take_in as module
from tarn.apps.estate.door.take_in import Door
from tarn.apps.estate.models import Asset, FieldSpan, Sighting
from tarn.apps.estate.store.database import raw_connection
from tarn.core.sightings import read_sighting
from tests.documents import packages, sighting
from tests.generated import hostile

RECEIVED = 1_900_000_000
HELD = (
    "SELECT document, asset_id, verdict, candidates FROM estate_sighting ORDER BY document",
    "SELECT asset_id, s.name, field, value, valid_from, valid_to, initial FROM estate_fieldspan f "
    "JOIN estate_source s ON s.id = f.source_id ORDER BY 1, 2, 3, 5, 4",
    "SELECT asset_id, valid_from, valid_to, name_fold, address, serial FROM estate_assetspan ORDER BY 1, 2",
    "SELECT id, number, first_seen, last_seen, sources, packages, guess, sure FROM estate_asset ORDER BY 1",
    "SELECT key, asset_id FROM estate_identifier ORDER BY 1, 2",
    "SELECT asset_id, l.name, r.version, valid_from, valid_to FROM estate_installspan i JOIN estate_listing l "
    "ON l.id = i.listing_id JOIN estate_release r ON r.id = i.release_id ORDER BY 1, 2, 3, 4",
)


@pytest.fixture
def empty(db, tmp_path):
    """A way to a database with the estate's tables and nothing in them."""
    schema = [
        statement
        for (statement,) in raw_connection().execute(
            "SELECT sql FROM sqlite_master WHERE tbl_name LIKE 'estate_%' AND sql IS NOT NULL ORDER BY type DESC"
        )
    ]

    def make() -> sqlite3.Connection:
        made = sqlite3.connect(tmp_path / f"{uuid.uuid4().hex}.sqlite3", isolation_level=None)
        made.execute("PRAGMA synchronous=OFF")
        for statement in schema:
            made.execute(statement)
        return made

    return make


def held_of(fresh, sightings, size):
    """Take sightings in, so many a batch, and return everything that is held then."""
    door = Door()
    for start in range(0, len(sightings), size):
        fresh.execute("BEGIN IMMEDIATE")
        door.take_in(fresh, sightings[start : start + size], RECEIVED)
        fresh.execute("COMMIT")
    told = [fresh.execute(statement).fetchall() for statement in HELD]
    fresh.close()
    return told


def documents(devices, seed):
    """Return a hostile set's sightings, out of order."""
    out = [
        read_sighting(
            {
                "schema": "tarn.sighting/1",
                "id": f"hostile-{number:05d}",
                "source": {"kind": seen.kind, "name": seen.kind},
                "at": datetime.fromtimestamp(1_700_000_000 + seen.at, UTC).isoformat(),
                "address": seen.address,
                "readings": [
                    {
                        "section": "identity",
                        "collector": "ssh",
                        "facts": json.loads(seen.identity.model_dump_json(exclude_none=True, exclude_defaults=True)),
                    }
                ],
            }
        )
        for number, seen in enumerate(hostile(devices, seed))
    ]
    random.Random(seed).shuffle(out)
    return out


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_hostile_set_out_of_order_comes_out_alike_in_any_batches(empty, seed):
    told = documents(90, seed)
    whole = held_of(empty(), told, len(told))
    assert len({asset for _, asset, *_ in whole[0] if asset}) > 80
    for size in (1, 17):
        assert held_of(empty(), told, size) == whole


def several(*days, **more):
    """Return a computer's sightings on some days, a package renewed each day."""
    serial = {"serial": "HB-1001", "manufacturer": "Halberd"}
    return [sighting("h", d, identity=serial, packages=packages(a=str(d), b="1"), **more) for d in days]


def test_two_lists_of_one_device_in_a_batch_are_told_one_after_the_other(empty):
    straight = held_of(empty(), several(0, 1, 2, 3), 1)
    assert held_of(empty(), several(0, 1, 2, 3), 4) == straight
    spans = [(name, version, to is not None) for _, name, version, _, to in straight[5]]
    assert spans == [("a", "0", True), ("a", "1", True), ("a", "2", True), ("a", "3", False), ("b", "1", False)]


def test_evidence_of_the_past_amid_a_batch_is_told_in_its_place(empty):
    mixed = several(0, 5, 2, 6, 1)
    together, apart = held_of(empty(), mixed, 5), held_of(empty(), mixed, 1)
    assert together == apart
    assert together[1:] == held_of(empty(), sorted(mixed, key=lambda s: s.second), 5)[1:]


def test_an_asset_of_the_past_is_derived_anew_once_a_batch(empty, monkeypatch):
    derived = []
    anew = module.derive_anew

    def counted(db, memory, assets):
        derived.extend(assets)
        anew(db, memory, assets)

    monkeypatch.setattr(module, "derive_anew", counted)
    held_of(empty(), several(0, 9, 3, 4, 2, 5, 1), 7)
    assert derived == [1]


@pytest.mark.django_db
def test_who_it_may_be_stands_apart_from_why_nobody_can_say():
    from tarn.apps.estate.door.entrance import take_in

    uid = "5a17c10e-0000-4000-a000-00000000c10e"
    first = sighting("app1", 0, identity={"uuid": uid, "macs": ["7c:1e:b0:00:00:01"]})
    other = sighting("app2", 30, identity={"uuid": uid, "macs": ["7c:1e:b0:00:00:02"]}, address="10.60.4.7")
    new, undecided = take_in([first, other])
    assert (new.verdict, undecided.verdict, list(undecided.candidates)) == ("new", "undecided", [new.asset])
    stored = Sighting.objects.get(verdict="undecided")
    assert json.loads(stored.candidates) == [new.asset]
    assert not any("candidate" in reason for reason in json.loads(stored.reasons))
    assert Asset.objects.count() == 1
    assert FieldSpan.objects.filter(asset=new.asset, value='"app2"').count() == 0
