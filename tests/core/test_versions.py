"""Versions compare as versions: worked cases of the Debian Policy Manual, 5.6.12, and what people expect."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.versions import SYSTEMS, version_key


@pytest.mark.parametrize(
    ("lower", "higher"),
    [
        ("9.9", "10.2"),
        ("1.0~rc1", "1.0"),
        ("1.0~~", "1.0~"),
        ("1.0rc2", "1.0"),
        ("2.0.0-beta", "2.0.0"),
        ("1.0", "1.0+deb12u1"),
        ("1.0-1", "1.0-2"),
        ("9.2p1-2", "9.2p1-3"),
        ("2.9", "2.10"),
        ("9", "1:1"),
        ("1.2.3", "1.2.3a"),
        ("11", "11.0.3"),
        ("16.0.1", "16.1"),
        ("0.9", "1"),
    ],
)
def test_order(lower, higher):
    assert version_key(lower) < version_key(higher)


def test_pre_releases_stand_as_the_standard_says():
    """Semantic Versioning 2.0.0, section 11, its own example; a packager's revision is none."""
    order = ["1.0.0-alpha", "1.0.0-alpha.1", "1.0.0-alpha.beta", "1.0.0-beta", "1.0.0-beta.2", "1.0.0-beta.11"]
    order += ["1.0.0-rc.1", "1.0.0-x.7.z.92", "1.0.0", "1.0.0-1", "1.0.1-snapshot", "1.0.1"]
    assert sorted(order, key=version_key) == order


@pytest.mark.parametrize(("one", "same"), [("11", "11.0"), ("1.0.0", "1"), ("1.05", "1.5"), ("1.0~rc1", "1~rc1")])
def test_equal(one, same):
    assert version_key(one) == version_key(same)


@given(st.lists(st.integers(0, 10**6), min_size=1, max_size=4), st.lists(st.integers(0, 10**6), min_size=1, max_size=4))
def test_dotted_numbers_compare_as_lists_of_numbers(one, other):
    def plain(parts):
        while parts and parts[-1] == 0:
            parts = parts[:-1]
        return parts

    keys = version_key(".".join(map(str, one))), version_key(".".join(map(str, other)))
    assert (keys[0] < keys[1]) == (plain(one) < plain(other))


def test_a_package_goes_by_the_rule_of_its_own_system():
    """Debian Policy Manual, 5.6.12, and rpm-version(7): neither knows words of pre-releases or forgets a last nought."""
    for system in ("deb", "rpm"):
        assert version_key("1.0rc1-1", system) > version_key("1.0-1", system), "the plain rule says otherwise"
        assert version_key("1.0.0-1", system) > version_key("1.0-1", system)
        assert version_key("1.0~rc1-1", system) < version_key("1.0-1", system)
    assert version_key("1.a", "deb") > version_key("1.5", "deb"), "the dot's word goes on"
    order = ["1.0~rc1", "1.0", "1.0^git1", "1.0^git2", "1.0a", "1.0.1", "1.1", "1:0.1"]
    assert sorted(order, key=lambda v: version_key(v, "rpm")) == order
    assert version_key("5.14.0-70.el9", "rpm") < version_key("5.14.0-162.el9", "rpm")


@given(st.text(max_size=30))
def test_any_text_has_a_key(text):
    assert all(version_key(text, system) for system in ("", *SYSTEMS))
