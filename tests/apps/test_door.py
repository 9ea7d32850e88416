"""The door: sightings to identity to spans, in any order, and rebuilt from the sightings alone."""

import json
import random

import pytest
from django.db import connection
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.door.prepare import differing_items
from tarn.apps.estate.door.rebuild import differences, exchange, rebuild_beside
from tarn.apps.estate.models import Asset, AssetSpan, FieldSpan, Identifier, InstallSpan, SectionBody, Sighting
from tarn.apps.estate.register.decide import rule
from tarn.apps.estate.store.database import raw_connection
from tarn.core.sightings import Sighting as Evidence
from tests.documents import START, packages, reading, sighting

SERIAL = {"serial": "HB-1001", "manufacturer": "Halberd"}


def installed(asset: int) -> set[tuple[str, str, int, int | None, bool]]:
    rows = InstallSpan.objects.filter(asset=asset).select_related("listing", "release")
    return {
        (
            r.listing.name,
            r.release.version,
            (r.valid_from - START) // 86_400,
            r.valid_to and (r.valid_to - START) // 86_400,
            r.initial,
        )
        for r in rows
    }


def truth(asset: int) -> list[tuple[object, ...]]:
    rows = AssetSpan.objects.filter(asset=asset).order_by("valid_from")
    return [(r.valid_from, r.valid_to, r.name, r.memory, r.os_version) for r in rows]


@pytest.mark.django_db
def test_what_is_new_opens_what_is_gone_closes_what_stays_is_left_alone():
    list(take_in([sighting("h", 0, identity=SERIAL, packages=packages(a="1", b="1"))]))
    list(take_in([sighting("h", 3, identity=SERIAL, packages=packages(a="2", c="1"))]))
    asset = Asset.objects.get()
    assert installed(asset.pk) == {
        ("a", "1", 0, 3, True),
        ("b", "1", 0, 3, True),
        ("a", "2", 3, None, False),
        ("c", "1", 3, None, False),
    }
    assert asset.packages == 2


@pytest.mark.django_db
def test_a_cut_short_reading_closes_nothing_and_the_next_whole_one_does():
    list(take_in([sighting("h", 0, identity=SERIAL, packages=packages(a="1", b="1"))]))
    cut = reading("packages", packages(a="1"), complete=False, note="cut off")
    list(take_in([sighting("h", 1, identity=SERIAL, packages=cut)]))
    assert {i[3] for i in installed(1)} == {None}
    list(take_in([sighting("h", 2, identity=SERIAL, packages=packages(a="1"))]))
    assert ("b", "1", 0, 2, True) in installed(1)


@pytest.mark.django_db
def test_the_same_document_twice_is_taken_in_once():
    one = sighting("h", 0, identity=SERIAL)
    assert [t.verdict for t in take_in([one, one])] == ["new", "already held"]
    assert [t.verdict for t in take_in([one])] == ["already held"]
    assert Sighting.objects.count() == 1


@pytest.mark.django_db
def test_what_follows_a_document_told_twice_in_a_batch_is_taken_for_itself():
    one, other = (sighting(name, 0, identity={"serial": name}) for name in ("HB-1", "HB-2"))
    assert [t.verdict for t in take_in([one, one, other])] == ["new", "already held", "new"]
    assert set(AssetSpan.objects.values_list("name", flat=True)) == {"HB-1", "HB-2"}
    assert set(Sighting.objects.values_list("document", flat=True)) == {one.id, other.id}


@pytest.mark.django_db
def test_an_unchanged_section_is_stored_once_and_only_confirmed():
    list(take_in([sighting("h", d, identity=SERIAL, packages=packages(a="1", b="2")) for d in range(5)]))
    bodies = SectionBody.objects.count()
    assert Sighting.objects.count() == 5
    assert bodies == 2
    assert InstallSpan.objects.count() == 2


@pytest.mark.django_db
def test_late_evidence_lands_where_it_belongs_in_time():
    days = {0: {"a": "1"}, 2: {"a": "1", "b": "1"}, 4: {"b": "1"}, 6: {"a": "2", "b": "1"}}

    def make(name: str, day: int) -> Evidence:
        facts = {"identity": {"serial": f"S-{name}"}, "hardware": {"memory": day << 30}}
        return sighting(name, day, **facts, packages=packages(**days[day]))

    list(take_in([make("first", d) for d in (0, 2, 4, 6)]))
    list(take_in([make("second", d) for d in (6, 0, 4, 2)]))
    one, other = Asset.objects.order_by("pk")
    assert installed(one.pk) == installed(other.pk)
    assert [t[:2] + t[3:] for t in truth(one.pk)] == [t[:2] + t[3:] for t in truth(other.pk)]
    assert one.last_seen == other.last_seen
    assert one.first_seen == other.first_seen


@pytest.mark.django_db
def test_a_lesser_collectors_list_does_not_displace_a_fuller_one_until_it_is_stale():
    list(take_in([sighting("h", 0, identity=SERIAL, packages=packages(quill="16"))]))
    short = reading("packages", [{"name": "quill-16"}], "snmp.software")
    list(take_in([sighting("h", 1, identity=SERIAL, packages=short)]))
    assert {i[0] for i in installed(1)} == {"quill"}
    list(take_in([sighting("h", 40, identity=SERIAL, packages=short)]))
    assert {i[0] for i in installed(1) if i[3] is None} == {"quill-16"}


@pytest.mark.django_db
def test_sources_that_disagree_are_both_kept_and_the_machine_is_believed():
    list(
        take_in(
            [
                sighting(
                    "h",
                    0,
                    kind="file",
                    source="list",
                    identity=SERIAL,
                    decision=reading("decision", {"memory": 32 << 30}, "file"),
                )
            ]
        )
    )
    list(take_in([sighting("h", 1, identity=SERIAL, hardware={"memory": 16 << 30})]))
    assert FieldSpan.objects.filter(field="memory", valid_to=None).count() == 2
    assert [t[3] for t in truth(1)] == [32 << 30, 16 << 30]


@pytest.mark.django_db
def test_a_batch_that_fails_leaves_nothing_behind(monkeypatch):
    from tarn.apps.estate.door import plan as module

    good = [sighting(f"h{i}", 0, identity={"serial": f"S-{i:04}"}) for i in range(3)]
    monkeypatch.setattr(module.Plan, "write", lambda self: (_ for _ in ()).throw(RuntimeError("power")))
    with pytest.raises(RuntimeError):
        list(take_in(good))
    monkeypatch.undo()
    assert not Sighting.objects.exists()
    assert not Identifier.objects.exists()
    assert [t.verdict for t in take_in(good)] == ["new"] * 3


@pytest.mark.django_db
def test_an_undecided_sighting_waits_and_a_ruling_settles_it_and_its_like(people):
    mac = {"a": "7c:1e:b0:00:00:01", "b": "7c:1e:b0:00:00:02"}
    uuid = "5a17c10e-0000-4000-a000-00000000c10e"
    list(take_in([sighting("app1", 0, identity={"uuid": uuid, "macs": [mac["a"]]}, packages=packages(x="1"))]))
    waiting = [
        sighting("app2", d, identity={"uuid": uuid, "macs": [mac["b"]]}, packages=packages(y="1"), address="10.60.4.7")
        for d in (30, 31)
    ]
    assert [t.verdict for t in take_in(waiting)] == ["undecided", "undecided"]
    assert Asset.objects.count() == 1
    rule(people["operator"], waiting[0].id, None)
    assert Asset.objects.count() == 2
    assert not Sighting.objects.filter(verdict="undecided").exists()
    assert {i[:2] for i in installed(2)} == {("y", "1")}


@pytest.mark.django_db(transaction=True)
def test_rebuild_reproduces_the_tables_and_finds_a_tampered_row(estate, tmp_path):
    db = raw_connection()
    rebuilt = rebuild_beside(db, tmp_path)
    assert differences(db, rebuilt) == []
    InstallSpan.objects.filter(valid_to=None).first().delete()
    AssetSpan.objects.filter(valid_to=None, memory=8 << 30).update(memory=1)
    assert {d.table for d in differences(db, rebuilt)} == {"estate_installspan", "estate_assetspan"}
    exchange(db, rebuilt)
    forget()
    assert differences(db, rebuilt) == []
    assert [
        t.verdict
        for t in take_in([sighting("salt-tix-01", 11, identity={"serial": "HB-1001", "manufacturer": "Halberd"})])
    ] == ["same"]


_stories = st.lists(
    st.tuples(
        st.integers(0, 8), st.dictionaries(st.sampled_from("abc"), st.sampled_from("12"), max_size=3), st.booleans()
    ),
    min_size=1,
    max_size=6,
    unique_by=lambda s: s[0],
)


class AnyOrder(TestCase):
    """Whatever order and whatever batches sightings come in, the end state is the same."""

    @settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(_stories, st.integers(0, 10**6), st.integers(1, 4))
    def test_order_and_batches_do_not_matter(self, story, seed, size):
        forget()

        def make(name: str, told: tuple[int, dict[str, str], bool]) -> Evidence:
            some = reading("packages", packages(**told[1]), complete=told[2])
            return sighting(name, told[0], identity={"serial": f"S-{name}"}, packages=some)

        ordered = sorted(story)
        list(take_in([make("straight", s) for s in ordered]))
        shuffled = list(story)
        random.Random(seed).shuffle(shuffled)
        for i in range(0, len(shuffled), size):
            list(take_in([make("shuffled", s) for s in shuffled[i : i + size]]))
        one, other = Asset.objects.order_by("pk")
        assert installed(one.pk) == installed(other.pk)
        assert connection.in_atomic_block


@pytest.mark.parametrize(
    ("before", "after", "gone", "come"),
    [
        ([{"name": "a"}, {"name": "b"}], [{"name": "b"}, {"name": "c"}], ["a"], ["c"]),
        ([], [{"name": "a"}], [], ["a"]),
        ([{"name": "a"}], [], ["a"], []),
        ([{"name": 'x},{"y'}, {"name": "b"}], [{"name": "b"}], ['x},{"y'], []),
        ([{"name": "x},{y"}, {"name": "b"}], [{"name": "x},{y"}, {"name": "c"}], ["b"], ["c"]),
    ],
)
def test_lists_are_compared_by_their_text_whatever_stands_in_it(before, after, gone, come):
    bodies = [json.dumps({"items": items}, separators=(",", ":")).encode() for items in (before, after)]
    held, said = differing_items(*bodies)
    assert ([i["name"] for i in held], [i["name"] for i in said]) == (gone, come)


@pytest.mark.django_db(transaction=True)
def test_what_a_callers_rolled_back_transaction_took_in_is_forgotten():
    from django.db import transaction

    with transaction.atomic():
        list(take_in([sighting("h", 0, identity=SERIAL, packages=packages(a="1"))]))
        transaction.set_rollback(True)
    assert not Asset.objects.exists()
    (taken,) = take_in([sighting("h", 1, identity=SERIAL, packages=packages(a="1"))])
    assert taken.verdict == "new"
    assert Identifier.objects.filter(asset=taken.asset).exists()
    assert installed(taken.asset)


@pytest.mark.django_db
def test_later_evidence_settles_what_was_undecided_and_no_order_is_better():
    """A name under other hardware addresses waits; a sighting with both addresses shows that it is one device."""
    macs = ["7c:1e:b0:00:00:01", "7c:1e:b0:00:00:02"]
    story = [
        sighting("pc-1", 0, identity={"macs": macs[:1], "serial": "HB-1001"}, address="10.60.4.5"),
        sighting("pc-1", 30, identity={"macs": macs[1:]}, address="10.60.4.5"),
        sighting("pc-1", 60, identity={"macs": macs, "serial": "HB-1001"}, address="10.60.4.5"),
    ]
    taken = list(take_in(story[:2]))
    assert [t.verdict for t in taken] == ["new", "undecided"]
    list(take_in(story[2:]))
    assert not Sighting.objects.filter(verdict="undecided").exists()
    assert set(Sighting.objects.values_list("asset", flat=True)) == {taken[0].asset}
    assert Asset.objects.get().first_seen == story[0].second
