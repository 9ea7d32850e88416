"""Trees of names: what a branch holds, and that nothing comes to lie under itself."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.branches import Circle, branch, put_under


def test_a_branch_holds_all_that_lies_under_it_and_nothing_beside():
    under = {"Saltholm quay": "Saltholm", "Saltholm": "Mainland", "Port Averne": "Mainland", "Hook": "Isles"}
    assert branch(under, "mainland") == ("mainland", "Saltholm", "Port Averne", "Saltholm quay")
    assert branch(under, "Hook") == ("Hook",)
    assert branch({}, "Nowhere") == ("Nowhere",)


def test_a_circle_is_refused_with_the_way_round():
    under = {"Quay": "Saltholm", "Saltholm": "Mainland"}
    with pytest.raises(Circle, match="Mainland under quay under Saltholm under Mainland"):
        put_under(under, "Mainland", "quay")
    with pytest.raises(Circle):
        put_under(under, "Quay", "QUAY")


names = st.sampled_from(["a", "B", "c", "D", "e", "F", "g"])


@given(st.lists(st.tuples(names, names), max_size=20))
def test_whatever_is_put_where_the_names_stay_a_tree(moves):
    under: dict[str, str] = {}
    for name, parent in moves:
        try:
            under = put_under(under, name, parent)
        except Circle:
            assert name == parent or parent in branch(under, name)
        for one in under:
            held, at = set(), one
            while at in under:
                assert at not in held
                held.add(at)
                at = under[at]
            assert one in branch(under, at)
