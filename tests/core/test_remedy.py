"""The cheapest remedy of a position: worked cases, and against every mixture of purchases on small ones."""

from datetime import date
from itertools import product

from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.licensing.assign import assign
from tarn.core.licensing.cures import Idle
from tarn.core.licensing.remedy import remedy
from tests.core.test_licensing import DAY, licence, use


def remedied(uses, licences, idle=(), pins=None):
    held = assign(uses, licences, DAY, pins or {})
    return remedy(uses, licences, held, DAY, pins or {}, {}, idle)


def test_a_suite_is_bought_where_it_is_cheaper_than_its_parts():
    """One device lacks both products: 115 + 120 = 235 by parts, 210 by the suite."""
    parts = [licence(1, quantity=0, products=(1,), price=115), licence(2, quantity=0, products=(2,), price=120)]
    suite = licence(3, quantity=0, products=(1, 2), price=210)
    told = remedied([use(1, 1, device=1), use(2, 2, device=1)], [*parts, suite])
    assert [(b.licence.key, b.units, b.cost) for b in told.buys] == [(3, 1, 210)]
    assert told.left == []


def test_what_a_suite_could_cover_moves_to_it_and_only_the_rest_is_bought():
    """A pin holds the one suite for device 1; of the product alone one is short, at 100. Nothing cheaper is there."""
    suite, single = licence(1, quantity=1, products=(1, 2), price=300), licence(2, quantity=0, products=(1,), price=100)
    uses = [use(1, 1, device=1), use(2, 2, device=1), use(3, 1, device=2)]
    told = remedied(uses, [suite, single], pins={1: 1, 2: 1})
    assert [(b.licence.key, b.units) for b in told.buys] == [(2, 1)]
    assert told.moves == []


def test_buying_one_unit_can_move_a_use_off_a_dear_licence():
    """The broad one has covered release 16 so far; it is needed for 17, and one of the narrow ones takes 16 over."""
    broad = licence(1, quantity=1, price=500, release="")
    narrow = licence(2, quantity=0, price=40, release="16")
    uses = [use(1, device=1, release="16", since=date(2020, 1, 1)), use(2, device=2, release="17")]
    held = assign(uses[:1], [broad, narrow], DAY)
    told = remedy(uses, [broad, narrow], held, DAY, {}, {})
    assert [(b.licence.key, b.cost) for b in told.buys] == [(2, 40)]
    assert [(m.use.key, m.before.key, m.after.key, m.broader) for m in told.moves] == [(1, 1, 2, False)]


def test_idle_ones_are_given_up_only_where_that_spares_a_purchase():
    terms = licence(quantity=2, price=100)
    uses = [use(n, device=n) for n in range(1, 5)]
    idle = [Idle(uses[n], "not used for 120 days") for n in (0, 1, 2)]
    told = remedied(uses, [terms], idle)
    assert (len(told.freed), told.cost) == (2, 0)
    assert remedied(uses[:2], [terms], idle[:2]).freed == []


def test_units_come_in_packs_and_what_has_no_price_is_told():
    assert (
        remedied([use(n, device=n) for n in range(3)], [licence(quantity=0, price=10, metric="core", pack=4)]).cost
        == 120
    )
    told = remedied([use(1)], [licence(quantity=0, price=0)])
    assert (told.cost, len(told.left), [one.key for one in told.unpriced]) == (0, 1, [1])


def test_what_more_of_a_licence_would_not_cover_is_bought_anew_at_its_last_price():
    """Two run 17, one owns 3 of 16 at 10: two anew, 20. A suite for any release at 15 is cheaper for a device with both."""
    notes = licence(1, quantity=3, release="16", price=10)
    two = [use(1, device=1, release="17"), use(2, device=2, release="17")]
    told = remedied(two, [notes])
    assert [(b.licence.key, b.units, b.cost) for b in told.buys] == [(1, 2, 20)]
    assert told.buys[0].anew == "17 is newer than 16, and there is no maintenance"
    suite = licence(2, quantity=0, products=(1, 2), price=15)
    other = licence(3, quantity=0, products=(2,), price=12)
    told = remedied([*two, use(3, 2, device=1)], [notes, suite, other])
    assert sorted((b.licence.key, b.units, bool(b.anew)) for b in told.buys) == [(1, 1, True), (2, 1, False)]


def test_what_no_licence_may_cover_even_bought_anew_is_left():
    """By person, and nobody is known to use it; and a product that no licence names."""
    told = remedied([use(1), use(2, 2)], [licence(metric="named person", price=10)])
    assert (told.buys, [u.key for u in told.left], told.unpriced) == ([], [1, 2], [])


@given(
    st.lists(st.tuples(st.integers(0, 2), st.frozensets(st.integers(1, 2), min_size=1), st.integers(1, 9)), min_size=1, max_size=3),
    st.lists(st.tuples(st.integers(1, 2), st.integers(1, 3)), min_size=1, max_size=5, unique=True),
)  # fmt: skip
@settings(max_examples=150)
def test_no_mixture_of_purchases_is_cheaper(some, told):
    licences = [licence(n, quantity=q, products=p, price=c) for n, (q, p, c) in enumerate(some, 1)]
    uses = [use(n, p, device=d) for n, (p, d) in enumerate(told, 1)]
    found = remedied(uses, licences)
    least = None
    for more in product(range(len(uses) + 1), repeat=len(licences)):
        grown = [
            licence(one.key, quantity=one.quantity + n, products=one.products, price=one.price)
            for one, n in zip(licences, more, strict=True)
        ]
        cost = sum(n * one.price for n, one in zip(more, licences, strict=True))
        if (least is None or cost < least) and len(assign(uses, grown, DAY).uncovered) == len(found.left):
            least = cost
    assert found.cost == least
