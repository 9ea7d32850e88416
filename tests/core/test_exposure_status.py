"""How releases stand to vulnerabilities: worked cases of each kind of statement, and what holds of any."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.exposure.aliases import Names
from tarn.core.exposure.outside import Distribution, Thing
from tarn.core.exposure.reading import read_json
from tarn.core.exposure.status import BY_NAME, CARRIED_BACK, CERTAIN, UNSURE, Held, Witness, decide, spans, weigh
from tests import advisories as made
from tests.advisories import CVE

SSH = ("package/secure-shell-server", "package")
OFFICE = ("product/northquill/quilloffice", "name")
TALLOW = Distribution("tallow", "8.10")


def _package(version, distribution=TALLOW, order="deb", keys=(SSH,)):
    return Thing("a", "secure-shell-server", version, keys, order, distribution, "linux")


def _office(version, platform="windows", **more):
    return Thing("a", "Quill Office", version, (OFFICE,), platform=platform, **more)


def _witnesses(*documents):
    return [
        Witness(number, document.word, document.dated or 0, statement)
        for number, document in enumerate(map(read_json, documents))
        for telling in document.tellings
        for statement in telling.statements
    ]


def _status(thing, *documents):
    decided = decide(thing, _witnesses(*documents))
    return decided and (decided.status, decided.verdict.sure)


@pytest.mark.parametrize(
    ("version", "status"),
    [
        ("9.2p1-3", "affected"),
        ("9.2p1-4", "affected"),
        ("9.2p1-5", "fixed"),
        ("1:9.0-1", "fixed"),
        ("9.2p1-5~b1", "affected"),
    ],
)
def test_a_package_stands_by_its_distributions_own_order(version, status):
    assert _status(_package(version), made.osv()) == (status, CERTAIN)


def test_a_notice_is_for_its_own_distribution_and_release():
    assert _status(_package("9.2p1-3", Distribution("gannet", "4")), made.osv()) is None
    assert _status(_package("9.2p1-3", Distribution("tallow", "80")), made.osv()) is None
    assert _status(_package("9.2p1-3", Distribution("tallow", "8")), made.osv()) == ("affected", CERTAIN)
    assert _status(_package("9.2p1-3", None), made.osv()) == ("under investigation", UNSURE)
    by_purl = made.osv(
        package={"ecosystem": "Tallow Linux:8", "name": "x", "purl": "pkg:rpm/tallow/secure-shell-server"}
    )
    assert _status(_package("9.2p1-3"), by_purl) is None, "a package of dpkg is none of RPM"


@pytest.mark.parametrize(
    ("version", "status"),
    [("16.1.0", "affected"), ("16.1.1", "fixed"), ("16.2", "fixed"), ("x", "under investigation")],
)
def test_a_product_stands_by_the_range_of_its_record(version, status):
    assert _status(_office(version), made.cve()) == (status, BY_NAME if status != "under investigation" else UNSURE)


def test_ranges_with_holes():
    two = [
        {"version": low, "lessThan": high, "status": "affected", "versionType": "custom"}
        for low, high in (("16.0", "16.0.9"), ("16.1", "16.1.4"))
    ]
    told = {v: _status(_office(v), made.cve(CVE, *two))[0] for v in ("15.9", "16.0.3", "16.0.10", "16.1.2", "16.1.4")}
    assert told == {
        "15.9": "not affected",
        "16.0.3": "affected",
        "16.0.10": "fixed",
        "16.1.2": "affected",
        "16.1.4": "fixed",
    }


def test_a_cure_carried_back_wins_over_the_upstream_range():
    below = {"version": "0", "lessThan": "9.3", "status": "affected", "versionType": "custom"}
    upstream = made.cve(CVE, below, by="Somebody", vendor="Tallow Systems", product="secure-shell-server")
    keys = (SSH, ("product/tallowsystems/secureshellserver", "name"))
    patched = _package("9.2p1-5", keys=keys)
    assert _status(patched, upstream) == ("affected", CARRIED_BACK), "9.2p1 lies below 9.3 upstream"
    assert _status(patched, upstream, made.osv()) == ("fixed", CERTAIN)
    decided = decide(patched, _witnesses(upstream, made.osv()))
    assert [(w.word, v.status) for w, v in decided.otherwise] == [("general", "affected")]


def test_the_makers_word_wins_over_the_general_record_and_both_are_kept():
    general = made.page(made.nvd(CVE, {"nodes": [{"cpeMatch": [made.match("a:northquill:quill_office")]}]}))
    told = made.csaf(
        {
            "product_status": {"known_not_affected": ["P1"]},
            "flags": [{"label": "vulnerable_code_not_present", "product_ids": ["P1"]}],
        }
    )
    decided = decide(_office("16.1.0"), _witnesses(general["vulnerabilities"][0], told))
    assert (decided.status, decided.verdict.justification) == ("not affected", "vulnerable_code_not_present")
    assert decided.otherwise[0][1].status == "affected"
    assert decide(_office("16.0.0"), _witnesses(general["vulnerabilities"][0], told)).status == "affected"


def test_what_half_is_unknown_is_under_investigation_and_what_is_another_is_not_meant():
    only_there = made.nvd(CVE, {"nodes": [{"cpeMatch": [made.match("a:northquill:quill_office:*:*:*:*:*:macos")]}]})
    assert _status(_office("16.1.0", "macos"), only_there)[0] == "affected"
    assert _status(_office("16.1.0", "windows"), only_there) is None
    assert _status(_office("16.1.0", ""), only_there) == ("under investigation", UNSURE)
    on_macs = made.cve(platforms=["macOS"])
    assert _status(_office("16.1.0", "windows"), on_macs) is None
    assert _status(_office("16.1.0", ""), on_macs) == ("under investigation", UNSURE)
    assert _status(_office(""), made.cve())[0] == "under investigation", "nobody read its version"


def test_a_product_whose_maker_is_not_known_is_told_by_its_own_name_with_less_certainty():
    nameless = Thing("o", "Quill Office", "16.0", (("product/*/quilloffice", "name"),))
    assert weigh(nameless, _witnesses(made.cve(CVE))[0].statement).sure < BY_NAME


def test_what_was_known_of_it_over_time():
    [affected] = _witnesses(made.osv())
    [cured] = _witnesses(made.osv(events=[{"introduced": "0"}, {"fixed": "9.2p1-3"}]))
    told = spans(_package("9.2p1-3"), [Held(10, 30, affected), Held(30, 50, cured), Held(50, None, cured)])
    assert [(s.begins, s.ends, s.decided.status) for s in told] == [(10, 30, "affected"), (30, None, "fixed")]
    withdrawn = spans(_package("9.2p1-3"), [Held(10, 30, affected)])
    assert [(s.begins, s.ends) for s in withdrawn] == [(10, 30)]


@given(
    st.lists(
        st.tuples(st.integers(0, 20), st.none() | st.integers(1, 9), st.sampled_from(["9.2p1-3", "9.2p1-5", "1"])),
        max_size=5,
    ),
    st.integers(0, 40),
)
def test_a_day_of_the_spans_is_that_days_decision(plan, day):
    held = []
    for begins, days, fixed in plan:
        [witness] = _witnesses(made.osv(events=[{"introduced": "0"}, {"fixed": fixed}]))
        held.append(Held(begins, None if days is None else begins + days, witness))
    told = spans(_package("9.2p1-4"), held)
    then = [s for s in told if s.begins <= day and (s.ends is None or s.ends > day)]
    known = [h.witness for h in held if h.begins <= day and (h.ends is None or h.ends > day)]
    expected = decide(_package("9.2p1-4"), known)
    assert [s.decided.status for s in then] == ([expected.status] if expected else [])
    assert all(a.ends is not None and a.ends <= b.begins for a, b in itertools.pairwise(told))


@given(st.lists(st.lists(st.sampled_from(["CVE-2", "CVE-1", "SKA-1", "NQ-7", "X-3"]), min_size=1, max_size=3)))
def test_names_joined_are_one_whatever_the_order_and_a_ring_does_no_harm(joins):
    one, other = Names(), Names()
    for ids in joins:
        one.join(ids)
    for ids in reversed(joins):
        other.join(reversed(ids))
    assert {n: one.top(n) for n in one.groups()} == {n: other.top(n) for n in other.groups()}
    for ids in joins:
        assert len({one.top(i) for i in ids}) == 1
    for top, names in one.groups().items():
        assert top in names
        assert top.startswith("CVE-") or not any(n.startswith("CVE-") for n in names)
