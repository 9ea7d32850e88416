"""Reading a filter's text into a tree, with errors that name the place."""

import json
import re
from functools import lru_cache
from pathlib import Path
from typing import Any

from lark import Lark, Token, Transformer, UnexpectedInput, UnexpectedToken

from tarn.core.filters.tree import (
    EVERYTHING,
    All,
    Any_,
    Between,
    Compare,
    Counted,
    Has,
    InSet,
    Moment,
    Node,
    Not,
    Pattern,
    Phrase,
    Plain,
    Presence,
    Related,
    Unread,
    Within,
    Words,
)

MOST_TEXT = 8_000
"""Characters a filter may have; more is a paste gone wrong."""

MOST_DEPTH = 40
"""How deep parentheses, brackets and “not” may be nested."""


class FilterError(ValueError):
    """A filter that cannot be read: `start` and `end` are its place in the text, `try_` what might be meant."""

    def __init__(self, message: str, start: int = 0, end: int | None = None, try_: list[str] | None = None) -> None:
        super().__init__(message)
        self.message, self.start, self.end = message, start, start + 1 if end is None else end
        self.try_ = try_ or []


@lru_cache(maxsize=1)
def grammar() -> Lark:
    """Return the parser, built once from the grammar file."""
    text = Path(__file__).with_name("grammar.lark").read_text(encoding="utf-8")
    return Lark(text, parser="lalr", propagate_positions=False, maybe_placeholders=True)


_SHIFT = re.compile(r"([+-])\s*(\d+)\s*(min|mo|h|d|w|y)")


class _Build(Transformer[Token, Any]):
    def start(self, children: list[Any]) -> Node:
        return children[0] if children and children[0] is not None else EVERYTHING

    def either(self, c: list[Any]) -> Node:
        items = [x for x in c if not isinstance(x, Token)]
        return items[0] if len(items) == 1 else Any_(tuple(items))

    def both(self, c: list[Any]) -> Node:
        items = [x for x in c if not isinstance(x, Token)]
        return items[0] if len(items) == 1 else All(tuple(items))

    def negated(self, c: list[Any]) -> Node:
        return Not(c[1])

    def name(self, c: list[Any]) -> Token:
        return c[0]

    def own_field(self, c: list[Any]) -> Token:
        return Token.new_borrow_pos("NAME", "field:" + json.loads(c[1]), c[0])

    def plain(self, c: list[Any]) -> Plain:
        return Plain(str(c[0]), False, c[0].start_pos)

    def quoted(self, c: list[Any]) -> Plain:
        return Plain(_unquote(c[0]), True, c[0].start_pos)

    def regex(self, c: list[Any]) -> Pattern:
        return Pattern(str(c[0])[1:-1], c[0].start_pos)

    def phrase(self, c: list[Any]) -> Phrase:
        return Phrase(str(c[0])[1:], c[0].start_pos)

    def moment(self, c: list[Any]) -> Moment:
        shifts = []
        for token in c[1:]:
            match = _SHIFT.match(token)
            assert match is not None
            shifts.append((match[1], int(match[2]), match[3]))
        base = str(c[0])
        return Moment(base.lower() if base.lower() in ("today", "now") else base, tuple(shifts), c[0].start_pos)

    def span_of(self, c: list[Any]) -> Between:
        return Between(c[0], c[1], c[0].pos)

    def several(self, c: list[Any]) -> tuple[Any, ...]:
        return tuple(c)

    def compare(self, c: list[Any]) -> Node:
        return Compare(str(c[0]), str(c[1]), c[2], c[0].start_pos)

    def presence(self, c: list[Any]) -> Node:
        return Presence(str(c[0]), c[1] == "!=", c[0].start_pos)

    def within(self, c: list[Any]) -> Node:
        values = c[2] if isinstance(c[2], tuple) else (c[2],)
        return Within(str(c[0]), values, c[0].start_pos)

    def has(self, c: list[Any]) -> Node:
        if len(c) == 2:
            return Has(str(c[1]), None, True, c[1].start_pos)
        no = c[0] is not None and c[0].lower() == "no"
        return Has(str(c[1]), c[2], no, c[1].start_pos)

    def counted(self, c: list[Any]) -> Node:
        return Counted(str(c[1]), str(c[3]), c[4], c[2], c[1].start_pos)

    def unread(self, c: list[Any]) -> Node:
        return Unread(str(c[1]).lower(), c[1].start_pos)

    def in_set(self, c: list[Any]) -> Node:
        name = _unquote(c[1]) if c[1].type == "STRING" else str(c[1])
        return InSet(name, c[1].start_pos)

    def relation(self, c: list[Any]) -> Node:
        heard = re.sub(r"(?i)heard\s+within\s+(\d+)\s*(\w)", r"\1\2", c[3].lower()) if c[3] is not None else ""
        return Related(re.sub(r"\s+", " ", c[1].lower()), c[2], c[0] is not None, c[1].start_pos, heard)

    def words(self, c: list[Any]) -> Node:
        return Words(tuple(_unquote(t) if t.type == "STRING" else str(t) for t in c), c[0].start_pos)


def _unquote(token: str) -> str:
    return re.sub(r"\\(.)", r"\1", token[1:-1])


_build = _Build()
_PICKED = re.compile(r"^number in \(((?:[A-Z]+-?\d+, )+[A-Z]+-?\d+)\)$")


@lru_cache(maxsize=500)
def parse(text: str) -> Node:
    """Read a filter. Empty text asks for everything. Raises FilterError with the place.

    Trees never change, and one filter is asked many times: for its count, its bands, every page.
    """
    if (picked := _PICKED.match(text)) is not None:
        # Devices picked one by one, thousands of them: a list of numbers and nothing else is read without a grammar.
        numbers = (Plain(match[0], False, match.start()) for match in re.finditer(r"[\w-]+", picked[1]))
        at = len("number in (")
        return Within("number", tuple(Plain(p.text, False, p.pos + at) for p in numbers), 0)
    if len(text) > MOST_TEXT:
        raise FilterError(f"A filter may have {MOST_TEXT:,} characters; this has {len(text):,}.", MOST_TEXT, len(text))
    _shallow(text)
    try:
        tree = grammar().parse(text)
        if tree is None:
            return EVERYTHING
        built: Node = _build.transform(tree)
        return built
    except UnexpectedInput as error:
        raise _explain(text, error) from None


def _shallow(text: str) -> None:
    """Refuse a filter nested deeper than anybody reads. Raises FilterError with the place."""
    depth = nots = 0
    for match in re.finditer(r'"(?:[^"\\]|\\.)*"|[(\[]|[)\]]|\bnot\b|\w+', text, re.IGNORECASE):
        sign = match[0].lower()
        nots = nots + 1 if sign == "not" else nots if sign in "([" else 0
        depth += (sign in ("(", "[")) - (sign in (")", "]"))
        if depth + nots > MOST_DEPTH:
            message = f"A filter may be nested {MOST_DEPTH} deep; keep a part of it as a set and ask “in set …”."
            raise FilterError(message, match.start(), match.end())


_EXPECTED = {
    "COMPARE": "a comparison (=, !=, <, <=, >, >=, ~)",
    "RPAR": "a closing parenthesis “)”",
    "RSQB": "a closing bracket “]”",
    "NAME": "a field or a word",
    "AND": "“and” or “or”",
}


def _explain(text: str, error: UnexpectedInput) -> FilterError:
    place = error.pos_in_stream if error.pos_in_stream is not None else len(text)
    if isinstance(error, UnexpectedToken) and error.token.type == "$END":
        last = max(len(text.rstrip()) - 1, 0)
        opened = text.count("(") - text.count(")"), text.count("[") - text.count("]")
        if opened[0] > 0:
            return FilterError("The filter ends before a parenthesis is closed: add “)”.", last, len(text))
        if opened[1] > 0:
            return FilterError("The filter ends before a bracket is closed: add “]”.", last, len(text))
        return FilterError("The filter stops short: " + _wanted(error) + " is missing at its end.", last, len(text))
    if isinstance(error, UnexpectedToken):
        token = error.token
        end = place + len(token)
        if token.type in ("NAME", "STRING") and "AND" in error.expected:
            before = text[:place].rstrip().rsplit(None, 1)[-1]
            tries = []
            if re.search(r"[=<>~]\s*[\w.\-]+$", text[:place].rstrip()):
                tries = [f'"{before} {token}"']
            message = f"“{token}” follows without a link: join it with “and” or “or”"
            return FilterError(message + (f", or put {tries[0]} in quotes." if tries else "."), place, end, tries)
        if (helped := _common_slip(text, place, token)) is not None:
            return helped
        return FilterError(f"“{token}” cannot stand here; expected {_wanted(error)}.", place, end)
    if text[place] == "/" and (path := re.match(r"/[^\s\])]*", text[place:])) is not None:
        return _in_quotes("A path", path[0], place)
    if text[place] in '"/':
        what = "a quotation" if text[place] == '"' else "a regular expression"
        return FilterError(f"Here {what} begins and is not closed.", place, len(text))
    if text[place] == ",":
        return _several(text, place)
    if text[place] in "+-" and (shift := re.match(r"[+-]\s*(\d+)\s*([a-z]+)", text[place:], re.IGNORECASE)):
        return _shift(shift[1], shift[2], place, place + shift.end())
    begun = re.search(r"[^\s=<>~\[(]*$", text[:place])
    word = (begun[0] if begun else "") + (re.match(r"[^\s\])]*", text[place:]) or [""])[0]
    if "\\" in word or "@" in word:
        return _in_quotes("A path" if "\\" in word else "A mail address", word, place - len(begun[0] if begun else ""))
    return FilterError(f"The sign “{text[place]}” has no meaning here.", place)


_SHIFT_UNITS = "min (minutes), h, d, w, mo (months) or y"


def _common_slip(text: str, place: int, token: Token) -> FilterError | None:
    """Return help with what people write for what is meant."""
    end = place + len(token)
    if token == ",":
        return _several(text, place)
    if token in (")", "]"):
        return FilterError(f"“{token}” closes what was not opened: take it away, or open it before.", place, end)
    if token.type == "PHRASE" and place and not text[place - 1].isspace():
        word = re.search(r"[^\s=<>~\[(]*$", text[:place])
        rest = re.match(r"[^\s\])]*", text[place:])
        begun = word[0] if word else ""
        return _in_quotes("A mail address", begun + (rest[0] if rest else ""), place - len(begun))
    if token.type == "REGEX" and (path := re.match(r"/[^\s\])]*", text[place:])) is not None:
        return _in_quotes("A path", path[0], place)
    return None


def _several(text: str, place: int) -> FilterError:
    match = re.search(r"([\w.]+)\s*=\s*([^=<>()\[\]]*)$", text[:place])
    after = re.match(r",\s*((?:(?!\s+(?:and|or)\b)[^=<>()\[\]])*)", text[place:])
    said = f"{match[1]} in ({match[2].strip()}, {after[1].strip()})" if match and after else "kind in (server, laptop)"
    return FilterError(f"Several values stand in parentheses: {said}.", place, place + 1, [said] if match else [])


def _shift(number: str, unit: str, place: int, end: int) -> FilterError:
    meant = next((u for u in ("min", "mo", "h", "d", "w", "y") if unit.lower().startswith(u)), "")
    tries = [f"{number}{meant}"] if meant else []
    message = f"A time is shifted by a number and {_SHIFT_UNITS}" + (f": write {tries[0]}." if tries else ".")
    return FilterError(message, place, end, tries)


def _in_quotes(what: str, word: str, place: int) -> FilterError:
    quoted = json.dumps(word, ensure_ascii=False)
    return FilterError(f"{what} stands in quotes: {quoted}.", max(place, 0), place + len(word), [quoted])


def _wanted(error: UnexpectedInput) -> str:
    expected = getattr(error, "expected", None) or getattr(error, "accepts", None) or set()
    if {"STRING", "REGEX"} <= set(expected):
        return "a value"
    for token, words in _EXPECTED.items():
        if token in expected:
            return words
    return "something else"
