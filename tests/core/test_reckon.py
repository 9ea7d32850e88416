"""A position carried on after new evidence is the position from nothing; parts that share no licence are apart."""

from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.licensing.reckon import Basis, reckon
from tests.core.test_licensing import DAY, licence, use

LICENCES = [
    licence(1, quantity=2, products=(1, 2), price=9),
    licence(2, quantity=1, products=(2, 3), price=4),
    licence(3, metric="named person", quantity=1, products=(4,), price=2, release="16"),
    licence(4, metric="core", quantity=9, products=(5,), pack=2),
]
uses_ = st.lists(
    st.tuples(st.integers(1, 6), st.integers(1, 4), st.sampled_from(["15.1", "16.2", "17.0"])),
    max_size=14,
    unique_by=lambda t: t[:2],
)


def basis(told):
    uses = [
        use(d * 100 + p, p, device=d, release=r, person=f"p{d % 3}", cores=2 * d, processors=1)
        for p, d, r in sorted(told, key=lambda t: (t[1], t[0]))
    ]
    return Basis(DAY, LICENCES, uses, disputed=[u.key for u in uses if u.product == 3 and u.device == 1])


def test_products_that_licences_link_are_one_part_and_others_are_apart():
    parts = reckon(basis([(p, 1, "16.2") for p in range(1, 7)])).parts
    assert set(parts) == {frozenset({1, 2, 3}), frozenset({4}), frozenset({5}), frozenset({6})}


@given(uses_, uses_)
@settings(max_examples=150)
def test_carried_on_is_as_from_nothing(before, after):
    first, then = basis(before), basis(after)
    old, new = {u.key: u for u in first.uses}, {u.key: u for u in then.uses}
    changed = {(old.get(k) or new[k]).product for k in {*old, *new} if old.get(k) != new.get(k)}
    carried = reckon(then, reckon(first).parts, changed)
    anew = reckon(then)
    assert carried.balances == anew.balances
    assert (carried.held.licence_of, carried.held.right_of) == (anew.held.licence_of, anew.held.right_of)
    assert {u.key for u in carried.held.uncovered} == {u.key for u in anew.held.uncovered}


def test_only_what_changed_is_reckoned_anew():
    first = basis([(1, 1, "16.2"), (4, 1, "16.2")])
    before = reckon(first)
    then = replace(first, uses=[*first.uses, use(900, 4, device=3, person="p9")])
    after = reckon(then, before.parts, {4})
    assert after.parts[frozenset({1, 2, 3})] is before.parts[frozenset({1, 2, 3})]
    assert after.parts[frozenset({4})] is not before.parts[frozenset({4})]
