"""Members remembered: whatever comes in, they are those who answer the filter now."""

import pytest
from django.db import transaction
from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.branches.inputs import PlacedIn
from tarn.apps.estate.branches.place import place
from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.selections import membership
from tarn.apps.estate.selections.inputs import PhraseIn, SetIn
from tarn.apps.estate.selections.keep import change_set, keep_set
from tarn.apps.estate.selections.keep_phrases import save_phrase
from tarn.apps.estate.selections.membership import members_of
from tarn.core.fields import FIELDS
from tests.documents import packages, sighting

FILTERS = (
    "standing != none and memory >= 8GB",
    "standing != none and no software[product = quill]",
    "standing != none and not (software[product = tern] or place in (Saltholm))",
    "standing != none and last_seen > now - 9000d",
    "standing != none and sources >= 2",
)
events = st.lists(
    st.tuples(
        st.sampled_from(["pc-1", "pc-2", "pc-3"]),
        st.integers(0, 9),
        st.sampled_from([4, 8, 16]),
        st.dictionaries(st.sampled_from(["quill", "tern"]), st.just("1"), max_size=2),
        st.sampled_from(["night", "day"]),
        st.booleans(),
    ),
    min_size=1,
    max_size=8,
)


def right():
    for text in FILTERS:
        assert members_of(text) == set(ids(question(text))), text


@pytest.mark.django_db
@settings(max_examples=15)
@given(events)
def test_members_are_who_answers_whatever_came_in_between(told):
    forget()
    with transaction.atomic():
        for number, (name, day, memory, versions, source, look) in enumerate(told):
            document = sighting(
                name,
                day,
                source=source,
                identity={"serial": f"S-{name}"},
                hardware={"memory": memory << 30},
                placement={"place": "Saltholm" if memory == 8 else "Hook"},
                packages=packages(**versions),
                id=f"event-{number:04d}",
            )
            list(take_in([document]))
            if look:
                right()
        right()
        transaction.set_rollback(True)


@pytest.mark.django_db
def test_members_follow_what_is_defined_anew(people, estate):
    manager = people["manager"]
    held = keep_set(manager, SetIn(name="Servers", filter="kind = server"))
    nested = 'in set "Servers" and place in (Mainland)'
    assert members_of(nested) == frozenset()
    place(manager, PlacedIn.model_validate({"field": "place", "name": "Saltholm", "under": "Mainland"}))
    assert members_of(nested) == {estate[0]}
    change_set(manager, held.pk, SetIn.model_validate({"name": "Servers", "filter": "kind = laptop", "version": 1}))
    assert members_of(nested) == {estate[2]}
    save_phrase(manager, PhraseIn.model_validate({"name": "suites", "values": ["driftshare"]}))
    assert members_of("software[product in @suites]") == {estate[2]}
    save_phrase(manager, PhraseIn.model_validate({"name": "suites", "values": ["quill-office"]}), "suites")
    assert members_of("software[product in @suites]") == set(estate[:2])
    decide(manager, [estate[1]], {"standing": "set aside", "aside_reason": "gone"}, "set aside")
    assert members_of("software[product in @suites]") == {estate[0]}


@pytest.mark.django_db
def test_only_devices_with_new_evidence_are_asked_again(people, estate, monkeypatch):
    members_of("kind = server")
    asked = []
    monkeypatch.setattr(membership, "_among", lambda q, devices: asked.append(sorted(devices)) or [])
    monkeypatch.setattr(membership, "ids", lambda q: pytest.fail("all of it was asked again"))
    assert members_of("kind = server") == set(estate[:2])
    decide(people["operator"], [estate[0]], {"note": "x"}, "decided")
    assert members_of("kind = server") == {estate[1]}
    assert asked == [[estate[0]]]


def test_every_field_can_be_asked_with_and_without_the_asset_beside_its_span(estate):
    """A question says whether it needs the asset: where it says no, its statement runs without."""
    lean = 0
    for name in FIELDS:
        for at in (None, 1_790_000_100):
            asked = question(f"{name} != none", at)
            assert count(asked) == len(ids(asked))
            lean += "estate_asset a" not in asked.lean_source
    assert 0 < lean < 2 * len(FIELDS)
    assert question("last_seen > now - 1d").fleeting
    assert question("kind = server").rests_on == frozenset()


@pytest.mark.django_db
def test_a_guest_is_a_member_as_soon_as_its_host_tells_of_it():
    forget()
    uuid = "00000000-0000-4000-8000-000000000001"
    list(
        take_in(
            [
                sighting("web", identity={"serial": "S-web", "uuid": uuid}),
                sighting("host", identity={"serial": "S-host"}),
            ]
        )
    )
    text = "standing != none and guest of [standing != none and name = host]"
    assert members_of(text) == set()
    list(take_in([sighting("host", 1, identity={"serial": "S-host"}, guests=[{"uuid": uuid, "name": "web"}])]))
    assert members_of(text) == set(ids(question(text))) != set()
