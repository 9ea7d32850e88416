"""Completion: whatever is offered may stand there, and reads as what was meant."""

from collections.abc import Sequence

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tarn.core.fields import FIELDS, GROUPS
from tarn.core.filters.complete import complete
from tarn.core.filters.english import english
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.tree import Compare, InSet, Plain, Presence

words = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp")), min_size=1, max_size=14)


def offered(text: str, values: Sequence[str] = (), sets: Sequence[str] = ()) -> list[str]:
    return [
        text[: o.start] + o.text
        for o in complete(text, len(text), lambda f, b, n: list(values), ["suites"], list(sets))
    ]


@given(words)
def test_a_value_that_is_offered_reads_as_that_value(word):
    value = " ".join(word.split())
    if not value:
        return
    read = [parse(text) for text in offered("name = ", [value])]
    assert any(isinstance(t, Compare) and isinstance(t.value, Plain) and t.value.text == value for t in read)


def test_relations_are_offered_and_within_them_anything_of_an_asset():
    assert "talks to [" in offered("talk")
    assert "depends on [software[" in offered("depends on [soft")
    assert "depends on [plugged into [" in offered("depends on [plug")


@given(words)
@example("/")
def test_a_set_that_is_offered_reads_as_that_set(word):
    [text, *_] = offered("in set ", sets=[word])
    tree = parse(text)
    assert isinstance(tree, InSet)
    assert tree.name == word


@pytest.mark.parametrize("word", ["and", "none", "today", "count", "Now", "in"])
def test_a_value_that_is_a_word_of_the_language_stands_in_quotes(word):
    assert f'name = "{word}"' in offered("name = ", [word])
    tree = parse(f'name = "{word}"')
    assert not isinstance(tree, Presence)
    assert isinstance(tree, Compare)


BEGUN = [
    "",
    "ki",
    "kind ",
    "kind = ",
    "kind = serv",
    "kind = server ",
    "kind = server and ",
    "kind in (",
    "depends on [",
    "no talks to [soft",
    "software[",
    "software[ver",
    "software[version ",
    "no software[name ~ ",
    "last_seen < ",
    "memory ",
    "manufacturer = ",
    "kind = server or not (place = Saltholm and ",
]
_AFTER = {
    "field": ["= none", "]"],
    "list": ["name ~ a]"],
    "comparison": ["none", "4GB", "1", "10.0.0.1", "now - 7d"],
    "value": ["", "]", ")"],
    "phrase": ["", "]", ")"],
    "set": [""],
    "word": ["kind = server", "software", '"x"', "software[name ~ a]", "software > 1"],
}


@pytest.mark.parametrize("text", BEGUN)
def test_all_that_is_offered_can_be_gone_on_with(text):
    """Each offer, followed by something that may follow its sort, is a filter that can be read."""
    offers = complete(text, len(text), lambda f, b, n: ["Quill Office"], ["suites"], ["fine"])
    assert offers
    for offer in offers:
        begun = text[: offer.start] + offer.text
        closed = [f"{begun} {more} {end}" for more in _AFTER[offer.kind] for end in ("", ")", "]", "= none", "= none]")]
        assert any(_reads(one) for one in closed), (begun, offer.kind)


def _reads(text: str) -> bool:
    try:
        parse(text)
    except FilterError:
        return False
    return True


@given(st.text(max_size=30), st.integers(0, 30))
def test_whatever_is_typed_completion_answers(text, cursor):
    at = min(cursor, len(text))
    for offer in complete(text, at, lambda f, b, n: [], [], []):
        assert 0 <= offer.start <= at


@pytest.mark.parametrize("name", sorted(FIELDS))
def test_every_field_has_a_sentence(name):
    said = english(parse(f"{name} = none"))
    assert said.startswith("assets that have no ")


@pytest.mark.parametrize("group", sorted(GROUPS))
def test_every_list_has_a_sentence_for_some_none_and_how_many(group):
    first = next(iter(GROUPS[group]))
    assert english(parse(f"{group}[{first} = none]")).startswith("assets with some ")
    assert english(parse(f"no {group}")).startswith("assets with no ")
    assert english(parse(f"count {group} >= 2")).startswith("assets whose number of ")


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "all assets"),
        ("kind = server", "assets whose kind is server"),
        ("kind in (server, till)", "assets whose kind is one of server or till"),
        ("last_seen < now - 30d", "assets whose last seen is before 30 days before now"),
        ("last_seen < now - 1d", "assets whose last seen is before 1 day before now"),
        ("name !~ tix", "assets whose name does not contain tix"),
        ("memory in 4GB .. 8GB", "assets whose memory is within 4GB to 8GB"),
        ("not kind = till", "assets not (whose kind is till)"),
        ("tansy laptop", "assets that mention “tansy” and “laptop”"),
        ('in set "fine"', "assets in the set “fine”"),
        ("no guest of [kind = till]", "assets that do not run as guests of assets whose kind is till"),
        ("unread accounts", "assets of which no accounts were ever read"),
    ],
)
def test_a_question_is_said_as_one_would(text, sentence):
    assert english(parse(text)) == sentence
