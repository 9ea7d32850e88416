"""States of what is installed: carried on from the last they are what a fresh reading says; counts against a plain one."""

from collections import Counter

import numpy as np
import pytest
from django.db import transaction
from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.register.reidentify import merge
from tarn.apps.estate.software import installs as reads
from tarn.apps.estate.software.catalogue import catalogue
from tarn.core.naming import ROLES
from tests.documents import DAY, START, packages, sighting


def pairs(held):
    """What a state says is installed, wherever its parts lie."""
    found = []
    for part, wanted in held.parts(np.ones(held.most, dtype=bool)):
        mine = wanted[part.asset]
        found += zip(*(c[mine].tolist() for c in (part.asset, part.release, part.listing, part.product)), strict=True)
    return sorted(found)


def same(held, fresh):
    return pairs(held) == pairs(fresh)


events = st.lists(
    st.tuples(
        st.sampled_from(["pc-1", "pc-2", "pc-3"]),
        st.integers(0, 9),
        st.dictionaries(st.sampled_from(["quill", "driftshare", "tern"]), st.sampled_from(["1", "2"]), max_size=3),
        st.booleans(),
    ),
    min_size=1,
    max_size=8,
)


@pytest.mark.django_db
@settings(max_examples=15)
@given(events)
def test_a_state_carried_on_is_what_a_fresh_reading_says(told):
    forget()
    with transaction.atomic():
        _follow(told)
        transaction.set_rollback(True)


def _follow(told):
    past = START + 5 * DAY
    for number, (name, day, versions, look) in enumerate(told):
        document = sighting(
            name, day, identity={"serial": f"S-{name}"}, packages=packages(**versions), id=f"event-{number:04d}"
        )
        list(take_in([document]))
        if look:  # some states are skipped, so that several sightings lie between two
            for at in (None, past):
                assert same(reads.installs(at), reads._read_installs(at))


@pytest.mark.django_db
def test_after_a_merge_a_state_is_read_anew(people, estate):
    reads.installs(None)
    merge(people["manager"], estate[0], estate[1])
    assert same(reads.installs(None), reads._read_installs(None))


@pytest.mark.django_db
def test_counts_are_those_of_a_plain_count_whichever_part_is_the_lesser(people, estate):
    held = reads.installs(None)
    most = max(catalogue().products) + 1
    for chosen in ([], estate[:1], estate[:2], estate):
        wanted = np.zeros(held.most, dtype=bool)
        wanted[[a for a in chosen if a < held.most]] = True
        plain = Counter(t for _, t in {(a, t) for a, _, _, t in pairs(held) if a in chosen})
        counted = held.counted(ROLES, wanted, most)
        assert {t: n for t, n in enumerate(counted.tolist()) if n} == dict(plain)
