"""Positions and cures by hand: the arithmetic stands beside each case."""

from datetime import date

import pytest

from tarn.core.licensing.cures import Idle, cures
from tarn.core.licensing.reckon import Basis, reckon
from tarn.core.licensing.rights import Licence, Use

DAY = date(2026, 6, 1)


def told(licences, uses, **more):
    return {one.key: one for one in reckon(Basis(DAY, licences, uses, **more)).balances}


def cores(quantity):
    return Licence(1, "Cores", "core", quantity, frozenset({7}), per_processor=8, pack=2, price=775_00)


def test_cores_in_packs_as_one_would_reckon_them():
    """2 processors × 6 = 12 cores, at least 8 each: 16. One of 12: 12. 28 needed, 20 owned: 8 short, 4 packs of 2."""
    uses = [Use(1, 7, "14", 1, processors=2, cores=12), Use(2, 7, "14", 2, processors=1, cores=12)]
    one = told([cores(20)], uses, devices={1: "tix-1", 2: "tix-2"})["core:7"]
    assert (one.needed, one.entitled, one.short, one.spare, one.cure) == (28, 20, 8, 0, 8 * 775_00)
    assert [(s.sign, s.figure) for s in one.working] == [("", 2), ("", 16), ("+", 12), ("=", 28), ("-", 20), ("=", 8)]
    assert one.working[1].text == "cores for tix-1"
    assert one.working[-1].note == "4 packs of 2"


def test_what_no_more_of_a_licence_would_cover_is_short_beside_what_is_spare():
    """12 owned for Fleet alone; 3 uses there, 2 elsewhere: 2 short by right, 9 spare that do not fit."""
    terms = Licence(1, "Notes", "device", 12, frozenset({7}), departments=frozenset({"fleet"}), price=38_00)
    uses = [Use(n, 7, "4", n, department="fleet" if n < 4 else "accounts") for n in range(1, 6)]
    one = told([terms], uses)["device:7"]
    assert (one.needed, one.assigned, one.short, one.short_for_right, one.spare) == (5, 3, 2, 2, 9)
    assert one.working[-1].note == "while 9 are spare that do not fit"
    assert "for fleet alone" in one.uncovered[0].reasons[0][1]


def test_a_suite_takes_its_parts_and_the_rest_counts_at_the_narrowest():
    """A suite for one device takes both products there; the other device's use counts at the single licence."""
    suite = Licence(1, "Suite", "device", 1, frozenset({1, 2}), price=300_00)
    single = Licence(2, "Single", "device", 0, frozenset({1}), price=100_00)
    held = told([suite, single], [Use(1, 1, "1", 1), Use(2, 2, "1", 1), Use(3, 1, "1", 2)])
    assert (held["device:1+2"].needed, held["device:1+2"].short) == (1, 0)
    assert (held["device:1"].needed, held["device:1"].short, held["device:1"].cure) == (1, 1, 100_00)


def test_a_term_that_is_over_entitles_to_nothing_and_one_without_limit_to_all():
    over = Licence(1, "Old", "device", 5, frozenset({7}), ends=date(2026, 5, 31), price=10_00)
    one = told([over], [Use(1, 7, "1", 1)])["device:7"]
    assert (one.entitled, one.short) == (0, 1)
    assert "no licence is in force" in [s.note for s in one.working]
    site = Licence(1, "All", "site", None, frozenset({7}))
    assert told([site], [Use(n, 7, "1", n) for n in range(9)])["site:7"].short == 0


def test_what_no_licence_names_is_a_balance_of_its_own_without_a_price():
    one = told([], [Use(1, 7, "1", 1), Use(2, 7, "1", 2)])["device:7"]
    assert (one.needed, one.entitled, one.short, one.cure) == (2, 0, 2, None)


@pytest.mark.parametrize(
    ("idle", "freed", "buy", "cost"),
    [
        # 28 needed, 20 owned: 8 short. Nothing idle: 4 packs of 2 at 2 × 775.
        ([], 0, 8, 8 * 775_00),
        # The smaller device's 12 are given up: 16 needed, nothing to buy.
        ([2], 12, 0, 0),
    ],
)
def test_the_cheapest_cure(idle, freed, buy, cost):
    uses = [Use(1, 7, "14", 1, processors=2, cores=12), Use(2, 7, "14", 2, processors=1, cores=12)]
    found = cures(told([cores(20)], uses)["core:7"], [Idle(u, "left") for u in uses if u.key in idle])
    assert (found[0].units_freed, found[0].buy, found[0].cost) == (freed, buy, cost)
    assert found[-1].buy == 8


def test_nothing_short_needs_no_cure():
    assert cures(told([cores(40)], [Use(1, 7, "14", 1, cores=8)])["core:7"], []) == []


def test_a_bearer_counted_as_a_pack_is_short_by_what_the_pack_lacks_and_its_pin_is_the_reason():
    """One of unknown cores counts as a pack of two; of its licence one is left, and it was pinned there by a person."""
    cores = Licence(1, "Cores", "core", 1, frozenset({1}), pack=2)
    anybody = Licence(2, "Anybody", "device", None, frozenset({1}))
    use = Use(key=1, product=1, release="15", device=1, since=date(2025, 1, 1), processors=1, cores=0)
    first, other = reckon(Basis(date(2026, 6, 1), [cores, anybody], [use], {1: 1}, {}, [])).balances
    assert (first.short, other.short) == (1, 0)
    (uncovered,) = first.uncovered
    assert uncovered.reasons == (("Cores", "it needs 2, and 1 of 1 are left"), ("Anybody", "it is pinned to another"))
