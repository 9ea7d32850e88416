"""What changed over many devices beside their software: parts that came and went, restarts, who signed in."""

from collections.abc import Iterator
from itertools import chain
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import turned
from tarn.apps.estate.models import ITEM_MODELS
from tarn.apps.estate.store.database import raw_connection
from tarn.core.fields import FIELDS
from tarn.core.history import Change, Verb
from tarn.core.item import Attribute, Section
from tarn.core.item_words import said
from tarn.core.items import SECTIONS
from tarn.core.sections import KEYS, columns

Key = tuple[Any, ...]
Told = dict[str, Any]

FACTS = ("memory", "processor", "cores", "manufacturer", "model", "serial")
"""Fields of an asset that are of its hardware."""

_ONE_START = 600
"""Seconds within which two times of starting are the same start."""


def item_changes(
    section: str, since: int, until: int, asset: int | None = None
) -> Iterator[tuple[int, int, Key, Told | None, Told | None]]:
    """Yield what began and ended in a list after `since` and up to `until`, on one asset or on all.

    Each is asset, when, the item's key, its attributes before and after; what ended and began at once is one change.
    First readings are no changes.
    """
    keys, names = KEYS[section], columns(section)
    picked = ", ".join(f'"{n}"' for n in (*keys, *names))
    begun: dict[tuple[int, int, Key], Told] = {}
    ended: dict[tuple[int, int, Key], Told] = {}
    rows = chain.from_iterable(
        raw_connection().execute(
            f"SELECT x.asset_id, x.valid_from, x.valid_to, x.initial, {picked} "
            f"FROM {ITEM_MODELS[section]._meta.db_table} x "
            f"WHERE {'1' if asset is None else 'x.asset_id = ?'} AND {part.text}",
            [*(() if asset is None else (asset,)), *part.values],
        )
        for part in turned("x", since)
    )
    for number, start, end, initial, *values in rows:
        key, told = tuple(values[: len(keys)]), dict(zip(names, values[len(keys) :], strict=True))
        if not initial and since < start <= until:
            begun[number, start, key] = told
        if end is not None and since < end <= until:
            ended[number, end, key] = told
    for at_key, after in begun.items():
        yield *at_key, ended.pop(at_key, None), after
    for at_key, before in ended.items():
        yield *at_key, before, None


def hardware(asked: Question, since: int, until: int) -> list[Change]:
    """Return the parts that came, went or were exchanged in a selection, and facts of its hardware that changed."""
    mine = set(ids(asked))
    out = [c for c in _facts(since, until) if c.asset in mine]
    for section in (s for s in SECTIONS.values() if s.exchanged):
        for asset, at, key, before, after in item_changes(section.name, since, until):
            if asset not in mine:
                continue
            was, now = _described(section, before), _described(section, after)
            if before is not None and after is not None and was == now:
                continue
            verb: Verb = "added" if before is None else "removed" if after is None else "changed"
            out.append(Change(asset, f"{section.one} {key[0]}", verb, was, now, at))
    return sorted(out, key=lambda c: (-c.at, c.thing))


def _described(section: Section, told: Told | None) -> str | None:
    """Return a part in words; None where there is none."""
    if told is None:
        return None
    known = section.attributes
    words = [said(known[n], told[n]) for n in section.exchanged if told[n] not in (None, "")]
    return " ".join(words) or "no more told"


def _of_fact(name: str, value: Any) -> str:
    return said(Attribute(name, FIELDS[name].type), value)


def _facts(since: int, until: int) -> Iterator[Change]:
    """Yield changes of hardware's facts: a span of an asset against the one it followed.

    What was not known before, or is not known any more, has not changed: somebody has begun or ceased to tell it.
    """
    for name in FACTS:
        home, _, column = FIELDS[name].stored.partition(".")
        stored = f"{{}}.{column}_id" if home == "term" else f"{{}}.{column}"
        value = "(SELECT text FROM estate_term t WHERE t.id = {})" if home == "term" else "{}"
        was, now = stored.format("p"), stored.format("s")
        rows = raw_connection().execute(
            f"SELECT s.asset_id, s.valid_from, {value.format(was)}, {value.format(now)} FROM estate_assetspan s "
            "JOIN estate_assetspan p ON p.asset_id = s.asset_id AND p.valid_to = s.valid_from "
            f"WHERE s.valid_from > ? AND s.valid_from <= ? AND {was} <> {now}",
            (since, until),
        )
        for asset, at, before, after in rows:
            words = _of_fact(name, before), _of_fact(name, after)
            yield Change(asset, FIELDS[name].heading.lower(), "changed", *words, at)


def activity(asked: Question, since: int, until: int) -> list[Change]:
    """Return when devices of a selection were started and who signed in, by what their own readings say.

    A start is known by its time, so it counts when it was and not when it was read; of several starts between two
    readings the last alone is told.
    """
    mine = set(ids(asked))
    found: set[tuple[int, str, str, int]] = set()
    last: dict[int, int] = {}
    for asset, value in raw_connection().execute(
        "SELECT asset_id, CAST(value AS INTEGER) AS start FROM estate_fieldspan WHERE field = 'booted' "
        "AND value <> 'null' AND start > ? AND start <= ? ORDER BY asset_id, start",
        (since, until),
    ):
        # Several sources tell one start to the second or to the minute.
        if value - last.get(asset, 0) > _ONE_START:
            found.add((asset, "the device", "started", value))
        last[asset] = value
    table = ITEM_MODELS["signins"]._meta.db_table
    for asset, account, at in raw_connection().execute(
        f'SELECT asset_id, account, "at" FROM {table} WHERE "at" > ? AND "at" <= ?', (since, until)
    ):
        found.add((asset, str(account).rpartition("\\")[2], "signed in", at))
    lines = [Change(a, thing, verb, None, None, at) for a, thing, verb, at in found if a in mine]  # type: ignore[arg-type]
    return sorted(lines, key=lambda c: (-c.at, c.thing, c.asset))
