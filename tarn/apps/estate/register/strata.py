"""Strata: what a selection is made of, a proportional band a facet.

Columns of all assets are held in the process as small numpy arrays, one set a state of the
data (or a past day), so that a band is a count over an array and no statement at all.
"""

import time
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import Sql, holds, reckoned, within
from tarn.apps.estate.asking.told import HOME, values
from tarn.apps.estate.register.pages import field_expression
from tarn.apps.estate.register.results import BandOut
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE
from tarn.apps.estate.store.terms import terms
from tarn.apps.people.scope import scope
from tarn.core.fields import FIELDS
from tarn.core.filters.narrow import asked_by
from tarn.core.filters.parse import parse
from tarn.core.filters.tree import EVERYTHING, Compare, Node, Plain, Presence, Within, to_text
from tarn.core.own import PREFIX

BANDS = (
    "kind",
    "platform",
    "place",
    "last_seen",
    "evidence",
    "os.name",
    "manufacturer",
    "state",
    "department",
    "organisation",
    "memory",
    "exposure",
)
DEFAULT_BANDS = ("kind", "platform", "place", "last_seen", "evidence")

MOST_PARTS = 9
"""Parts a band shows by name; the rest are “others”."""

DAY = 86_400
_AGES = (("today", DAY), ("this week", 7 * DAY), ("2–4 weeks", 30 * DAY), ("over 30 days", None))
_AGE_FILTERS = (
    "last_seen >= now - 1d",
    "last_seen < now - 1d and last_seen >= now - 7d",
    "last_seen < now - 7d and last_seen >= now - 30d",
    "last_seen < now - 30d",
)
_SOURCES = (("1 source", "sources = 1"), ("2 sources", "sources = 2"), ("3+ sources", "sources >= 3"))
_GIB = 1 << 30
_MEMORY = (("under 4 GB", 4), ("4–8 GB", 8), ("8–16 GB", 16), ("16–64 GB", 64), ("64 GB and over", None))
_MEMORY_FILTERS = (
    "memory < 4GB",
    "memory >= 4GB and memory < 8GB",
    "memory >= 8GB and memory < 16GB",
    "memory >= 16GB and memory < 64GB",
    "memory >= 64GB",
)


def bands_there_are() -> list[str]:
    """Return the names of the bands: those there always are, and the fields of the company's own."""
    return [*BANDS, *(n for n in FIELDS if n.startswith(PREFIX))]


@dataclass
class Columns:
    """One state of the register as arrays, a position an asset span; `None` is -1."""

    assets: Any
    standing: Any
    terms: dict[str, Any]
    last_seen: Any
    sources: Any
    memory: Any
    words: dict[int, str]
    register: int


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a band: the assets `condition` narrows to, and how many they are."""

    label: str
    condition: Node
    count: int = 0


@dataclass(frozen=True)
class Divided:
    """A selection divided: the parts in their order, and for each that was selected the place of its part, or -1."""

    parts: list[Part]
    of: Any

    def all_counted(self) -> list[Part]:
        """Return the parts with how many each is, those that are none too."""
        counts = np.bincount(self.of[self.of >= 0], minlength=len(self.parts))
        return [replace(part, count=int(n)) for part, n in zip(self.parts, counts, strict=True)]

    def counted(self) -> list[Part]:
        """Return the parts that are any, with how many."""
        return [part for part in self.all_counted() if part.count]


_columns: Remembered[Columns] = Remembered("columns of the register", EVIDENCE, most=6, one_at_a_time=True)
_TERM_BANDS = {"kind": "kind", "platform": "platform", "place": "place", "os.name": "os_name"} | {
    n: n for n in ("manufacturer", "state", "department", "organisation")
}


def columns(at: int | None) -> Columns:
    """Return the columns as of a moment, from memory where they stand."""
    return _columns.get((at, scope()), lambda: _build(at))


def _build(at: int | None) -> Columns:
    db = raw_connection()
    names = list(dict.fromkeys(_TERM_BANDS.values()))
    condition, limited = holds("s", at), scope()
    if limited is not None:
        mine = within(terms.refresh(db), limited)
        condition = Sql(f"{condition.text} AND {mine.text}", [*condition.values, *mine.values])
    picked = ", ".join(f"ifnull(s.{n}_id, -1)" for n in names)
    seen, sources = f"ifnull({reckoned('seen.last', at)}, 0)", reckoned("seen.sources", at)
    cursor = db.execute(
        f"SELECT s.asset_id, ifnull(s.standing_id, -1), {seen}, {sources}, ifnull(s.memory, -1), {picked} "
        f"FROM estate_assetspan s JOIN estate_asset a ON a.id = s.asset_id WHERE {condition.text}",
        condition.values,
    )
    width = 5 + len(names)
    chunks = []
    while rows := cursor.fetchmany(20_000):
        chunks.append(np.array(rows, dtype=np.int64))
    table = np.concatenate(chunks) if chunks else np.empty((0, width), dtype=np.int64)
    table = table[np.argsort(table[:, 0])]
    words = dict(terms.refresh(db).words)
    register = next((i for i, t in words.items() if t == "register"), -1)
    codes = {n: table[:, 5 + i].astype(np.int32) for i, n in enumerate(names)}
    return Columns(
        table[:, 0].copy(),
        table[:, 1].astype(np.int32),
        codes,
        table[:, 2].copy(),
        table[:, 3].astype(np.int16),
        table[:, 4].copy(),
        words,
        register,
    )


def strata(asked: Question, bands: tuple[str, ...]) -> list[BandOut]:
    """Return the bands of a selection: each with its parts, the largest first.

    A part has its label, its count, `filter`: the condition that narrows to it, and `held`: the question asks that.
    """
    held = columns(asked.at)
    mask, is_asked = selected(held, asked), asked_by(asked.tree)
    return [
        {
            "name": name,
            "parts": [
                {
                    "label": part.label,
                    "count": part.count,
                    "filter": to_text(part.condition),
                    "held": is_asked(part.condition),
                }
                for part in _divided(name, held, mask, asked.at).counted()
            ],
        }
        for name in bands
    ]


def crossed(asked: Question, by: str, and_by: str) -> list[tuple[Part, list[Part]]]:
    """Return the parts of one band of a selection, each with how it divides by another: one count over two arrays.

    The parts within are the same ones in the same order in each, but those that are none there.
    """
    held = columns(asked.at)
    mask = selected(held, asked)
    outer, inner = (_divided(name, held, mask, asked.at) for name in (by, and_by))
    width = len(inner.parts)
    met = (outer.of >= 0) & (inner.of >= 0)
    counts = np.bincount(outer.of[met] * width + inner.of[met], minlength=len(outer.parts) * width)
    out = []
    for row, part in zip(counts.reshape(len(outer.parts), width), outer.all_counted(), strict=True):
        if part.count:
            within_it = [replace(p, count=int(n)) for p, n in zip(inner.parts, row, strict=True) if n]
            out.append((part, within_it))
    return out


def selected(held: Columns, asked: Question) -> Any:
    """Return which positions of the columns a question selects, as a mask."""
    if asked.tree == EVERYTHING and not asked.branch:
        return held.standing == held.register
    chosen = np.fromiter(ids(asked), dtype=np.int64)
    chosen.sort()
    mask = np.zeros(len(held.assets), dtype=bool)
    if len(chosen) and len(held.assets):
        places = np.searchsorted(held.assets, chosen)
        places = places[places < len(held.assets)]
        mask[places[np.isin(held.assets[places], chosen)]] = True
    return mask


def _divided(name: str, held: Columns, mask: Any, at: int | None) -> Divided:
    if name == "last_seen":
        age = (at or int(time.time())) - held.last_seen[mask]
        return Divided(_labelled(_AGES, _AGE_FILTERS), np.digitize(age, [n for _, n in _AGES if n]))
    if name == "evidence":
        parts = [Part(label, parse(text)) for label, text in reversed(_SOURCES)]
        return Divided(parts, 3 - np.clip(held.sources[mask], 1, 3).astype(np.int64))
    if name == "memory":
        known = held.memory[mask]
        steps = np.digitize(known, [gib * _GIB for _, gib in _MEMORY if gib])
        parts = [*_labelled(_MEMORY, _MEMORY_FILTERS), Part("none known", Presence("memory", False))]
        return Divided(parts, np.where(known < 0, len(parts) - 1, steps))
    if FIELDS[name].stored.startswith(HOME):
        return _told(name, held, mask, at)
    if name.startswith(PREFIX):
        return _own(name, held, mask, at)
    return _words(name, held.terms[_TERM_BANDS[name]][mask], held.words)


def _labelled(steps: tuple[tuple[str, int | None], ...], filters: tuple[str, ...]) -> list[Part]:
    return [Part(label, parse(text)) for (label, _), text in zip(steps, filters, strict=True)]


def _placed(values: Iterable[Any], order: dict[Any, int]) -> Any:
    return np.fromiter((order.get(value, -1) for value in values), dtype=np.int64)


def _told(name: str, held: Columns, mask: Any, at: int | None) -> Divided:
    """Return the parts of a field that another app reckons, in the order of its words."""
    field = FIELDS[name]
    said = values(field.stored.partition(".")[2], at)
    parts = [*(_of_word(name, word) for word in field.choices), Part("none", Presence(name, False))]
    order = {word: n for n, word in enumerate([*field.choices, None])}
    return Divided(parts, _placed(map(said.get, held.assets[mask].tolist()), order))


def _own(name: str, held: Columns, mask: Any, at: int | None) -> Divided:
    """Return the parts of a field of the company's own: its commonest values, as they are."""
    field = FIELDS[name]
    cursor = raw_connection().execute(
        f"SELECT s.asset_id, {field_expression(field, at)} FROM estate_assetspan s WHERE {holds('s', at).text}",
        holds("s", at).values,
    )
    said = dict(cursor)
    chosen = [said[asset] for asset in held.assets[mask].tolist() if asset in said]
    commonest = [value for value, _ in Counter(chosen).most_common(MOST_PARTS)]
    return Divided(
        [_of_word(name, _as_said(value, field.type)) for value in commonest],
        _placed(map(said.get, held.assets[mask].tolist()), {value: n for n, value in enumerate(commonest)}),
    )


def _as_said(value: Any, type_: str) -> str | None:
    if value is None:
        return None
    if type_ == "yes/no":
        return "yes" if value else "no"
    return str(value)[:10] if type_ == "moment" and value else str(value)


def _words(name: str, codes: Any, words: dict[int, str]) -> Divided:
    counts = np.bincount(codes + 1) if len(codes) else np.array([], dtype=np.int64)
    found = [int(i) for i in np.argsort(-counts, kind="stable") if counts[i]]
    shown, rest = (found, []) if len(found) <= MOST_PARTS + 1 else (found[:MOST_PARTS], found[MOST_PARTS:])
    if 0 in rest:  # “none known” is a part of its own: what lists the others by name would not hold them
        rest.remove(0)
        shown.append(0)
    parts = [_of_word(name, None if i == 0 else words[i - 1]) for i in shown]
    place = np.full(max(len(counts), 1), len(parts), dtype=np.int64)
    place[shown] = np.arange(len(shown))
    if rest:
        listed = Within(name, tuple(Plain(words[i - 1]) for i in rest))
        parts.append(Part(f"{len(rest)} others", listed))
    return Divided(parts, place[codes + 1])


def _of_word(name: str, word: str | None) -> Part:
    return Part("none known", Presence(name, False)) if word is None else Part(word, Compare(name, "=", Plain(word)))


assert all(n in FIELDS or n == "evidence" for n in BANDS)
