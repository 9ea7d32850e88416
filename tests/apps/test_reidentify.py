"""Merging and splitting: what is known moves, later evidence follows, both can be undone and are rebuilt."""

import random

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.door.rebuild import differences, rebuild_beside
from tarn.apps.estate.models import Asset, AssetSpan, InstallSpan, Sighting
from tarn.apps.estate.register.decide import NothingDecided, decide
from tarn.apps.estate.register.reidentify import merge, split
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.undo import CannotUndo, undo
from tests.documents import packages, sighting

pytestmark = pytest.mark.django_db(transaction=True)


def seen(name, day, serial, **rest):
    return sighting(name, day, identity={"serial": serial, "manufacturer": "Halberd"}, **rest)


@pytest.fixture
def two(people):
    """One laptop taken for two: its board was exchanged, so it has another serial and another name."""
    taken = list(
        take_in(
            [
                seen("salt-lt-90", 0, "HB-1", packages=packages(a="1"), hardware={"memory": 8 << 30}),
                seen("salt-lt-91", 5, "HB-2", packages=packages(a="2"), hardware={"memory": 16 << 30}),
            ]
        )
    )
    first, second = (t.asset for t in taken)
    decide(people["operator"], [first], {"standing": "register", "person": "Una Skerry"}, "adopted")
    return first, second


def held(asset):
    span = AssetSpan.objects.filter(asset=asset, valid_to=None).first()
    software = InstallSpan.objects.filter(asset=asset, valid_to=None).values_list("release__version", flat=True)
    return span and (span.name, span.memory, sorted(software), Sighting.objects.filter(asset=asset).count())


def rebuilt_alike(tmp_path):
    db = raw_connection()
    return differences(db, rebuild_beside(db, tmp_path)) == []


def test_merged_they_are_one_history_and_later_evidence_of_either_finds_it(people, two, tmp_path):
    first, second = two
    merge(people["operator"], first, second)
    assert held(second) is None
    assert held(first) == ("salt-lt-91", 16 << 30, ["2"], 3)
    spans = InstallSpan.objects.filter(asset=first).values_list("release__version", "valid_to")
    assert sorted(v for v, end in spans if end) == ["1"]
    later = list(take_in([seen("salt-lt-90", 8, "HB-1"), seen("salt-lt-91", 9, "HB-2")]))
    assert [t.asset for t in later] == [first, first]
    assert rebuilt_alike(tmp_path)


def test_a_merge_is_undone_and_done_again(people, two, tmp_path):
    first, second = two
    before = held(first), held(second)
    entry = merge(people["operator"], first, second)
    back = undo(people["operator"], entry)
    assert (held(first), held(second)) == before
    assert [t.asset for t in take_in([seen("salt-lt-91", 9, "HB-2")])] == [second]
    undo(people["operator"], back.pk)
    assert held(second) is None
    with pytest.raises(CannotUndo):
        undo(people["operator"], back.pk)
    assert rebuilt_alike(tmp_path)


def test_split_off_sightings_become_an_asset_of_their_own_and_come_back(people, two, tmp_path):
    first, second = two
    merge(people["operator"], first, second)
    wrong = [s.document for s in Sighting.objects.filter(asset=first) if "91" in s.document]
    made, entry = split(people["operator"], first, wrong)
    assert made not in two
    assert held(made)[:3] == ("salt-lt-91", 16 << 30, ["2"])
    assert held(first)[:3] == ("salt-lt-90", 8 << 30, ["1"])
    undo(people["operator"], entry)
    assert held(made) is None
    assert held(first)[3] == 3
    assert rebuilt_alike(tmp_path)


def test_what_cannot_be_merged_or_split_is_refused_and_nothing_changes(people, two):
    first, second = two
    before = held(first), held(second)
    documents = list(Sighting.objects.filter(asset=second).values_list("document", flat=True))
    for wrong in (
        lambda: merge(people["operator"], first, first),
        lambda: merge(people["operator"], first, 999),
        lambda: split(people["operator"], first, []),
        lambda: split(people["operator"], first, documents),
        lambda: split(people["operator"], second, documents),
    ):
        with pytest.raises(NothingDecided):
            wrong()
    assert (held(first), held(second)) == before


def test_over_the_api_and_only_for_who_may_decide(as_role, two):
    first, second = two
    body = {"other": second}
    call = f"/api/assets/{first}/merge"
    assert as_role("viewer").post(call, body, content_type="application/json").status_code == 403
    answer = as_role("operator").post(call, body, content_type="application/json")
    assert answer.status_code == 200
    entry = answer.json()["entry"]
    assert as_role("operator").post(f"/api/audit/{entry}/undo").status_code == 200
    assert as_role("operator").post(call, {"other": 999}, content_type="application/json").status_code == 422


@pytest.mark.parametrize("seed", range(5))
def test_any_sequence_of_merges_splits_and_undos_rebuilds_to_the_same(people, tmp_path, seed):
    chance = random.Random(seed)
    list(take_in([seen(f"pc-{i}", i, f"HB-{i}", packages=packages(a=str(i))) for i in range(5)]))
    entries = []
    for step in range(8):
        living = [a.pk for a in Asset.objects.all() if Sighting.objects.filter(asset=a.pk).exists()]
        what = chance.choice(["merge", "split", "undo", "see"])
        try:
            if what == "merge":
                entries.append(merge(people["operator"], *chance.sample(living, 2)))
            elif what == "split":
                asset = chance.choice(living)
                documents = list(Sighting.objects.filter(asset=asset).values_list("document", flat=True))
                entries.append(split(people["operator"], asset, chance.sample(documents, 1))[1])
            elif what == "undo" and entries:
                undo(people["operator"], entries.pop())
            else:
                number = chance.randrange(5)
                list(take_in([seen(f"pc-{number}", 20 + step, f"HB-{number}", packages=packages(b="1"))]))
        except (NothingDecided, ValueError):
            continue
    assert rebuilt_alike(tmp_path)


def test_a_sighting_that_holds_both_halves_joins_what_was_known_by_parts_only(people, tmp_path):
    by_address = by_part("phones", 0)
    by_serial = sighting(
        "KITT-PC-90", 1, source="list", kind="file", identity={"serial": "HB-90", "manufacturer": "Halberd"}
    )
    first, second = (t.asset for t in take_in([by_address, by_serial]))
    assert first != second
    decide(people["operator"], [second], {"standing": "register", "person": "Una Skerry"}, "adopted")
    whole = sighting(
        "kitt-pc-90", 2, identity={"serial": "HB-90", "manufacturer": "Halberd", "macs": [MAC, "7c:1e:b0:00:00:91"]}
    )
    taken = next(iter(take_in([whole])))
    assert "joins 1 more" in " ".join(taken.reasons)
    other = first if taken.asset == second else second
    assert held(other) is None
    assert Sighting.objects.filter(asset=taken.asset).count() == 4
    assert [t.asset for t in take_in([by_part("phones", 3), by_part("list", 4)])] == [taken.asset] * 2
    assert rebuilt_alike(tmp_path)


MAC = "7c:1e:b0:00:00:90"


def by_part(source, day):
    if source == "phones":
        known = {"macs": [MAC], "instance": "mdm-90"}
        return sighting("Una's laptop", day, source="phones", kind="device management", identity=known)
    return sighting(
        "KITT-PC-90", day, source="list", kind="file", identity={"serial": "HB-90", "manufacturer": "Halberd"}
    )


def test_a_sighting_does_not_join_what_speaks_against_it(people):
    a = sighting(
        "kitt-pc-91",
        0,
        source="dir",
        kind="directory",
        identity={"domain": "s.example", "serial": "HB-1", "manufacturer": "Halberd"},
    )
    b = sighting("other", 1, identity={"serial": "HB-2", "manufacturer": "Halberd"})
    list(take_in([a, b]))
    c = sighting("kitt-pc-91", 2, identity={"serial": "HB-2", "manufacturer": "Halberd", "domain": "s.example"})
    list(take_in([c]))
    assert Asset.objects.count() == 2
    assert set(Sighting.objects.values_list("asset_id", flat=True)) == {1, 2}
