"""Truth among witnesses, history from spans, and guesses at kind."""

from tarn.core.history import Edge, pair
from tarn.core.kinds import guess
from tarn.core.outcomes import REASONS, explain
from tarn.core.truth import Claim, because, order


def claim(kind, value, confirmed, section="hardware", source=1):
    return Claim(source, kind, section, value, 0, confirmed)


def test_a_pin_outranks_a_reading_and_a_reading_a_file_however_fresh():
    claims = [claim("file", 32, 900), claim("sweep", 16, 100), claim("hand", 8, 1)]
    assert [c.value for c in order(claims)] == [8, 16, 32]
    assert "person" in because(claims)
    assert "machine" in because(claims[:2])


def test_within_a_rank_the_fresher_wins_and_a_guess_comes_last():
    claims = [
        claim("sweep", 16, 100, source=1),
        claim("reporter", 32, 200, source=2),
        claim("sweep", 1, 999, "recognition", 3),
    ]
    assert [c.value for c in order(claims)] == [32, 16, 1]
    assert "confirmed last" in because(claims)
    assert because(claims[:1]) == "Only one source speaks of it."


def edges(*told):
    return [Edge(1, thing, release, at, begins) for thing, release, at, begins in told]


def test_an_update_is_one_change_and_a_lower_release_is_a_roll_back():
    changes = pair(
        edges(
            ("quill", "16.0", 5, False),
            ("quill", "16.1", 5, True),
            ("plan", "7.4.3", 6, False),
            ("plan", "7.4.2", 6, True),
        )
    )
    assert [(c.thing, c.verb, c.before, c.after) for c in changes] == [
        ("plan", "rolled back", "7.4.3", "7.4.2"),
        ("quill", "updated", "16.0", "16.1"),
    ]


def test_removal_in_one_reading_and_install_in_the_next_is_an_update_but_not_two_later():
    told = edges(("quill", "16.0", 5, False), ("quill", "16.1", 8, True))
    assert [c.verb for c in pair(told, {1: [2, 5, 8]})] == ["updated"]
    assert sorted(c.verb for c in pair(told, {1: [2, 5, 6, 8]})) == ["installed", "removed"]


def test_install_and_removal_alone():
    changes = pair(edges(("drift", "2.9", 3, True), ("ostler", "5.1", 4, False)))
    assert [(c.thing, c.verb) for c in changes] == [("ostler", "removed"), ("drift", "installed")]


def test_two_releases_of_one_product_are_paired_in_order():
    changes = pair(edges(("k", "1", 5, False), ("k", "2", 5, False), ("k", "3", 5, True), ("k", "4", 5, True)))
    assert sorted((c.before, c.after) for c in changes) == [("1", "3"), ("2", "4")]


def test_guesses_say_why_and_how_sure():
    printer = guess({"description": "Quarto Folio 420 laserprint printer", "name": "salt-prn-01"}, {9100, 80}, set())
    assert printer.kind == "printer"
    assert printer.sure > 80
    assert any("9100" in r for r in printer.reasons)
    server = guess({"platform": "Linux", "name": "salt-tix-01"}, {22, 5432}, {"grebe-database"})
    assert server.kind == "server"
    unknown = guess({}, set(), set())
    assert (unknown.kind, unknown.sure) == ("device", 20)


def test_every_reason_has_words_and_a_missing_detail_is_no_crash():
    for code in REASONS:
        says, remedy = explain(code)
        assert says
        assert "{" not in says + remedy
