"""Handbooks' documents: what is none is refused at its place; what is one comes out as it went in; issues that differ."""

import copy

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.handbooks.differing import differences
from tarn.core.handbooks.document import HandbookError, check, headings, plain, walk
from tarn.core.handbooks.flow import flow_of, words
from tarn.core.handbooks.live import LIVE, empty
from tarn.core.handbooks.shipped import HANDBOOKS, begun_in


def doc(*content):
    return {"type": "doc", "content": list(content)}


def p(*content):
    inner = [{"type": "text", "text": c} if isinstance(c, str) else c for c in content]
    return {"type": "paragraph", "content": inner} if inner else {"type": "paragraph"}


def live(key="a", kind="figure", **settings):
    return {"type": "live", "attrs": {"key": key, "kind": kind, "settings": settings}}


texts = st.text(st.characters(exclude_categories=("Cs", "Cc")), min_size=1, max_size=12)
marks = st.lists(st.sampled_from(["bold", "italic", "code"]), unique=True, max_size=2)
run = st.builds(
    lambda t, m: {"type": "text", "text": t} | ({"marks": [{"type": x} for x in m]} if m else {}), texts, marks
)
inline = run | st.just({"type": "hardBreak"}) | st.builds(lambda t: {"type": "footnote", "attrs": {"text": t}}, texts)
paragraph = st.lists(inline, max_size=4).map(lambda c: p(*c))
item = st.lists(paragraph, min_size=1, max_size=2).map(lambda c: {"type": "listItem", "content": c})
listed = st.lists(item, min_size=1, max_size=3).map(lambda c: {"type": "bulletList", "content": c})
cell = st.lists(paragraph, min_size=1, max_size=2).map(lambda c: {"type": "tableCell", "content": c})
row = st.lists(cell, min_size=1, max_size=3).map(lambda c: {"type": "tableRow", "content": c})
table = st.lists(row, min_size=1, max_size=3).map(lambda c: {"type": "table", "content": c})
documents = st.lists(paragraph | listed | table, max_size=6).map(lambda c: doc(*c))


@given(documents)
def test_a_document_comes_out_as_it_went_in_and_nothing_of_its_text_is_lost(document):
    made = check(document)
    assert made == check(made)
    assert plain(made) == plain(document)
    flow = flow_of("t", made, {}, {})
    told = "".join(words(piece.runs) + "".join(words(c) for r in piece.rows for c in r) for piece in flow.pieces)
    for _, node in walk(document):
        if node["type"] == "text":
            assert node["text"] in told
    assert flow.notes == [n["attrs"]["text"] for _, n in walk(document) if n["type"] == "footnote"]


@given(documents, st.data())
def test_what_differs_is_what_was_put_in(document, data):
    document = check(document)
    assert differences(document, document, {}, {}) == []
    more = copy.deepcopy(document)
    at = data.draw(st.integers(0, len(document.get("content", []))))
    more.setdefault("content", []).insert(at, p("something nobody wrote before"))
    (one,) = differences(document, more, {}, {})
    assert (one["before"], one["after"], one["what"]) == ("", "something nobody wrote before", "prose")


@pytest.mark.parametrize(
    ("document", "place", "says"),
    [
        ({"type": "paragraph"}, "document", "outermost"),
        (doc({"type": "script"}), "document[0]", "holds no “script”"),
        (doc(p(), doc()), "document[1]", "holds no “doc”"),
        (doc({"type": "heading", "attrs": {"level": 7}}), "document[0]", "level 1, 2 or 3"),
        (doc({"type": "table", "content": []}), "document[0]", "has to hold something"),
        (doc(p({"type": "text", "text": "x", "marks": [{"type": "link", "attrs": {"href": "javascript:x"}}]})), "paragraph[0]", "leads to http"),
        (doc(live(kind="weather")), "document[0]", "no live block"),
        (doc(live(colour="red")), "document[0].colour", "told nothing"),
        (doc(live(most=3, kind="report"), live(kind="report")), "document", "two live blocks"),
        (doc(p({"type": "variable", "attrs": {"name": "moon"}})), "paragraph[0]", "none of what is filled in"),
        (doc({"type": "paragraph", "attrs": {"style": "x"}}), "document[0]", "has no “style”"),
        (doc("text"), "document[0]", "holds no “text”"),
    ],
)  # fmt: skip
def test_what_is_no_document_is_refused_at_its_place(document, place, says):
    with pytest.raises(HandbookError) as refused:
        check(document)
    assert place in refused.value.place
    assert says in str(refused.value)


def test_a_document_that_lies_too_deep_is_refused():
    node = {"type": "bulletList", "content": [{"type": "listItem", "content": [p("x")]}]}
    for _ in range(20):
        node = {"type": "bulletList", "content": [{"type": "listItem", "content": [node]}]}
    with pytest.raises(HandbookError, match="too deep"):
        check(doc(node))


def test_rows_of_blocks_differ_by_what_they_are_known_by():
    def filled(*rows, figure=""):
        return {**empty("Servers", "table"), "rows": [list(r) for r in rows], "figure": figure}

    before = {"a": filled(("one", "Saltholm"), ("two", "Saltholm")), "f": filled(figure="7"), "gone": filled()}
    after = {"a": filled(("one", "Port Averne"), ("three", "Saltholm")), "f": filled(figure="8")}
    told = {(d["what"], d["before"], d["after"]) for d in differences(doc(), doc(), before, after)}
    assert told == {
        ("row", "one | Saltholm", "one | Port Averne"),
        ("row", "", "three | Saltholm"),
        ("row", "two | Saltholm", ""),
        ("figure", "7", "8"),
        ("block", "Servers", ""),
    }


@pytest.mark.parametrize("key", HANDBOOKS)
def test_each_handbook_that_ships_begins_in_german_with_the_same_blocks_and_variables(key):
    english, german = HANDBOOKS[key].document, begun_in(HANDBOOKS[key], "de").document
    assert check(german) == german
    said = [c["text"] for _, n in walk(german) for c in n.get("content", []) if c["type"] == "text"]
    assert not {c["text"] for _, n in walk(english) for c in n.get("content", []) if c["type"] == "text"} & {
        text for text in said if any(map(str.isalpha, text))
    }

    def frame(document):
        nodes = [n for _, n in walk(document)]
        named = sorted(n["attrs"]["name"] for n in nodes if n["type"] == "variable")
        return named, [(n["attrs"]["key"], n["attrs"]["kind"]) for n in nodes if n["type"] == "live"]

    assert frame(german) == frame(english)


@pytest.mark.parametrize("key", HANDBOOKS)
def test_each_handbook_that_ships_has_headings_blocks_and_its_own_keys(key):
    document = HANDBOOKS[key].document
    assert headings(document)[0] == (1, HANDBOOKS[key].name)
    kinds = [n["attrs"]["kind"] for _, n in walk(document) if n["type"] == "live"]
    assert kinds
    assert set(kinds) <= set(LIVE)
