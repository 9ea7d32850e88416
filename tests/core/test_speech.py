"""What Tarn says, in another language: every refusal has its German, and what is told there is told of the same things."""

import ast
import json
import re
import string
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import tarn
from tarn.core.fields import ASSET_FIELDS, GROUPS
from tarn.core.filters.german import german
from tarn.core.filters.parse import parse
from tarn.core.items import SECTIONS
from tarn.core.speech import _catalogue, letter_in, page_in, said_in

EVERY_FIELD = [*ASSET_FIELDS, *(f for group in GROUPS.values() for f in group.values())]
ROOT = Path(tarn.__file__).parent
GERMAN: dict[str, str] = json.loads((ROOT / "core/speech/german.json").read_text("utf-8"))
SLOT = re.compile(r"\{(\w+)\}")
PLACES = ("core", "apps", "collect")
NOT_FOR_PEOPLE = {"ValueError", "TypeError", "KeyError", "LookupError", "AssertionError", "NotImplementedError"}
"""What says that a caller of code went wrong, not a person."""


def numbered(text: str) -> str:
    """A text as the catalogue has it: its values as {1}, {2} … in the order they first stand in."""
    names: list[str] = []

    def number(slot: re.Match[str]) -> str:
        if slot[1] not in names:
            names.append(slot[1])
        return f"{{{names.index(slot[1]) + 1}}}"

    return SLOT.sub(number, text)


def texts(node: ast.AST) -> Iterator[str]:
    """The texts an expression may be: of a condition both, of a sum its parts."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        yield numbered(node.value)
    elif isinstance(node, ast.JoinedStr):
        known: dict[str, str] = {}
        said = ""
        for piece in node.values:
            if isinstance(piece, ast.Constant):
                said += str(piece.value)
            else:
                name = known.setdefault(ast.unparse(piece), f"v{len(known)}")
                said += f"{{{name}}}"
        yield numbered(said)
    elif isinstance(node, ast.IfExp):
        yield from texts(node.body)
        yield from texts(node.orelse)


def refusals() -> Iterator[tuple[str, str]]:
    """Every text something is refused with, and where."""
    for place in PLACES:
        for path in sorted((ROOT / place).rglob("*.py")):
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if not isinstance(node, ast.Raise) or not isinstance(node.exc, ast.Call):
                    continue
                named = node.exc.func
                kind = named.id if isinstance(named, ast.Name) else getattr(named, "attr", "")
                if kind in NOT_FOR_PEOPLE:
                    continue
                for given_ in node.exc.args:
                    for text in texts(given_):
                        own = SLOT.sub("", text)
                        if text[:1].isupper() and " " in own.strip() and sum(map(str.isalpha, own)) >= 4:
                            yield text, f"{path.relative_to(ROOT)}:{node.lineno}"


def test_every_refusal_has_its_german() -> None:
    missing = [f"{where}: {text}" for text, where in refusals() if text.strip() not in {k.strip() for k in GERMAN}]
    assert not missing


def test_every_field_is_called_and_explained_in_german() -> None:
    missing = {text for f in EVERY_FIELD for text in (f.heading, f.meaning)} - GERMAN.keys()
    assert not missing


def deeds() -> Iterator[str]:
    """What the trail of changes says was done."""
    for path in sorted((ROOT / "apps").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "record" and len(node.args) > 1:
                yield from texts(node.args[1])


def test_every_deed_in_the_trail_has_its_german() -> None:
    said = set(deeds())
    assert len(said) > 150
    assert said - GERMAN.keys() - {"{1} a {2}"} == set()


def test_every_list_that_may_be_read_by_sql_is_explained_in_german() -> None:
    told = (" ".join(str(s.item.__doc__).split("\n\n")[0].split()) for s in SECTIONS.values() if not s.secrets)
    assert not set(told) - GERMAN.keys()


def test_a_text_tells_the_same_values() -> None:
    assert [e for e, said in GERMAN.items() if not set(SLOT.findall(said)) <= set(SLOT.findall(e))] == []


values = st.text(string.ascii_letters + string.digits + " .-ÄÖÜßé", min_size=1, max_size=12).filter(str.strip)


@given(english=st.sampled_from(sorted(GERMAN)), data=st.data())
def test_a_sentence_is_known_by_its_shape_whatever_its_values(english: str, data: st.DataObject) -> None:
    slots = sorted(set(SLOT.findall(english)))
    filled = {slot: f"«{data.draw(values).strip()}»" for slot in slots}
    told = said_in(SLOT.sub(lambda s: filled[s[1]], english), "de")
    own = SLOT.sub("", english)
    if not slots or sum(map(str.isalpha, own)) >= 4:
        for slot in set(SLOT.findall(GERMAN[english])):
            assert filled[slot] in told
    if not slots:
        assert told.strip() == GERMAN[english].strip()


def test_a_sentence_within_a_sentence_is_told_too() -> None:
    said = "Nothing was decided: there is no asset 5."
    assert said_in(said, "de") == "Nichts wurde entschieden: es gibt kein Asset 5."


def test_a_day_is_written_as_the_reader_writes_it() -> None:
    assert said_in("Link to Grey Ness: notice by 7 May", "de") == "Link to Grey Ness: Kündigung bis 7. Mai"
    assert said_in("as of 1 December 2026", "de") == "Stand 1. Dezember 2026"
    assert said_in("3 Devices", "de") == "3 Devices"


def test_names_and_notes_stay_as_they_are() -> None:
    for name in ("salt-lt-04", "Una Skerry", "Berth view", "the key hangs by the door"):
        assert said_in(name, "de") == name
    assert said_in("There is a report “Telnet” already.", "de") == "Es gibt schon einen Bericht „Telnet“."


def test_english_is_handed_on_and_unknown_languages_are_read_in_english() -> None:
    assert said_in("Telnet answers", "en") == said_in("Telnet answers", "fr") == "Telnet answers"


def test_a_letter_is_told_line_by_line_and_a_page_text_by_text() -> None:
    assert letter_in("Telnet answers\n\nsalt-lt-04", "de") == "Telnet antwortet\n\nsalt-lt-04"
    page = "<style>p{color:red}</style><p class='a'>Telnet answers</p><td>a &lt; b</td>"
    assert page_in(page, "de") == "<style>p{color:red}</style><p class='a'>Telnet antwortet</p><td>a &lt; b</td>"


def test_each_shape_stands_once() -> None:
    shapes = [s.pattern.pattern for some in _catalogue("de").shapes.values() for s in some]
    assert len(shapes) == len(set(shapes))


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ("kind = printer and place = Saltholm", "Assets, bei denen „Art“ Drucker ist und bei denen „Ort“ Saltholm ist"),
        ("last_seen < now - 30d", "Assets, bei denen „Zuletzt gesehen“ vor jetzt − 30 Tage liegt"),
        ("memory < 16GB or not kind = server", "Assets, bei denen „Speicher“ unter 16GB ist oder nicht"),
        ("no protections", "Assets, die keine Schutzprodukte haben"),
        ("certificates[ends < now]", "Assets, die Zertifikate haben, bei denen „Endet“ vor jetzt liegt"),
        ("count disks > 2", "Assets, bei denen die Zahl von Platten über 2 ist"),
        ("depends on [name = salt-db-01] heard within 7d", "Assets, die abhängen von: Assets, bei denen"),
        ('in set "Laptops"', "Assets, in der Sammlung „Laptops“"),
        ("unread software", "Assets, bei denen Software nie gelesen wurden"),
        ("serial = none", "Assets, bei denen „Seriennummer“ nicht bekannt ist"),
        ("address in 10.60.4.0/24", "Assets, bei denen „Adresse“ in 10.60.4.0/24 ist"),
        ("name ~ /^salt-/", "Assets, bei denen „Name“ auf das Muster"),
        ("ferry timetable", "Assets, in denen vorkommt: „ferry“"),
    ],
)
def test_a_question_is_a_german_sentence(asked: str, said: str) -> None:
    assert said in german(parse(asked))
