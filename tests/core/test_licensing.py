"""Licences: metrics by hand, rights by case, and the assignment against every possible one."""

from dataclasses import replace
from datetime import date
from itertools import product
from unittest.mock import patch

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.licensing import households
from tarn.core.licensing.assign import assign
from tarn.core.licensing.metrics import METRICS, MetricError, metric_of
from tarn.core.licensing.position import balances
from tarn.core.licensing.remedy import remedy
from tarn.core.licensing.rights import Licence, Use, may_cover

DAY = date(2026, 6, 1)


def licence(key=1, metric="device", quantity=10, products=(1,), **more):
    return Licence(key, f"L{key}", metric, quantity, frozenset(products), **more)


def use(key=1, product=1, release="16.2", device=1, **more):
    return Use(key, product, release, device, **more)


def units(terms, *uses):
    return metric_of(terms).units(terms, uses)[0]


@pytest.mark.parametrize(
    ("terms", "uses", "needed"),
    [
        # One device, whatever of a suite is on it.
        (licence(), [use(), use(2, 2)], 1),
        # Three devices of one person, two to a unit: 3 / 2 rounded up.
        (licence(second_device=True), [use(n, device=n, person="una") for n in (1, 2, 3)], 2),
        (licence(metric="named person"), [use(n, device=n, person="una") for n in (1, 2, 3)], 1),
        (licence(metric="processor"), [use(processors=2)], 2),
        # 2 processors × 6 = 12 cores, but at least 8 each: 16.
        (licence(metric="core", per_processor=8, pack=2), [use(processors=2, cores=12)], 16),
        (licence(metric="core", per_processor=8, pack=2), [use(processors=1, cores=12)], 12),
        # 11 cores in packs of 4.
        (licence(metric="core", pack=4), [use(processors=1, cores=11)], 12),
        (licence(metric="core", pack=2), [use()], 2),
        # The host's cores, where its units carry the guests.
        (licence(metric="core", guests="host"), [use(host=9, cores=4, host_cores=24, host_processors=2)], 24),
        # 5 guests of one host, 2 to a unit.
        (licence(metric="virtual machine", guests="host", per_host=2), [use(n, device=n, host=9) for n in range(5)], 3),
        (licence(metric="virtual machine"), [use()], 1),
        # 32 GB / 10, rounded up to whole units.
        (licence(metric="capacity unit", formula="memory / 10"), [use(facts={"memory": 32})], 4),
        (licence(metric="capacity unit", formula="memory / 10", pack=5), [use()], 5),
        (licence(metric="site", quantity=None), [use(), use(2, device=2)], 0),
        (licence(metric="activation"), [use()], 1),
        (licence(metric="concurrent use"), [use()], 1),
    ],
)
def test_units_of_one_bearer(terms, uses, needed):
    assert units(terms, *uses) == needed


def test_every_metric_explains_itself_and_an_unknown_one_is_refused():
    assert all(m.text and m.unit for m in METRICS.values())
    with pytest.raises(MetricError, match="“moonlight” is no metric"):
        assign([use()], [licence(metric="moonlight")], DAY)
    with pytest.raises(MetricError, match="no arithmetic"):
        assign([use()], [licence(metric="capacity unit", formula="open('x')")], DAY)


@pytest.mark.parametrize(
    ("terms", "of", "says"),
    [
        (licence(), use(), "as the product itself"),
        (licence(products=(1, 2)), use(), "as part of a suite"),
        (licence(products=(2,)), use(), "does not cover this product"),
        (licence(starts=date(2026, 6, 2)), use(), "begins on 2026-06-02"),
        (licence(ends=date(2026, 5, 31)), use(), "its term was over on 2026-05-31"),
        (licence(ends=DAY), use(), "as the product itself"),
        (licence(departments=frozenset({"fleet"})), use(department="Fleet"), "as the product itself"),
        (licence(departments=frozenset({"fleet"})), use(department="Accounts"), "for fleet alone"),
        (licence(metric="named person"), use(), "nobody is known to use it"),
        (licence(release="16"), use(release="16.2.1"), "as the product itself"),
        (licence(release="16"), use(release="160.1"), "newer than 16, and there is no maintenance"),
        (licence(release="16"), use(release="15.9"), "no downgrade right"),
        (licence(release="16", downgrade=True), use(release="15.9"), "by the right to older releases"),
        (licence(release="16", maintained_until=DAY), use(release="17", since=DAY), "by maintenance until"),
        (
            licence(release="16", maintained_until=date(2026, 1, 1)),
            use(release="17", since=date(2026, 1, 2)),
            "came after maintenance was over",
        ),
    ],
)
def test_what_a_right_reaches(terms, of, says):
    verdict = may_cover(terms, of, DAY)
    assert says in (verdict.right or verdict.reason)
    assert bool(verdict) == bool(verdict.right)


def test_the_broad_right_is_kept_for_what_nothing_else_covers():
    """One suite, one single licence; one device has both products, another the first alone."""
    suite, single = licence(1, quantity=1, products=(1, 2)), licence(2, quantity=1, products=(1,))
    uses = [use(1, 1, device=1), use(2, 2, device=1), use(3, 1, device=2)]
    assert assign(uses, [suite, single], DAY).licence_of == {1: 1, 2: 1, 3: 2}


def test_of_equal_cover_the_cheaper_is_drawn_on():
    dear, cheap = licence(1, price=900), licence(2, price=100)
    assert assign([use()], [dear, cheap], DAY).licence_of == {1: 2}


def test_a_pin_stands_and_comes_first_where_rights_run_out():
    dear, cheap = licence(1, quantity=1, price=900), licence(2, price=100, quantity=0)
    uses = [use(1, device=1, since=date(2020, 1, 1)), use(2, device=2, since=date(2026, 1, 1))]
    assert assign(uses, [dear, cheap], DAY).licence_of == {1: 1}
    assert assign(uses, [dear, cheap], DAY, pins={2: 1}).licence_of == {2: 1}


def test_some_guests_of_a_host_are_covered_where_units_do_not_reach_for_all():
    """Three guests, two to a unit, one unit: two are covered."""
    terms = licence(metric="virtual machine", guests="host", per_host=2, quantity=1)
    held = assign([use(n, device=n, host=9, virtual=True) for n in (1, 2, 3)], [terms], DAY)
    assert (len(held.licence_of), held.used(1)) == (2, 1)


def test_some_devices_of_a_person_are_covered_where_units_do_not_reach_for_all():
    terms = licence(second_device=True, quantity=2)
    held = assign([use(n, device=n, person="una") for n in range(1, 8)], [terms], DAY)
    assert (len(held.licence_of), held.used(1)) == (4, 2)


def test_at_once_counts_the_peak_and_covers_everybody():
    terms = licence(metric="concurrent use", quantity=5)
    held = assign([use(n, device=n) for n in range(20)], [terms], DAY, peaks={1: 6})
    assert len(held.licence_of) == 20
    assert held.used(1) == 6


licences_ = st.lists(
    st.builds(
        lambda metric, quantity, products, price, second: (metric, quantity, products, price, second),
        st.sampled_from(["device", "named person", "core", "site", "virtual machine"]),
        st.integers(0, 5),
        st.frozensets(st.integers(1, 3), min_size=1),
        st.integers(0, 3),
        st.booleans(),
    ),
    min_size=1,
    max_size=4,
)
uses_ = st.lists(
    st.tuples(st.integers(1, 3), st.integers(1, 3), st.sampled_from(["", "una", "piet"]), st.sampled_from([None, 7])),
    min_size=1,
    max_size=6,
    unique_by=lambda t: t[:2],
)


def test_a_person_with_many_devices_is_decided_without_trying_every_combination():
    """9 devices of one person with both products: 5 units by two devices each, one unit by the person, no suite."""
    notes = licence(1, quantity=5, products=(1,), second_device=True, price=20)
    office = licence(2, "named person", quantity=1, products=(2,), price=90)
    suite = licence(3, quantity=9, products=(1, 2), price=300)
    uses = [use(d * 2 + p, p, device=d, person="Wren Tasker", cores=d) for d in range(9) for p in (1, 2)]
    held = assign(uses, [notes, office, suite], DAY)
    assert held.uncovered == []
    assert (held.used(1), held.used(2), held.used(3)) == (5, 1, 0)
    short = assign(uses, [replace(notes, quantity=2), office, replace(suite, quantity=3)], DAY)
    assert [u.product for u in short.uncovered] == [1, 1]
    assert (short.used(1), short.used(2), short.used(3)) == (2, 1, 3)


def test_many_devices_of_one_person_cost_no_more_each():
    """400 devices with two products each: 5 people's suites, the rest by device; nothing is refused as too entangled."""
    suite = licence(1, "named person", quantity=5, products=(1, 2))
    notes = licence(2, quantity=1_000, products=(1,), second_device=True)
    uses = [use(d * 2 + p, p, device=d, person="una") for d in range(400) for p in (1, 2)]
    held = assign(uses, [suite, notes, licence(3, quantity=150, products=(2,), price=1)], DAY)
    assert (held.uncovered, held.used(1)) == ([], 1)
    without = assign(uses, [notes, licence(3, quantity=150, products=(2,), price=1)], DAY)
    assert (len(without.uncovered), without.used(2)) == (250, 200)


def test_many_licences_of_one_product_are_no_product_of_ways():
    """40 devices with 8 products, each of 6 licences and one suite of two: every unit there is goes to somebody."""
    singles = [licence(p * 10 + n, quantity=4, products=(p,), price=n) for p in range(1, 9) for n in range(6)]
    suite = licence(1, quantity=30, products=(1, 2), price=1)
    uses = [use(d * 10 + p, p, device=d) for d in range(1, 41) for p in range(1, 9)]
    held = assign(uses, [*singles, suite], DAY)
    # Of products 1 and 2 the suite covers both on 30 devices, and of 24 units each 10 are needed beside it.
    assert len(held.uncovered) == 6 * 16
    assert {held.used(one.key) for one in singles if one.key >= 30} == {4}
    assert held.used(1) + sum(held.used(10 + n) for n in range(6)) == 40
    assert sum(held.used(10 + n) * n for n in range(6)) == 4 * (0 + 1) + 2 * 2, "the cheapest first"


@pytest.mark.parametrize("few", [0, households.FEW])
@pytest.mark.parametrize("wide", [0, households.WIDE])
@given(some=licences_, told=uses_)
@settings(max_examples=250)
def test_it_is_as_good_as_the_best_of_all_assignments(wide, few, some, told):
    """Never beyond a quantity, never a coverable use left, cheapest, then narrowest: against every assignment.

    Households looked at as one, and taken apart by device: 0 makes every household a wide one; bundles gone through
    one by one, and put aside where nothing of theirs is shared: 0 puts aside all that can be.
    """
    licences = [
        licence(n, m, None if m == "site" else q, p, price=c, second_device=s and m == "device",
                guests="host" if s else "own", per_host=2, pack=2 if m == "core" else 1)
        for n, (m, q, p, c, s) in enumerate(some, 1)
    ]  # fmt: skip
    person_of = {device: person for _, device, person, _ in told}
    host_of = {device: host for _, device, _, host in told}
    uses = [
        use(n, p, device=d, person=person_of[d], cores=d, host=host_of[d], host_cores=3, virtual=bool(host_of[d]))
        for n, (p, d, _, _) in enumerate(told, 1)
    ]
    by_key = {one.key: one for one in licences}

    def worth(choice):
        held = {}
        for one, key in zip(uses, choice, strict=True):
            if key is not None:
                held.setdefault((key, metric_of(by_key[key]).bearer(by_key[key], one)), []).append(one)
        drawn = {}
        for (key, _), members in held.items():
            drawn[key] = drawn.get(key, 0) + units(by_key[key], *members)
        if any(by_key[k].quantity is not None and n > by_key[k].quantity for k, n in drawn.items()):
            return None
        return (
            -sum(key is not None for key in choice),
            sum(n * by_key[k].price for k, n in drawn.items()),
            sum(n * by_key[k].breadth for k, n in drawn.items()),
        )

    ways = [[one.key for one in licences if may_cover(one, u, DAY)] + [None] for u in uses]
    best = min(w for choice in product(*ways) if (w := worth(choice)) is not None)
    with patch.object(households, "WIDE", wide), patch.object(households, "FEW", few):
        held = assign(uses, licences, DAY)
        assert worth([held.licence_of.get(u.key) for u in uses]) == best
        assert assign(uses, licences, DAY).licence_of == held.licence_of


def test_two_concurrent_licences_have_one_peak_together():
    """Ten at once; four of one and five of the other are owned: one is short, not six."""
    some = [licence(key, quantity=q, metric="concurrent use", price=p) for key, q, p in ((1, 4, 90), (2, 5, 100))]
    uses = [use(n, device=n) for n in range(20)]
    held = assign(uses, some, DAY, peaks={1: 10, 2: 10})
    assert (held.used(1), held.used(2)) == (5, 5)
    told = [b for b in balances(uses, some, held, DAY, peaks={1: 10, 2: 10}) if b.needed]
    assert (sum(b.short for b in told), sum(b.spare for b in told)) == (1, 0)
    assert [(b.licence.key, b.units) for b in remedy(uses, some, held, DAY, {}, {1: 10, 2: 10}).buys] == [(1, 1)]
