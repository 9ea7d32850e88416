"""What Tarn says, in the language of whoever reads it.

Everything is written in English where it is known: in rules, refusals, evidence that says why. A reader of another
language is told the same by a catalogue of such texts: each stands there as it is written, with {1}, {2} … where a
value goes, and so a sentence is known again by its shape, also one that was kept long ago or holds another sentence
as one of its values. What stands in no catalogue (a name, a note, another system's words) is handed on as it is.
"""

import json
import re
from functools import cache, lru_cache
from html import escape, unescape
from importlib.resources import files
from typing import NamedTuple

LANGUAGES = {"en": "English", "de": "Deutsch"}
"""The languages Tarn speaks, by language tag (RFC 5646), each by its own name."""

_SLOT = re.compile(r"\{(\d)\}")
_SENTENCE = re.compile(r"(?<=[.?!”]) (?=[A-Z])")
_MARKS = re.compile(r"(<style.*?</style>|<script.*?</script>|<[^>]*>)", re.DOTALL)
_WORD = re.compile(r"[^\W\d_]+")
_MONTHS = {
    "en": "January February March April May June July August September October November December",
    "de": "Januar Februar März April Mai Juni Juli August September Oktober November Dezember",
}
_DAY = {"de": "{0}. {1}{2}"}
"""How a day is written: its number, its month, and the year and time where they are said."""
_DATE = re.compile(rf"(\d{{1,2}}) ({_MONTHS['en'].replace(' ', '|')})((?: \d{{4}})?(?:, \d\d:\d\d)?)")
_LEAST_LETTERS = 4
"""So many letters of its own a text has to have to be known again by its shape."""


class _Shape(NamedTuple):
    pattern: re.Pattern[str]
    order: tuple[int, ...]
    says: str


class _Catalogue(NamedTuple):
    whole: dict[str, str]
    shapes: dict[str, list[_Shape]]
    """Texts with values, by the longest word of theirs: what does not have it is none of them."""


def said_in(text: str, language: str) -> str:
    """A text as a reader of `language` (a tag of `LANGUAGES`) is told it; as it is, where no catalogue has it."""
    if language == "en" or language not in LANGUAGES or not text:
        return text
    return _said(text, language)


@lru_cache(maxsize=20_000)
def _said(text: str, language: str) -> str:
    bare = text.strip()
    told = _dated(bare, language) or _catalogue(language).whole.get(bare)
    if told is None:
        told = _sentences(bare, language) or _known(bare, language)
    if told is None and bare[-1:] in ".:" and len(bare) > 1:
        told = _ended(_known(bare[:-1], language), bare[-1])
    if told is None and bare[:1].isupper():
        told = _begun(_known(bare[:1].lower() + bare[1:], language))
    if told is None:
        told = _listed(bare, language)
    return text if told is None else text.replace(bare, told, 1)


def letter_in(text: str, language: str) -> str:
    """A letter, line by line; what its sender wrote stays as it is."""
    return "\n".join(said_in(line, language) for line in text.split("\n"))


def page_in(markup: str, language: str) -> str:
    """A page of HTML, text by text; its marks, styles and scripts stay as they are."""
    pieces = _MARKS.split(markup)
    return "".join(
        piece if at % 2 else escape(said_in(unescape(piece), language), quote=False) if piece.strip() else piece
        for at, piece in enumerate(pieces)
    )


def _dated(text: str, language: str) -> str | None:
    """A day as people write it, “7 December 2026”."""
    found = _DATE.fullmatch(text)
    if found is None:
        return None
    return _DAY[language].format(found[1], _month(found[2], language), found[3])


def _month(name: str, language: str) -> str:
    return _MONTHS[language].split()[_MONTHS["en"].split().index(name)]


def _ended(told: str | None, by: str) -> str | None:
    return None if told is None else told + by


def _begun(told: str | None) -> str | None:
    return None if told is None else told[:1].upper() + told[1:]


def _known(text: str, language: str) -> str | None:
    """The text by the catalogue, as a whole or by its shape; of two that fit, the one with more of its own."""
    catalogue = _catalogue(language)
    whole = catalogue.whole.get(text)
    if whole is not None:
        return whole
    best: tuple[int, _Shape, re.Match[str]] | None = None
    for word in dict.fromkeys(_WORD.findall(text)):
        for shape in catalogue.shapes.get(word, ()):
            found = shape.pattern.fullmatch(text)
            own = len(shape.pattern.pattern)
            if found and (best is None or own > best[0]):
                best = own, shape, found
    if best is None:
        return None
    _, shape, found = best
    values = {number: _said(found[at + 1], language) if found[at + 1] else "" for at, number in enumerate(shape.order)}
    return _SLOT.sub(lambda slot: values.get(int(slot[1]), ""), shape.says)


def _sentences(text: str, language: str) -> str | None:
    """Several sentences, of which each is known."""
    said = _SENTENCE.split(text)
    if len(said) < 2:
        return None
    told = [_known(one, language) for one in said]
    return " ".join(str(one) for one in told) if all(told) else None


def _listed(text: str, language: str) -> str | None:
    """A list of things that are all known, thing by thing."""
    for mark in ("; ", ", "):
        parts = text.split(mark)
        if len(parts) > 1:
            told = [_known(part.strip(), language) for part in parts]
            if all(told):
                return mark.join(str(part) for part in told)
    return None


@cache
def _catalogue(language: str) -> _Catalogue:
    name = {"de": "german.json"}[language]
    entries: dict[str, str] = json.loads(files(__package__).joinpath(name).read_text("utf-8"))
    whole, shapes = {}, {}  # type: dict[str, str], dict[str, list[_Shape]]
    for english, says in entries.items():
        bare = english.strip()
        if not _SLOT.search(bare):
            whole[bare] = says.strip()
            continue
        pieces = _SLOT.split(bare)
        own = _WORD.findall(" ".join(pieces[::2]))
        if sum(map(len, own)) < _LEAST_LETTERS:
            continue
        order, pattern = [], ""  # type: list[int], str
        for at, piece in enumerate(pieces):
            if at % 2 == 0:
                pattern += re.escape(piece)
            elif int(piece) in order:
                pattern += rf"(?:\{order.index(int(piece)) + 1})"
            else:
                pattern += "(.*?)"
                order.append(int(piece))
        shape = _Shape(re.compile(pattern, re.DOTALL), tuple(order), says.strip())
        shapes.setdefault(max(own, key=len), []).append(shape)
    return _Catalogue(whole, shapes)
