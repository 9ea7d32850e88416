"""Position, remedy and warnings agree on every estate: what is uncovered is short, what is short is bought or left."""

from datetime import date

from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.licensing.cures import cures
from tarn.core.licensing.reckon import Basis, reckon
from tarn.core.licensing.remedy import remedy
from tarn.core.licensing.rights import Licence, Use, in_force

DAY = date(2026, 6, 1)

licences = st.builds(
    Licence,
    key=st.just(0),
    name=st.just("L"),
    metric=st.sampled_from(
        ["device", "named person", "core", "virtual machine", "concurrent use", "site", "installation"]
    ),
    quantity=st.one_of(st.none(), st.integers(0, 24)),
    products=st.frozensets(st.integers(1, 3), min_size=1, max_size=2),
    release=st.sampled_from(["", "", "16"]),
    maintained_until=st.sampled_from([None, date(2026, 1, 1)]),
    ends=st.sampled_from([None, None, date(2026, 5, 1)]),
    departments=st.sampled_from([frozenset[str](), frozenset({"fleet"})]),
    second_device=st.booleans(),
    guests=st.sampled_from(["own", "host"]),
    per_host=st.integers(1, 2),
    pack=st.sampled_from([1, 2]),
    price=st.sampled_from([0, 5, 7]),
    organisation=st.sampled_from(["", "", "quay"]),
    shared=st.booleans(),
    edition=st.sampled_from(["", "", "pro"]),
)
uses = st.builds(
    Use,
    key=st.just(0),
    product=st.integers(1, 3),
    release=st.sampled_from(["15", "16", "17"]),
    device=st.integers(1, 4),
    person=st.sampled_from(["", "una"]),
    since=st.sampled_from([date(2025, 1, 1), date(2026, 3, 1)]),
    department=st.sampled_from(["fleet", "accounts"]),
    host=st.sampled_from([None, 9]),
    cores=st.sampled_from([0, 4, 6]),
    processors=st.just(1),
    host_cores=st.just(8),
    organisation=st.sampled_from(["", "quay"]),
    edition=st.sampled_from(["", "pro"]),
)


@st.composite
def estates(draw):
    """An estate of few licences and uses, with pins, a peak and a dispute among them."""
    rights = [Licence(**{**_fields(one), "key": n}) for n, one in enumerate(draw(st.lists(licences, max_size=4)), 1)]
    some = draw(st.lists(uses, max_size=7, unique_by=lambda u: (u.product, u.device)))
    told = [Use(**{**_fields(one), "key": n}) for n, one in enumerate(some, 1)]
    pins = {u.key: rights[0].key for u in told if rights and draw(st.integers(0, 6)) == 0}
    peaks = {
        one.key: draw(st.integers(0, 9)) for one in rights if one.metric == "concurrent use" and draw(st.booleans())
    }
    disputed = [u.key for u in told if draw(st.integers(0, 9)) == 0]
    return Basis(DAY, rights, told, pins, peaks, disputed)


def _fields(one):
    return {name: getattr(one, name) for name in type(one).__slots__}


@given(estates())
@settings(max_examples=400)
def test_what_is_uncovered_is_short_and_what_is_short_is_bought_or_left(basis):
    told = reckon(basis)
    over = {one.key for one in basis.licences if one.quantity is not None and told.held.used(one.key) > one.quantity}
    for one in told.balances:
        beyond = any(li.key in over for li in one.licences)
        assert (one.short > 0) == (bool(one.uncovered) or beyond), one.working
        assert one.spare >= 0
        assert one.short >= one.short_for_right
        if not one.uncovered and one.entitled is not None and not beyond:
            assert one.entitled - one.assigned == one.spare
        last = one.working[-1]
        assert last.figure == (one.short or one.spare)
        assert bool(cures(one, [])) == bool(one.short)
    assert {u.use.key for b in told.balances for u in b.uncovered} == {u.key for u in told.held.uncovered}
    whole = remedy(basis.uses, basis.licences, told.held, DAY, basis.pins, basis.peaks, disputed=basis.disputed)
    short = [b for b in told.balances if b.short]
    assert bool(short) == bool(whole.buys or whole.left or whole.unpriced)
    if all(b.cure is not None for b in short):
        assert whole.left == []
        assert whole.cost <= sum(b.cure or 0 for b in short)


@given(estates())
@settings(max_examples=200)
def test_only_licences_whose_term_holds_the_day_give_units(basis):
    """A balance may gather licences in force and not; what is over or to come gives no right, and is told with it."""
    for one in reckon(basis).balances:
        now = [li for li in one.licences if in_force(li, basis.day)]
        limited = [li.quantity for li in now if li.quantity is not None]
        if len(limited) == len(now):
            assert one.entitled == sum(limited), one.working
        else:
            assert one.entitled is None
        assert one.assigned == 0 or now, "nobody is covered by what is not in force"


def test_a_balance_of_one_licence_in_force_and_one_that_is_over_tells_both():
    held = {"key": 1, "name": "Old", "metric": "device", "quantity": 5, "products": frozenset({1}), "price": 7}
    over = Licence(**held, ends=date(2026, 5, 1))
    running = Licence(**{**held, "key": 2, "name": "New", "quantity": 2})
    devices = [Use(key=n, product=1, release="16", device=n) for n in range(1, 5)]
    (balance,) = reckon(Basis(DAY, [over, running], devices, {}, {}, [])).balances
    assert (balance.entitled, balance.needed, balance.short) == (2, 4, 2)
    assert {one.name for one in balance.licences} == {"Old", "New"}
    (alone,) = reckon(Basis(DAY, [over], devices, {}, {}, [])).balances
    assert (alone.entitled, alone.short) == (0, 4)
    (before,) = reckon(Basis(date(2026, 4, 1), [over, running], devices, {}, {}, [])).balances
    assert (before.entitled, before.short, before.spare) == (7, 0, 3)


def test_by_installation_each_product_on_a_device_takes_a_unit():
    both = Licence(key=1, name="Suite", metric="installation", quantity=3, products=frozenset({1, 2}), price=7)
    uses_ = [
        Use(key=n, product=p, release="16", device=d) for n, (p, d) in enumerate([(1, 1), (2, 1), (1, 2), (2, 2)], 1)
    ]
    (balance,) = reckon(Basis(DAY, [both], uses_, {}, {}, [])).balances
    assert (balance.needed, balance.entitled, balance.short, balance.cure) == (4, 3, 1, 7)
    by_device = Licence(**{**_fields(both), "metric": "device"})
    (balance,) = reckon(Basis(DAY, [by_device], uses_, {}, {}, [])).balances
    assert (balance.needed, balance.spare) == (2, 1)
