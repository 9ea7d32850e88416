"""Strata: what a selection is made of, a proportional band a facet.

Columns of all assets are held in the process as small numpy arrays, one set a state of the
data (or a past day), so that a band is a count over an array and no statement at all.
"""

import time
from collections import Counter
from dataclasses import dataclass
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
                for part in _parts(name, held, mask, asked.at)
            ],
        }
        for name in bands
    ]


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


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a band: the assets `condition` narrows to, and how many they are."""

    label: str
    count: int
    condition: Node


def _parts(name: str, held: Columns, mask: Any, at: int | None) -> list[Part]:
    if name == "last_seen":
        age = (at or int(time.time())) - held.last_seen[mask]
        parts = _steps(age, [limit for _, limit in _AGES], [label for label, _ in _AGES], _AGE_FILTERS)
    elif name == "evidence":
        number = np.clip(held.sources[mask], 1, 3)
        found = [(label, int((number == i).sum()), f) for i, (label, f) in enumerate(_SOURCES, start=1)]
        parts = [Part(label, count, parse(text)) for label, count, text in reversed(found) if count]
    elif name == "memory":
        known = held.memory[mask]
        limits = [gib * _GIB if gib else None for _, gib in _MEMORY]
        parts = _steps(known[known >= 0], limits, [label for label, _ in _MEMORY], _MEMORY_FILTERS)
        missing = int((known < 0).sum())
        if missing:
            parts.append(Part("none known", missing, Presence("memory", False)))
    elif FIELDS[name].stored.startswith(HOME):
        parts = _told(name, held, mask, at)
    elif name.startswith(PREFIX):
        parts = _own(name, held, mask, at)
    else:
        parts = _words(name, held.terms[_TERM_BANDS[name]][mask], held.words)
    return parts


def _told(name: str, held: Columns, mask: Any, at: int | None) -> list[Part]:
    """Return the parts of a field that another app reckons, in the order of its words."""
    field = FIELDS[name]
    said = values(field.stored.partition(".")[2], at)
    counts = Counter(said.get(asset) for asset in held.assets[mask].tolist())
    parts = [_of_word(name, word, counts[word]) for word in field.choices if counts[word]]
    return [*parts, Part("none", counts[None], Presence(name, False))] if counts[None] else parts


def _own(name: str, held: Columns, mask: Any, at: int | None) -> list[Part]:
    """Return the parts of a field of the company's own: its commonest values, as they are."""
    field = FIELDS[name]
    cursor = raw_connection().execute(
        f"SELECT s.asset_id, {field_expression(field, at)} FROM estate_assetspan s WHERE {holds('s', at).text}",
        holds("s", at).values,
    )
    chosen = set(held.assets[mask].tolist())
    counts = Counter(value for asset, value in cursor if asset in chosen)
    parts: list[Part] = []
    for value, number in counts.most_common(MOST_PARTS):
        said = value[:10] if field.type == "moment" and value else value
        said = ("yes" if value else "no") if field.type == "yes/no" and value is not None else said
        parts.append(_of_word(name, None if value is None else str(said), number))
    return parts


def _steps(values: Any, limits: list[int | None], labels: list[str], filters: tuple[str, ...]) -> list[Part]:
    out: list[Part] = []
    below = 0
    for label, limit, condition in zip(labels, limits, filters, strict=True):
        upto = len(values) if limit is None else int((values < limit).sum())
        if upto > below:
            out.append(Part(label, upto - below, parse(condition)))
        below = max(below, upto)
    return out


def _words(name: str, codes: Any, words: dict[int, str]) -> list[Part]:
    counts = np.bincount(codes + 1) if len(codes) else np.array([], dtype=np.int64)
    order = np.argsort(-counts, kind="stable")
    found = [(int(i) - 1, int(counts[i])) for i in order if counts[i]]
    shown, rest = (found, []) if len(found) <= MOST_PARTS + 1 else (found[:MOST_PARTS], found[MOST_PARTS:])
    parts: list[Part] = []
    for code, number in shown:
        parts.append(_of_word(name, None if code < 0 else words[code], number))
    if rest:
        listed = Within(name, tuple(Plain(words[c]) for c, _ in rest if c >= 0))
        parts.append(Part(f"{len(rest)} others", sum(n for _, n in rest), listed))
    return parts


def _of_word(name: str, word: str | None, number: int) -> Part:
    if word is None:
        return Part("none known", number, Presence(name, False))
    return Part(word, number, Compare(name, "=", Plain(word)))


assert all(n in FIELDS or n == "evidence" for n in BANDS)
