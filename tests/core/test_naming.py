"""Names made one: worked cases of listed names, all made up, and what holds of any."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.naming import ROLES, Naming, NamingRule, better, product_key, recognise


@pytest.mark.parametrize(
    ("name", "publisher", "version", "expected"),
    [
        ("Quill Office", "Northquill Ltd.", "16.0.1", ("Quill Office", "Northquill", "product", "", "", "")),
        ("Quill Office 16.0.1 (x64)", "Northquill", "16.0.1", ("Quill Office", "Northquill", "product", "", "x64", "16.0.1")),
        ("Northquill Quill Office Professional 2024", "Northquill Inc", "24.1",
         ("Quill Office", "Northquill", "product", "Professional", "", "2024")),
        ("Pellucid Reader 11 (64-bit, en-GB)", "Pellucid", "11.0.3", ("Pellucid Reader", "Pellucid", "product", "", "x64", "11")),
        ("Reader 12", "", "11.0", ("Reader 12", "", "product", "", "", "")),
        ("Security Update for Quill Office (KB5901041)", "Northquill", "",
         ("Quill Office", "Northquill", "update", "", "", "")),
        ("Hotfix 3 for Berthwright Planner", "", "", ("Berthwright Planner", "", "update", "", "", "")),
        ("Selkie Network Adapter Driver", "Selkie", "3.1", ("Selkie Network Adapter Driver", "Selkie", "driver", "", "", "")),
        ("Harbour C++ Runtime 14 (x86)", "Harbour", "14.2", ("Harbour C++ Runtime", "Harbour", "run-time", "", "x86", "14")),
        ("libkelp2", "Tallow", "5.4", ("libkelp2", "Tallow", "run-time", "", "", "")),
        ("python3-kelp", "", "1", ("python3-kelp", "", "run-time", "", "", "")),
        ("cairn-data", "", "1", ("cairn-data", "", "component", "", "", "")),
        ("quill-office", "Northquill", "16.1", ("quill-office", "Northquill", "product", "", "", "")),
        ("linux-image-6.1.0-26-amd64", "", "6.1", ("linux-image-6.1.0-26-amd64", "", "driver", "", "", "")),
    ],
)  # fmt: skip
def test_listed_names_are_taken_apart(name, publisher, version, expected):
    got = recognise(name, publisher, version)
    assert (got.product, got.publisher, got.role, got.edition, got.arch, got.release) == expected
    assert got.understood


@pytest.mark.parametrize("name", ["{6F9619FF-8B86-D011-B42D-00CF4FC964FF}", "setup.exe", "1234", "--", "a.tmp"])
def test_what_is_no_name_is_not_understood_and_kept_as_it_is(name):
    got = recognise(name)
    assert (got.understood, got.product) == (False, name)


def test_spellings_share_a_key_and_the_readable_one_is_shown():
    assert len({product_key(n) for n in ("Quill Office", "quill-office", "QUILL_OFFICE", "Quíll  Office")}) == 1
    assert product_key("C") != product_key("C++") != product_key("C#")
    assert better("quill-office", "Quill Office") == better("Quill Office", "quill-office") == "Quill Office"


def test_corrections_come_in_order_and_say_so():
    naming = Naming(
        [
            NamingRule(1, "product", "Tillmaster", product="Galleykeeper Till"),
            NamingRule(2, "product", "galleykeeper-till", publisher="Galleykeeper", role="product"),
            NamingRule(3, "name", "/^old-/", role="component"),
            NamingRule(4, "publisher", "Galley Systems", publisher="never reached"),
        ]
    )
    got = naming.recognise("tillmaster", "Galley Systems")
    assert (got.product, got.publisher) == ("Galleykeeper Till", "Galleykeeper")
    assert [w for w in got.why if w.startswith("correction")] == [
        "correction 1: the product is Tillmaster",
        "correction 2: the product is galleykeeper-till",
    ]
    assert naming.recognise("old-thing").role == "component"
    assert Naming([NamingRule(5, "name", "setup.exe", product="Slipway Setup")]).recognise("setup.exe").understood


@given(st.text(min_size=1, max_size=80), st.text(max_size=30), st.text(max_size=10))
def test_any_name_keeps_a_product_and_a_known_role(name, publisher, version):
    got = recognise(name, publisher, version)
    assert got.role in ROLES
    assert got.product or not name.strip()
    assert got.why or got.understood


@given(st.sampled_from(["Quill Office", "Berth Planner", "Ember"]), st.sampled_from(["", " (x64)", " (32-bit)"]),
       st.integers(1, 40), st.integers(0, 9))  # fmt: skip
def test_release_and_architecture_never_part_a_product(base, arch, major, minor):
    assert recognise(f"{base} {major}.{minor}{arch}", "", f"{major}.{minor}").key == product_key(base)


made_up = st.from_regex(r"[A-Z][a-z]{3,8}( [A-Z][a-z]{3,8})?", fullmatch=True)


@given(made_up)
def test_what_a_name_was_taken_for_is_taken_for_itself(name):
    product = recognise(name).product
    assert recognise(product).product == product


@given(made_up, st.sampled_from(["®", "™", "(R)", "(TM)"]), st.sampled_from(["x64", "32-bit", "arm64"]))
def test_marks_and_architectures_part_no_product(name, mark, arch):
    plain = recognise(name)
    assert recognise(f"{name}{mark} ({arch})").key == plain.key
    assert recognise(f"{name} ({arch})").arch


@given(made_up)
def test_an_update_of_a_product_is_an_update_of_that_product(name):
    found = recognise(f"Security Update for {name} (KB5901041)")
    assert found.role == "update"
    assert found.key == recognise(name).key


@given(made_up, made_up)
def test_of_two_spellings_the_same_is_shown_whichever_comes_first(one, other):
    spellings = {one, one.lower().replace(" ", "-"), one.upper()}
    shown = {better(a, b) for a in spellings for b in spellings if product_key(a) == product_key(b)}
    assert shown <= spellings
    assert better(one, other) == better(other, one)
