"""Asking the estate: from a filter's text to the assets it holds for, as of any moment."""

import json
import time
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Any

from tarn.apps.estate.asking.branches import standing_in, trees
from tarn.apps.estate.asking.compile import Compiler
from tarn.apps.estate.asking.dial import zone
from tarn.apps.estate.asking.places import Sql, Supposed, holds, within
from tarn.apps.estate.models import KeptSet, Phrase
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE
from tarn.apps.estate.store.terms import terms
from tarn.apps.people.scope import Asker, asker, scope, visible
from tarn.apps.people.speaking import asked_in_words
from tarn.core.branches import HIERARCHIES, branch
from tarn.core.filters.check import Checked, Cond, Context, Either, Every, Member, Without, check
from tarn.core.filters.parse import parse
from tarn.core.filters.tree import EVERYTHING, All, Node, Pattern, Plain, Value
from tarn.core.filters.values import Clock


def _phrase_values(values: list[str]) -> tuple[Value, ...]:
    return tuple(
        Pattern(v[1:-1]) if len(v) > 2 and v.startswith("/") and v.endswith("/") else Plain(v, True) for v in values
    )


def context(at: int | None, who: Asker | None = None) -> Context:
    """Return what checking a filter needs: clock, phrases and the sets of who asks."""
    clock, who = Clock(at or int(time.time()), zone()), who or asker()
    filters, names = partial(_set_filter, at=at, who=who), partial(_set_names, who)
    return Context(clock, _Phrases(), filters, names, _Branches())


class _Branches:
    """What lies under a name; the trees are read when first asked for."""

    @cached_property
    def _held(self) -> dict[str, dict[str, str]]:
        return trees()

    def __call__(self, field: str, name: str) -> tuple[str, ...]:
        return branch(self._held[field], name)


def _set_names(who: Asker) -> list[str]:
    return list(visible(KeptSet, who).values_list("name", flat=True))


def _set_filter(name: str, at: int | None, who: Asker) -> Node:
    kept_set = visible(KeptSet, who).filter(name=name).first()
    if kept_set is None:
        raise KeyError(name)
    return parse(definition_at(kept_set, at))


def definition_at(held: KeptSet, at: int | None) -> str:
    """Return what a set was defined by at a moment; of a day before it was made, by its first definition."""
    if at is None:
        return held.filter
    spans = list(held.spans.order_by("valid_from").values_list("valid_from", "valid_to", "filter"))
    stood = [text for begins, ends, text in spans if begins <= at and (ends is None or at < ends)]
    return (stood or [text for _, _, text in spans] or [held.filter])[0]


class _Phrases(Mapping[str, tuple[Value, ...]]):
    """The phrases, read when the first is asked for: most filters use none."""

    @cached_property
    def _held(self) -> dict[str, tuple[Value, ...]]:
        return {name: _phrase_values(v) for name, v in Phrase.objects.values_list("name", "values")}

    def __getitem__(self, name: str) -> tuple[Value, ...]:
        return self._held[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._held)

    def __len__(self) -> int:
        return len(self._held)


@dataclass(frozen=True)
class Question:
    """A filter made ready to be asked."""

    tree: Node
    checked: Checked
    at: int | None
    where: Sql
    branch: str = ""
    """The filter for the branch whoever asks stands in; it is part of `where` and not of `tree`."""
    rests_on: frozenset[str] = frozenset()
    """What may make it mean something else without new evidence: some of `check.RESTS_ON`."""
    asks_asset: bool = True
    """Whether its statement needs the asset beside the span."""

    @property
    def fleeting(self) -> bool:
        """Whether it may mean something else at any moment, with no trace among what is known to change."""
        return not self.rests_on.isdisjoint(("clock", "rulings", "people", "advisories", "standing"))

    @property
    def sentence(self) -> str:
        """The question in English, with the branch it is asked in."""
        if not self.branch:
            return asked_in_words(self.tree)
        stand = parse(self.branch)
        return asked_in_words(stand if self.tree == EVERYTHING else All((stand, self.tree)))

    @property
    def source(self) -> str:
        """The FROM and WHERE parts of its statement: `s` the span, `a` the asset."""
        join = "JOIN estate_asset a ON a.id = s.asset_id"
        return f"FROM estate_assetspan s {join} WHERE {self.where.text}"

    @property
    def lean_source(self) -> str:
        """The same without the asset where nothing asks for it, so that an index alone can answer."""
        if self.asks_asset:
            return self.source
        return f"FROM estate_assetspan s WHERE {self.where.text}"


def _mentions_standing(checked: Checked) -> bool:
    match checked:
        case Cond(field):
            return field.name == "standing"
        case Every(items) | Either(items):
            return any(_mentions_standing(i) for i in items)
        case Without(item):
            return _mentions_standing(item)
        case Member(_, condition):
            return _mentions_standing(condition)
    return False


_questions: "Remembered[Question]" = Remembered("questions", EVIDENCE, most=200)


def question(
    text: str,
    at: int | None = None,
    who: Asker | None = None,
    *,
    standing: str | None = "register",
    supposed: Supposed | None = None,
) -> Question:
    """Read, check and compile a filter for who asks (None: whoever asks now). Raises FilterError with the place.

    Only assets of the register answer, unless the filter itself speaks of their standing. A list is
    scrolled by asking one question again and again, so what was made is kept until what it rests on changes.
    `supposed`: a field that is asked as though something else were said of it.
    """
    who = who or asker()
    within_branch = standing_in(who)
    if at is not None or supposed is not None:
        return _made(text, at, standing, who, within_branch, supposed)
    key = (text, standing, who.organisations, within_branch)
    return _questions.get(key, lambda: _made(text, at, standing, who, within_branch), keep=_is_kept)


def _is_kept(made: Question) -> bool:
    """Whether a question is worth keeping: one that rests on evidence alone, which is asked for cheaply each time."""
    return not made.rests_on


def _made(
    text: str, at: int | None, standing: str | None, who: Asker, within_branch: str, supposed: Supposed | None = None
) -> Question:
    tree, known = parse(text), context(at, who)
    checked = check(tree, known)
    db = raw_connection()
    compiler = Compiler(db, at, who.organisations, supposed)
    parts = [holds("s", at), *compiler.of_mine()]
    if standing and not _mentions_standing(checked):
        number = next((i for i, text, _ in compiler.terms.of("standing") if text == standing), -1)
        parts.append(Sql("s.standing_id = ?", [number]))
    for one in [check(parse(within_branch), known)] * bool(within_branch) + [checked]:
        where = compiler.where(one)
        if where.text != "1":
            parts.append(Sql(f"({where.text})", where.values))
    joined = Sql(" AND ".join(p.text for p in parts), [v for p in parts for v in p.values])
    rests_on, asks_asset = frozenset(known.rests_on), compiler.asks_asset or supposed is not None
    return Question(tree, checked, at, joined, within_branch, rests_on, asks_asset)


def all_visible(assets: Iterable[int]) -> bool:
    """Whether whoever asks may see all of these assets as they are now."""
    wanted = set(assets)
    return len(visible_among(wanted)) == len(wanted)


def visible_among(assets: Iterable[int], at: int | None = None) -> set[int]:
    """Return those of these assets that whoever asks may see, as of a moment."""
    wanted, limited = set(assets), scope()
    if limited is None or not wanted:
        return wanted
    db = raw_connection()
    mine, then = within(terms.refresh(db), limited), holds("s", at)
    rows = db.execute(
        f"SELECT s.asset_id FROM estate_assetspan s WHERE {mine.text} AND {then.text} "
        "AND s.asset_id IN (SELECT value FROM json_each(?))",
        [*mine.values, *then.values, json.dumps(sorted(wanted))],
    )
    return {a for (a,) in rows}


def count(asked: Question) -> int:
    """Return how many assets answer."""
    statement = f"SELECT count(*) {asked.lean_source}"
    return int(raw_connection().execute(statement, asked.where.values).fetchone()[0])


def ids(asked: Question) -> list[int]:
    """Return the assets that answer."""
    return [i for (i,) in raw_connection().execute(f"SELECT s.asset_id {asked.lean_source}", asked.where.values)]


def assets_in_sight(at: int | None) -> frozenset[int] | None:
    """Return the register of the branch whoever asks stands in; None for everywhere. Raises NoBranch."""
    return frozenset(ids(question("", at))) if standing_in() else None


_claimed: Remembered[list[str]] = Remembered("words said of fields", EVIDENCE, most=32)


def _said_of(name: str, assets: str, values: list[Any]) -> list[str]:
    """Return what is said in a field of these assets now, by whichever source."""
    rows = raw_connection().execute(
        "SELECT DISTINCT json_extract(f.value, '$') FROM estate_fieldspan f "
        f"WHERE f.field = ? AND f.valid_to IS NULL AND f.asset_id IN ({assets})",
        [name, *values],
    )
    return [text for (text,) in rows if isinstance(text, str) and text]


def words_of(field: Any, beginning: str, most: int) -> list[str]:
    """Return words a text field has had, for completion: those that begin so first."""
    from tarn.core.text import fold

    db = raw_connection()
    home, _, name = field.stored.partition(".")
    wanted, limited = fold(beginning), scope()
    values: list[Any] = []
    mine = Sql("1") if limited is None else within(terms.refresh(db), limited)
    of_mine = f"SELECT s.asset_id FROM estate_assetspan s WHERE s.valid_to IS NULL AND {mine.text}"
    if home == "term":
        statement, values = "SELECT text FROM estate_term WHERE field = ? AND folded LIKE ? ESCAPE '\\'", [name]
        if limited is not None:
            among = f"SELECT s.{name}_id FROM estate_assetspan s WHERE s.valid_to IS NULL AND {mine.text}"
            statement = statement.replace("WHERE", f"WHERE id IN ({among}) AND")
            values = [*mine.values, *values]
    elif home == "product" and name == "name":
        statement = "SELECT name FROM estate_listing WHERE name_fold LIKE ? ESCAPE '\\'"
        if limited is not None:
            among = f"SELECT i.listing_id FROM estate_installspan i WHERE i.asset_id IN ({of_mine})"
            statement, values = statement.replace("WHERE", f"WHERE id IN ({among}) AND"), mine.values
    elif field.stored == "span.name":
        statement = (
            f"SELECT s.name FROM estate_assetspan s WHERE s.valid_to IS NULL AND s.name IS NOT NULL AND {mine.text} "
            "AND s.name_fold LIKE ? ESCAPE '\\'"
        )
        values = mine.values
    elif home == "claim" and field.type == "text":
        said = _claimed.get((name, limited), lambda: _said_of(name, of_mine, mine.values))
        found = sorted((t for t in said if wanted in fold(t)), key=lambda t: (not fold(t).startswith(wanted), fold(t)))
        return found[:most]
    else:
        return []
    like = wanted.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    begin = [t for (t,) in db.execute(f"{statement} ORDER BY 1 LIMIT ?", [*values, like + "%", most])]
    if len(begin) < most and wanted:
        begin += [t for (t,) in db.execute(f"{statement} LIMIT ?", [*values, "%_" + like + "%", most - len(begin)])]
    if field.name in HIERARCHIES and limited is None:
        begin += [n for n in dict.fromkeys(trees()[field.name].values()) if wanted in fold(n)][: most - len(begin)]
    return list(dict.fromkeys(begin))
