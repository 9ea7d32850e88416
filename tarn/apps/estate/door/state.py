"""What is open for the assets of a batch, and what the batch does to it.

Everything is read in a fixed number of statements, changed in memory, and written back
in a fixed number of statements, however many assets and rows the batch has.
"""

import sqlite3
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from tarn.apps.estate.door.prepare import Prepared
from tarn.apps.estate.door.tables import (
    CLAIMS,
    INSTALLS,
    PLAIN,
    SPAN_TABLES,
    TERMS,
    WIDE,
    WIDE_INSERT,
    WIDE_SELECT,
    SpanTable,
    derived,
)
from tarn.apps.estate.door.words import Words
from tarn.core.kept_json import kept, read_kept
from tarn.core.kinds import IN_USE, Guess
from tarn.core.makers import maker, model
from tarn.core.sections import RULING
from tarn.core.spans import advance
from tarn.core.text import fold
from tarn.core.truth import SPOKEN, Claim, order

Line = tuple[int, int, str]
"""Asset, source, section: what one timeline is of."""


class Open:
    """An open span: its row (None until written), its value and when it began."""

    __slots__ = ("initial", "row", "start", "value")

    def __init__(self, row: int | None, value: tuple[Any, ...], start: int, initial: bool) -> None:
        self.row, self.value, self.start, self.initial = row, value, start, initial


@dataclass(slots=True)
class Freshness:
    """One section's state by one source."""

    hash: bytes
    collector: str
    complete: bool
    confirmed: int
    changed: bool = False


class State:
    """The open spans of a batch of assets."""

    def __init__(self, db: sqlite3.Connection, words: Words, assets: Iterable[int]) -> None:
        self.db, self.words = db, words
        self.fresh: dict[Line, Freshness] = {}
        self.open: dict[Line, dict[tuple[Any, ...], Open]] = {}
        self.wide: dict[int, Open | None] = {}
        self.seen: dict[tuple[int, int], tuple[int, int]] = {}
        self._new_seen: set[tuple[int, int]] = set()
        self._inserts: dict[str, list[tuple[Any, ...]]] = defaultdict(list)
        self._closes: dict[str, list[tuple[int, int]]] = defaultdict(list)
        self._drops: dict[str, list[tuple[int]]] = defaultdict(list)
        self._lines_of: dict[int, list[Line]] = defaultdict(list)
        self._tables_loaded: dict[str, set[int]] = defaultdict(set)
        self._empty: set[int] = set()
        """Assets that nothing is held of yet: no table has anything to read."""
        self.sources_of: dict[int, set[int]] = defaultdict(set)
        self.touched_installs: set[int] = set()
        self.last_seen: dict[int, int] = {}
        """When each asset was last spoken of by anyone: what came earlier is told in its place."""
        self.guesses: dict[int, Guess] = {}
        self.differing: set[Line] = set()
        self._gone: list[tuple[int, int, int, int]] = []
        self._load(list(assets))

    def _load(self, assets: list[int]) -> None:
        if not assets:
            return
        among = "(" + ",".join(map(str, assets)) + ")"
        self.last_seen.update(dict.fromkeys(assets, 0))
        for asset, source, section, hash_, collector, complete, confirmed in self.db.execute(
            "SELECT asset_id, source_id, section, hash, collector, complete, confirmed "
            f"FROM estate_sectionstate WHERE asset_id IN {among}"
        ):
            self._line((asset, source, section), Freshness(bytes(hash_), collector, bool(complete), confirmed))
        for asset, source, first, last in self.db.execute(
            f"SELECT asset_id, source_id, first_seen, last_seen FROM estate_sourceseen WHERE asset_id IN {among}"
        ):
            self.seen[asset, source] = first, last
            self.sources_of[asset].add(source)
            self.last_seen[asset] = max(self.last_seen[asset], last)
        for row, asset, start, *values in self.db.execute(WIDE_SELECT + among):
            self.wide[asset] = Open(row, tuple(values), start, False)

    def _line(self, line: Line, fresh: Freshness) -> None:
        if line not in self.fresh:
            self._lines_of[line[0]].append(line)
        self.fresh[line] = fresh

    def need_asset(self, asset: int, *, empty: bool = False) -> None:
        """Have an asset's state at hand. `empty`: it has none yet, so nothing is read."""
        if empty:
            self.last_seen[asset] = 0
            self._empty.add(asset)
        elif asset not in self.last_seen:
            self._load([asset])

    def by_difference(self, line: Line, reading: Any) -> bool:
        """Whether a list can be told by its difference from the last one, without reading its open spans.

        What this batch itself has opened is not in the tables yet, so such a timeline is told in memory.
        """
        fresh = self.fresh.get(line)
        if line[2] != INSTALLS.section or fresh is None or line in self.open:
            return False
        return fresh.complete and bool(reading.complete)

    def differ(self, line: Line, gone: list[int], come: list[tuple[int, int]], fresh: Freshness, at: int) -> None:
        """Note releases that are gone and (release, listing) that have come since the last whole list."""
        self.differing.add(line)
        self._line(line, fresh)
        asset, source, _ = line
        self._gone += [(at, asset, release, source) for release in gone]
        rows = self._inserts[INSTALLS.insert]
        rows += [(asset, source, at, None, False, release, listing) for release, listing in come]
        if gone or come:
            self.touched_installs.add(asset)

    def changing(self, asset: int, source: int, prepared: Prepared) -> list[Line]:
        """Return the timelines a sighting may change; where sources may disagree, that of the claims too."""
        lines: list[Line] = [
            (asset, source, section)
            for section, reading in prepared.chosen.items()
            if section != RULING
            and not self.unchanged((asset, source, section), prepared.hashes[section], reading.complete)
            and not self.by_difference((asset, source, section), reading)
        ]
        if lines or self.sources_of[asset] - {source}:
            lines.append((asset, source, "identity"))
        return lines

    def unchanged(self, line: Line, digest: bytes, complete: bool) -> bool:
        """Whether a reading says, in full, just what the last one said in full."""
        fresh = self.fresh.get(line)
        return fresh is not None and complete and fresh.complete and fresh.hash == digest

    def _loaded(self, asset: int, table: SpanTable) -> bool:
        return asset in self._empty or asset in self._tables_loaded[table.name]

    def load_spans(self, lines: Iterable[Line]) -> None:
        """Read the open spans of timelines that are going to change, and the claims of their assets."""
        wanted: dict[SpanTable, set[int]] = defaultdict(set)
        for line in lines:
            if not self._loaded(line[0], SPAN_TABLES[line[2]]):
                wanted[SPAN_TABLES[line[2]]].add(line[0])
            if not self._loaded(line[0], CLAIMS):
                wanted[CLAIMS].add(line[0])
        for table, assets in wanted.items():
            self._tables_loaded[table.name] |= assets
            width = len(table.key)
            for row, asset, source, start, *rest in self.db.execute(f"{table.select} ({','.join(map(str, assets))})"):
                key, value = tuple(rest[:width]), tuple(rest[width:])
                section = key[0] if table is CLAIMS else table.section
                self.open.setdefault((asset, source, section), {})[key] = Open(row, value, start, False)

    def apply(
        self,
        line: Line,
        reading: dict[tuple[Any, ...], tuple[Any, ...]],
        fresh: Freshness,
        *,
        complete: bool,
        at: int,
    ) -> bool:
        """Let a reading change a timeline; return whether anything did."""
        table = SPAN_TABLES[line[2]]
        initial = line not in self.fresh
        held = self.open.setdefault(line, {})
        step = advance({k: o.value for k, o in held.items()}, reading, complete=complete)
        for key in step.closes:
            self._close(table, line, key, held.pop(key), at)
        for key in step.opens:
            held[key] = Open(None, reading[key], at, initial)
        self._line(line, fresh)
        if table is INSTALLS and (step.closes or step.opens):
            self.touched_installs.add(line[0])
        return bool(step.closes or step.opens)

    def _close(self, table: SpanTable, line: Line, key: tuple[Any, ...], span: Open, at: int) -> None:
        if span.row is not None:
            if at > span.start:
                self._closes[table.name].append((at, span.row))
            else:
                self._drops[table.name].append((span.row,))
        elif at > span.start:
            row = (line[0], line[1], span.start, at, span.initial, *table.row(key, span.value))
            self._inserts[table.insert].append(row)

    def claims(self, asset: int) -> dict[str, list[Claim]]:
        """Return what every source says now of each field of an asset."""
        out: dict[str, list[Claim]] = defaultdict(list)
        for line in self._lines_of[asset]:
            if SPAN_TABLES[line[2]] is not CLAIMS:
                continue
            kind, confirmed = self.words.source_kinds[line[1]], self.fresh[line].confirmed
            for (section, field), span in self.open.get(line, {}).items():
                out[field].append(Claim(line[1], kind, section, span.value[0], span.start, confirmed))
        return out

    def settle(self, asset: int, at: int) -> bool:
        """Weigh the claims on an asset anew; where the truth has changed, close its span and open another."""
        held = {f: read_kept(order(c)[0].value) for f, c in self.claims(asset).items()}
        held.setdefault("standing", "intake")
        if held["standing"] == "register" and not held.get("state"):
            held["state"] = IN_USE  # what counts is in use, unless somebody says where else it stands
        if held.get("manufacturer"):
            held["manufacturer"] = maker(str(held["manufacturer"]))
        if held.get("model"):
            held["model"] = model(str(held["model"]), held.get("manufacturer") or "")
        plain = {f: held.get(f) for f in PLAIN}
        # An empty text is somebody's word that there is nobody, nothing: it outranks others, and is no word of its own.
        terms = (self.words.term(self.db, f, str(held[f])) if held.get(f) not in (None, "") else None for f in TERMS)
        wide = (*terms, *plain.values(), *derived(plain, fold(str(plain["name"] or ""))))
        before = self.wide.get(asset)
        if before is not None and before.value == wide:
            return False
        if before is not None:
            if before.row is not None:
                if at > before.start:
                    self._closes["estate_assetspan"].append((at, before.row))
                else:
                    self._drops["estate_assetspan"].append((before.row,))
            elif at > before.start:
                self._inserts[WIDE_INSERT].append((asset, before.start, at, *before.value))
        self.wide[asset] = Open(None, wide, at, False)
        return True

    def name_and_address(self, asset: int) -> tuple[str, str | None]:
        """Return an asset's folded name and its address as they stand in this batch."""
        span = self.wide.get(asset)
        if span is None:
            return "", None
        return span.value[WIDE.index("name_fold")], span.value[WIDE.index("address")]

    def names(self, asset: int) -> frozenset[str]:
        """Return the folded names an asset has now by the word of some source, as they stand in this batch."""
        if self._loaded(asset, CLAIMS):
            spans = (self.open.get(line, {}).get(("identity", "name")) for line in self._lines_of[asset])
            told = [span.value[0] for span in spans if span is not None]
        else:
            told = [
                value
                for (value,) in self.db.execute(
                    "SELECT value FROM estate_fieldspan WHERE asset_id = ? AND valid_to IS NULL AND field = 'name' "
                    "AND section = 'identity'",
                    (asset,),
                )
            ]
        return frozenset(fold(read_kept(name)).partition(".")[0] for name in told)

    def saw(self, asset: int, source: int, at: int) -> None:
        """Note that a source has seen an asset."""
        first, last = self.seen.get((asset, source), (at, at))
        self.seen[asset, source] = min(first, at), max(last, at)
        self._new_seen.add((asset, source))
        self.sources_of[asset].add(source)
        self.last_seen[asset] = max(self.last_seen.get(asset, at), at)

    def _write_seen(self, db: sqlite3.Connection) -> None:
        """Write when each asset was seen. What people and rules say of it is not seeing it, unless nobody else did."""
        times: dict[int, list[tuple[str, int, int]]] = defaultdict(list)
        for (asset, source), (first, last) in self.seen.items():
            times[asset].append((self.words.kind_of(db, source), first, last))
        rows = []
        for asset in {pair[0] for pair in self._new_seen}:
            witnesses = [t for t in times[asset] if t[0] not in SPOKEN] or times[asset]
            sources = sum(kind != "rule" for kind, _, _ in times[asset])
            rows.append((min(t[1] for t in times[asset]), max(t[2] for t in witnesses), sources, asset))
        db.executemany("UPDATE estate_asset SET first_seen = ?, last_seen = ?, sources = ? WHERE id = ?", rows)

    def write(self) -> None:
        """Write everything back. The state is spent after that."""
        db = self.db
        for table, rows in self._drops.items():
            db.executemany(f"DELETE FROM {table} WHERE id = ?", rows)
        # A release that came and went within one second was never there.
        db.executemany(
            "DELETE FROM estate_installspan WHERE valid_from = ? AND asset_id = ? AND release_id = ? AND source_id = ? "
            "AND valid_to IS NULL",
            self._gone,
        )
        db.executemany(
            "UPDATE estate_installspan SET valid_to = ? WHERE asset_id = ? AND release_id = ? AND source_id = ? "
            "AND valid_to IS NULL",
            self._gone,
        )
        for table, closes in self._closes.items():
            db.executemany(f"UPDATE {table} SET valid_to = ? WHERE id = ?", closes)
        for line, spans in self.open.items():
            table_ = SPAN_TABLES[line[2]]
            rows_ = self._inserts[table_.insert]
            for key, span in spans.items():
                if span.row is None:
                    rows_.append((line[0], line[1], span.start, None, span.initial, *table_.row(key, span.value)))
        for asset, wide in self.wide.items():
            if wide is not None and wide.row is None:
                self._inserts[WIDE_INSERT].append((asset, wide.start, None, *wide.value))
        for statement, rows in self._inserts.items():
            db.executemany(statement, rows)
        db.executemany(
            "INSERT INTO estate_sectionstate (asset_id, source_id, section, hash, collector, complete, confirmed) "
            "VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (asset_id, source_id, section) DO UPDATE SET "
            "hash = excluded.hash, collector = excluded.collector, complete = excluded.complete, "
            "confirmed = excluded.confirmed",
            [(*line, f.hash, f.collector, f.complete, f.confirmed) for line, f in self.fresh.items() if f.changed],
        )
        db.executemany(
            "INSERT INTO estate_sourceseen (asset_id, source_id, first_seen, last_seen) VALUES (?, ?, ?, ?) "
            "ON CONFLICT (asset_id, source_id) DO UPDATE SET first_seen = excluded.first_seen, "
            "last_seen = excluded.last_seen",
            [(*pair, *self.seen[pair]) for pair in self._new_seen],
        )
        self._write_seen(db)
        db.executemany(
            "UPDATE estate_asset SET guess = ?, sure = ?, guess_reasons = ? WHERE id = ?",
            [(g.kind, g.sure, kept(g.reasons), a) for a, g in self.guesses.items()],
        )
        db.executemany(
            "UPDATE estate_asset SET packages = (SELECT count(DISTINCT release_id) FROM estate_installspan "
            "WHERE asset_id = estate_asset.id AND valid_to IS NULL) WHERE id = ?",
            [(a,) for a in self.touched_installs],
        )
