"""Rulings: the narrowest counts, tolerations end, and what cannot be is refused at its field."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.rulings import VERDICTS, NoRuling, Ruling, Rulings, check

DAY = 86_400
PHRASES = {"sharing": ("Driftshare", "/^Ferry.*Share$/")}


def judged(rulings, version="1.0", department=None, product="Driftshare", publisher="Driftline", at=100 * DAY):
    held = Rulings(rulings, PHRASES, at)
    return held.judge(held.of_product(product, publisher), version, department)


COMPANY = Ruling(1, "product", "driftshare", "barred")
TICKETING = Ruling(2, "product", "Driftshare", "permitted", department="Ticketing")
OLD = Ruling(3, "product", "Driftshare", "tolerated", high="2.8", until=200 * DAY)
MAKER = Ruling(4, "publisher", "Driftline", "permitted")
PHRASE = Ruling(5, "phrase", "sharing", "barred")


@pytest.mark.parametrize(
    ("rulings", "version", "department", "verdict", "number"),
    [
        ([], "1", None, "none yet", None),
        ([COMPANY], "1", None, "barred", 1),
        ([COMPANY, TICKETING], "1", "Ticketing", "permitted", 2),
        ([COMPANY, TICKETING], "1", "Catering", "barred", 1),
        ([COMPANY, OLD], "2.8", None, "tolerated", 3),
        ([COMPANY, OLD], "2.10", None, "barred", 1),  # 2.10 comes after 2.8
        ([MAKER, PHRASE], "1", None, "barred", 5),
        ([MAKER, PHRASE, COMPANY], "1", None, "barred", 1),
        ([TICKETING, OLD], "2.8", "Ticketing", "permitted", 2),
    ],
)
def test_the_narrowest_ruling_counts_and_is_told(rulings, version, department, verdict, number):
    got = judged(rulings, version, department)
    assert (got.verdict, got.ruling.number if got.ruling else None) == (verdict, number)


def test_a_toleration_that_is_over_bars_and_says_why():
    got = judged([OLD], "2.0", at=201 * DAY)
    assert (got.verdict, got.over) == ("barred", True)
    assert "is over" in got.why


def test_a_later_ruling_as_narrow_replaces_and_the_past_keeps_its_own():
    first = Ruling(1, "product", "Driftshare", "permitted", begins=0, ends=50 * DAY)
    then = Ruling(2, "product", "Driftshare", "barred", begins=50 * DAY)
    assert judged([first, then], at=49 * DAY).verdict == "permitted"
    assert judged([first, then], at=50 * DAY).verdict == "barred"


def test_a_phrase_names_products_by_word_and_pattern():
    assert judged([PHRASE], product="FerryBigShare").verdict == "barred"
    assert judged([PHRASE], product="Share").verdict == "none yet"


@pytest.mark.parametrize(
    ("ruling", "field"),
    [
        (Ruling(0, "device", "x", "barred"), "subject"),
        (Ruling(0, "product", " ", "barred"), "name"),
        (Ruling(0, "product", "x", "maybe"), "verdict"),  # type: ignore[arg-type]
        (Ruling(0, "product", "x", "tolerated"), "until"),
        (Ruling(0, "product", "x", "barred", until=5), "until"),
        (Ruling(0, "product", "x", "tolerated", begins=9, until=5), "until"),
        (Ruling(0, "product", "x", "barred", low="2", high="1.9"), "high"),
        (Ruling(0, "publisher", "x", "barred", low="2"), "low"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(ruling, field):
    with pytest.raises(NoRuling) as refused:
        check(ruling)
    assert refused.value.field == field


_RULING = st.builds(
    Ruling,
    number=st.integers(1, 99),
    subject=st.sampled_from(["product", "publisher", "phrase"]),
    name=st.sampled_from(["Driftshare", "Driftline", "sharing"]),
    verdict=st.sampled_from(VERDICTS),
    low=st.sampled_from(["", "1", "2"]),
    department=st.sampled_from(["", "Ticketing"]),
    until=st.just(1000 * DAY),
)


@given(st.lists(_RULING, max_size=6), st.sampled_from(["0.5", "1.5", "3"]), st.sampled_from(["", "Ticketing"]))
def test_no_ruling_narrower_than_the_one_told_fits(rulings, version, department):
    got = judged(rulings, version, department)
    fits = [
        r
        for r in rulings
        if r.covers(version)
        and r.department in ("", department)
        and (r.subject, r.name) in {("product", "Driftshare"), ("publisher", "Driftline"), ("phrase", "sharing")}
    ]
    if got.ruling is None:
        assert not fits
    else:
        assert got.ruling.narrowness == max(r.narrowness for r in fits)
