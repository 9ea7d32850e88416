"""The one door through which evidence enters: from sightings to identity to spans."""

import json
import sqlite3
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from tarn.apps.estate.door.index import IdentityIndex, known
from tarn.apps.estate.door.moving import Moving
from tarn.apps.estate.door.prepare import Prepared, differing_items, pack, prepare, stored_sightings, unpack
from tarn.apps.estate.door.state import Freshness, State
from tarn.apps.estate.door.tables import FACT_FIELDS, INSTALLS, SPAN_TABLES
from tarn.apps.estate.door.waiting import Waiting
from tarn.apps.estate.door.words import Words
from tarn.apps.estate.store.database import generation
from tarn.core.identifiers import Identifier, identifiers
from tarn.core.identity import Held, Match, match
from tarn.core.kinds import guess, telling_package
from tarn.core.sections import FACTS, OWN, RULING, STALE_AFTER, Identity, rows, seen_through
from tarn.core.senders import misdated
from tarn.core.sightings import Sighting, rank, read_sighting
from tarn.core.signs import KnownAsset
from tarn.core.truth import READ, SPOKEN, rank_of

BATCH = 100
"""Sightings a transaction: large enough to share its statements, small enough to let others write."""

_HOLD_MACHINES = frozenset({"virtual host", "cloud account"})
"""Kinds of source whose devices are virtual machines."""

_TELLING = frozenset({*FACTS, "packages", "ports"})
"""Sections that bear on what an asset is held to be."""

_OF_ASSET = ("estate_sectionstate", "estate_sourceseen")
_SPANS_OF_ASSET = ("estate_assetspan", *dict.fromkeys(t.name for t in SPAN_TABLES.values()))


@dataclass(slots=True)
class Taken:
    """What became of a sighting: new, same, undecided, unidentified, ruling or already held; and why."""

    document: str
    verdict: str
    asset: int | None
    reasons: list[str] = field(default_factory=list)
    changed: bool = False
    row: int | None = None
    absorbs: tuple[int, ...] = ()
    gained: Sequence[str] = ()
    """Identifiers the asset was seen with for the first time."""


@dataclass(slots=True)
class Batch:
    """What a batch is at: the open spans, which sightings are ready for which state, and assets to be derived anew."""

    state: State
    ready: dict[str, tuple[int, int]]
    late: set[int] = field(default_factory=set)


class Door(Moving):
    """Takes sightings in. One instance a process; it remembers words and identifiers between batches."""

    def __init__(self) -> None:
        self.words, self.index, self.waiting = Words(), IdentityIndex(), Waiting()
        self._generation = -1

    def forget(self) -> None:
        """Drop what is remembered, after a transaction was rolled back or the tables were rebuilt."""
        self.words.forget()
        self.index.forget()
        self.waiting.forget()

    def take_in(self, db: sqlite3.Connection, sightings: Sequence[Sighting], received: int) -> list[Taken]:
        """Take in one batch, inside a transaction the caller has begun. Returns one result a sighting, in order.

        What comes out does not depend on how sightings are parted into batches.
        """
        if (present := generation(db)) != self._generation:
            # A rebuild has exchanged the tables: the numbers remembered are of another time.
            self.forget()
            self._generation = present
        self.words.load_kinds(db)
        self.index.refresh(db)
        self.waiting.refresh(db)
        held = self._already_held(db, sightings)
        work: dict[str, tuple[Prepared, list[Identifier]]] = {}
        refused: dict[str, str] = {}
        results: list[Taken] = []
        for sighting in sightings:
            if sighting.id in held or sighting.id in work:
                continue
            if why := misdated(sighting.second, received):
                refused[sighting.id] = why
                continue
            prepared = prepare(sighting)
            identity = prepared.chosen.get("identity")
            work[sighting.id] = (prepared, identifiers(identity.facts if identity else Identity()))
        batch = self._batch_for(db, list(work.values()))
        for sighting in sightings:
            if sighting.id in held:
                results.append(Taken(sighting.id, "already held", None))
                continue
            if sighting.id not in work:
                results.append(Taken(sighting.id, "refused", None, [refused[sighting.id]]))
                continue
            held.add(sighting.id)
            prepared, found = work[sighting.id]
            taken = self._identify(db, batch, prepared, found)
            results.append(taken)
            if taken.absorbs and taken.asset is not None:
                batch.state.write()
                self._absorb(db, taken.absorbs, taken.asset)
                batch.late.difference_update(taken.absorbs, (taken.asset,))
                batch.state = State(db, self.words, [])
            self._store(db, batch.state, prepared, taken, received)
            if taken.verdict == "ruling":
                self._catch_up(db, batch, batch.late)
                self._rule(db, prepared, taken)
                taken.changed = True
            elif taken.asset is not None:
                taken.changed = self._tell(db, batch, prepared, taken.asset)
                self._settle_waiting(db, batch, taken.gained)
            elif taken.verdict == "undecided" and taken.row is not None:
                self.waiting.add(taken.row, [i.key for i in found])
        self._catch_up(db, batch, batch.late)
        self.index.write(db)
        return results

    def _tell(self, db: sqlite3.Connection, batch: Batch, prepared: Prepared, asset: int) -> bool:
        """Have a sighting that is stored change what is held of its asset; return whether it does.

        Evidence of the past is told in its place: its asset is derived anew, at the latest when the batch ends.
        """
        sighting = prepared.sighting
        if asset in batch.late:
            return True
        if (asset, self._source(db, sighting), "packages") in batch.state.differing:
            # Its list was told by difference in this batch already: that has to stand first.
            batch.state.write()
            batch.state = State(db, self.words, [])
        state = batch.state
        state.need_asset(asset)
        if sighting.second < state.last_seen.get(asset, sighting.second):
            batch.late.add(asset)
            return True
        if batch.ready.get(sighting.id) != (asset, id(state)):
            state.load_spans(state.changing(asset, self._source(db, sighting), prepared))
        return self._apply(db, state, prepared, asset)

    def _catch_up(self, db: sqlite3.Connection, batch: Batch, late: Iterable[int]) -> None:
        """Write the batch so far, and derive anew the assets of which evidence of the past has come."""
        wanted = sorted(late)
        batch.state.write()
        if wanted:
            self.replay(db, *wanted)
            batch.late.difference_update(wanted)
        batch.state = State(db, self.words, [])

    def _settle_waiting(self, db: sqlite3.Connection, batch: Batch, gained: Iterable[str]) -> None:
        """Look again at undecided sightings that share an identifier which an asset has just been seen with."""
        todo = self.waiting.sharing(gained)
        while todo:
            row = todo.pop()
            stored = next(stored_sightings(db, "WHERE g.id = ? AND g.verdict = 'undecided'", (row,)), None)
            if stored is None:  # settled meanwhile, by a person or another process
                self.waiting.drop(row)
                continue
            again = prepare(read_sighting(stored["document"]))
            found = identifiers(again.chosen["identity"].facts)
            result = self._match(db, batch, again, found)
            if result.verdict != "same" or result.asset is None or result.absorbs:
                continue
            self.waiting.drop(row)
            why = json.dumps([*result.reasons, "settled by later evidence"], ensure_ascii=False)
            db.execute(
                "UPDATE estate_sighting SET asset_id = ?, verdict = 'same', reasons = ? WHERE id = ?",
                (result.asset, why, row),
            )
            gained = self.index.add(result.asset, [i.key for i in found if i.kind != "tarn"])
            batch.late.add(result.asset)
            todo |= self.waiting.sharing(gained)

    def _already_held(self, db: sqlite3.Connection, sightings: Iterable[Sighting]) -> set[str]:
        ids = [s.id for s in sightings]
        marks = ",".join("?" * len(ids))
        return {d for (d,) in db.execute(f"SELECT document FROM estate_sighting WHERE document IN ({marks})", ids)}

    def _source(self, db: sqlite3.Connection, sighting: Sighting) -> int:
        return self.words.source(db, sighting.source.kind, sighting.source.name)

    def _batch_for(self, db: sqlite3.Connection, work: list[tuple[Prepared, list[Identifier]]]) -> Batch:
        """Read in one go what is open for the assets these sightings are probably of."""
        likely: dict[int, list[Prepared]] = {}
        for prepared, found in work:
            for identifier in found:
                holders = self.index.holders(identifier.key)
                if len(holders) == 1:
                    likely.setdefault(holders[0], []).append(prepared)
                    break
        state = State(db, self.words, likely)
        lines = []
        for asset, several in likely.items():
            for prepared in several:
                lines += state.changing(asset, self._source(db, prepared.sighting), prepared)
        state.load_spans(lines)
        once = {a: several[0] for a, several in likely.items() if len(several) == 1}
        return Batch(state, {p.sighting.id: (a, id(state)) for a, p in once.items()})

    def _identify(self, db: sqlite3.Connection, batch: Batch, prepared: Prepared, found: list[Identifier]) -> Taken:
        sighting = prepared.sighting
        if RULING in prepared.chosen:
            return Taken(sighting.id, "ruling", None)
        if not found:
            return Taken(sighting.id, "unidentified", None, ["nothing in it tells one device from another"])
        if found[0].kind == "tarn" and self._look_up(prepared)(found[0].key) is None:
            return Taken(sighting.id, "unidentified", None, [f"there is no asset {found[0].value}"])

        result = self._match(db, batch, prepared, found)
        taken = Taken(sighting.id, result.verdict, result.asset, result.reasons, absorbs=tuple(result.absorbs))
        if result.verdict == "undecided":
            taken.reasons = [*result.reasons, *(f"candidate {c}" for c in result.candidates)]
            return taken
        if taken.asset is None:
            taken.asset = self._new_asset(db, sighting.second)
            batch.state.need_asset(taken.asset, empty=True)
        taken.gained = self.index.add(taken.asset, [i.key for i in found if i.kind != "tarn"])
        if organisation := _organisation(prepared):
            self.index.own(taken.asset, organisation)
        return taken

    def _new_asset(self, db: sqlite3.Connection, at: int) -> int:
        asset = int(db.execute("SELECT coalesce(max(id), 0) + 1 FROM estate_asset").fetchone()[0])
        number = f"A-{asset:05d}"
        db.execute(
            "INSERT INTO estate_asset (id, number, first_seen, last_seen, sources, packages, sure, guess, "
            "guess_reasons) VALUES (?, ?, ?, ?, 0, 0, 0, '', '[]')",
            (asset, number, at, at),
        )
        self.index.add(asset, [f"tarn:{number}"])
        return asset

    def _store(self, db: sqlite3.Connection, state: State, prepared: Prepared, taken: Taken, received: int) -> None:
        sighting = prepared.sighting
        source = self._source(db, sighting)
        # What is held of the asset already is stored already; most sections of most nights are.
        lines = ((taken.asset or 0, source, s) for s in prepared.hashes)
        stored = {fresh.hash for line in lines if (fresh := state.fresh.get(line))}
        db.executemany(
            "INSERT INTO estate_sectionbody (hash, body) VALUES (?, ?) ON CONFLICT DO NOTHING",
            [(digest, pack(body)) for digest, body in prepared.bodies.items() if digest not in stored],
        )
        (taken.row,) = db.execute(
            "INSERT INTO estate_sighting (document, source_id, at, received_at, address, clock_skew, head, asset_id, "
            "verdict, reasons) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id",
            (
                sighting.id,
                source,
                sighting.second,
                received,
                sighting.address or "",
                sighting.clock_skew,
                json.dumps(prepared.head, separators=(",", ":")),
                taken.asset,
                taken.verdict[:12],
                json.dumps(taken.reasons, ensure_ascii=False),
            ),
        ).fetchone()

    def _apply(self, db: sqlite3.Connection, state: State, prepared: Prepared, asset: int) -> bool:
        sighting = prepared.sighting
        at, source = sighting.second, self._source(db, sighting)
        state.saw(asset, source, at)
        changed = telling = False
        for section, reading in prepared.chosen.items():
            if section == RULING:
                continue
            line = (asset, source, section)
            before = state.fresh.get(line)
            if before is not None and _lesser(section, reading.collector, before, at):
                continue
            digest = prepared.hashes[section]
            if before is not None and state.unchanged(line, digest, reading.complete):
                before.confirmed, before.changed = at, True
                continue
            if before is not None and state.by_difference(line, reading):
                differs, bears = self._differ(db, state, line, before, prepared, at)
                changed, telling = changed or differs, telling or bears
                continue
            content = self._content(db, state, line, reading)
            fresh = Freshness(digest, reading.collector, reading.complete, at, True)
            complete = reading.complete or section == "decision"
            changed = state.apply(line, content, fresh, complete=complete, at=at) or changed
            telling = telling or section in _TELLING
        if telling or len(state.sources_of[asset]) > 1:
            state.load_spans([(asset, source, "identity")])
        if telling and sighting.source.kind not in SPOKEN:
            self._recognise(state, prepared, (asset, source, "recognition"), at)
        if telling or len(state.sources_of[asset]) > 1:
            changed = state.settle(asset, at) or changed
        return changed

    def _differ(
        self,
        db: sqlite3.Connection,
        state: State,
        line: tuple[int, int, str],
        before: Freshness,
        prepared: Prepared,
        at: int,
    ) -> tuple[bool, bool]:
        """Tell a list of packages by its difference from the last whole one.

        Returns whether there is any, and whether it bears on what the device is taken for.
        """
        reading, digest = prepared.chosen[line[2]], prepared.hashes[line[2]]
        (stored,) = db.execute("SELECT body FROM estate_sectionbody WHERE hash = ?", (before.hash,)).fetchone()
        held, said = differing_items(unpack(stored), prepared.bodies[digest])
        gone = [self.words.release(db, p["name"], p.get("version", ""), "")[1] for p in held]
        come = [
            self.words.release(db, p["name"], p.get("version", ""), p.get("publisher", ""), p.get("system", ""))[::-1]
            for p in said
        ]
        # Two spellings of one name are one listing: what goes under one and comes under the other has stayed.
        stays = set(gone) & {release for release, _ in come}
        gone, come = [g for g in gone if g not in stays], [c for c in come if c[0] not in stays]
        state.differ(line, gone, come, Freshness(digest, reading.collector, True, at, True), at)
        return bool(gone or come), any(telling_package(p["name"]) for p in (*held, *said))

    def _content(
        self, db: sqlite3.Connection, state: State, line: tuple[int, int, str], reading: Any
    ) -> dict[tuple[Any, ...], tuple[Any, ...]]:
        """Return a reading as keys and values of its span table."""
        section = line[2]
        if section not in FACTS:
            if SPAN_TABLES[section] is not INSTALLS:
                before = {k: o.value for k, o in state.open.get(line, {}).items()} if reading.unseen else {}
                return seen_through(section, rows(section, reading.items), before, reading.unseen)
            releases = (self.words.release(db, p.name, p.version, p.publisher, p.system) for p in reading.items)
            return {(release,): (listing,) for listing, release in releases}
        facts = reading.facts
        if section == "decision":
            held = {k: o.value for k, o in state.open.get(line, {}).items()}
            said = {name: getattr(facts, name) for name in facts.model_fields_set if name != "own"}
            said |= {f"{OWN}{name}": value for name, value in (facts.own or {}).items()}
            for name, value in said.items():
                if value is None:
                    held.pop((section, name), None)
                else:
                    held[section, name] = (json.dumps(value, ensure_ascii=False),)
            return held
        held = {k: o.value for k, o in state.open.get(line, {}).items()} if reading.unseen else {}
        told = {
            (section, f): (json.dumps(v, ensure_ascii=False),)
            for f in FACT_FIELDS[section]
            if (v := getattr(facts, f)) not in (None, "")
        }
        return told | {k: v for k, v in held.items() if k[1] in reading.unseen}

    def _recognise(self, state: State, prepared: Prepared, line: tuple[int, int, str], at: int) -> None:
        """Work out what kind of device it is; the guess is a claim of the lowest rank."""
        facts: dict[str, Any] = {}
        for section in ("identity", "system"):
            if section in prepared.chosen:
                facts.update(prepared.chosen[section].facts.model_dump(exclude_none=True))
        if not facts:
            return
        ports = {p.port for p in prepared.chosen["ports"].items} if "ports" in prepared.chosen else set()
        packages = {p.name for p in prepared.chosen["packages"].items} if "packages" in prepared.chosen else set()
        taken_for = guess(facts, ports, packages, virtual=prepared.sighting.source.kind in _HOLD_MACHINES)
        if taken_for.kind == "device" and rank_of(prepared.sighting.source.kind) != READ:
            return  # a list that tells nothing of the kind claims nothing
        state.guesses[line[0]] = taken_for
        content = {("recognition", "kind"): (json.dumps(taken_for.kind),)}
        state.apply(line, content, Freshness(b"", "recognition", True, at, True), complete=True, at=at)

    def replay(self, db: sqlite3.Connection, *assets: int) -> None:
        """Derive everything held of assets anew from their sightings, each in order of time."""
        among = ",".join(map(str, assets))
        for table in _OF_ASSET:
            db.execute(f"DELETE FROM {table} WHERE asset_id IN ({among})")
        for table in _SPANS_OF_ASSET:
            # Open and closed spans have an index each: one condition over both would read the whole table.
            db.execute(f"DELETE FROM {table} WHERE asset_id IN ({among}) AND valid_to IS NULL")
            db.execute(f"DELETE FROM {table} WHERE asset_id IN ({among}) AND valid_to IS NOT NULL")
        state = State(db, self.words, [])
        for asset in assets:
            state.need_asset(asset, empty=True)
        for stored in stored_sightings(db, f"WHERE g.asset_id IN ({among}) ORDER BY g.asset_id, g.at, g.id"):
            self._apply(db, state, prepare(read_sighting(stored["document"])), stored["asset"])
        state.touched_installs.update(assets)
        state.write()

    def _rule(self, db: sqlite3.Connection, prepared: Prepared, taken: Taken) -> None:
        """Carry out a person's ruling on an undecided sighting, and look again at the other undecided ones."""
        ruling = prepared.chosen[RULING].facts
        if ruling.sightings:
            taken.reasons = self._move(db, list(ruling.sightings), ruling.asset, withdrawn=ruling.withdrawn)
            return
        row = db.execute(
            "SELECT id, at FROM estate_sighting WHERE document = ? AND asset_id IS NULL", (ruling.sighting,)
        ).fetchone()
        if row is None:
            taken.reasons = [f"no undecided sighting {ruling.sighting}"]
            return
        if ruling.asset is None:
            asset = self._new_asset(db, row[1])
        else:
            holders = self.index.holders(f"tarn:{ruling.asset.upper()}")
            if not holders:
                taken.reasons = [f"there is no asset {ruling.asset}"]
                return
            asset = holders[0]
        self._attach(db, row[0], asset, "ruled", ["a person decided"])
        for stored in list(stored_sightings(db, "WHERE g.verdict = 'undecided' ORDER BY g.id")):
            again = prepare(read_sighting(stored["document"]))
            found = identifiers(again.chosen["identity"].facts)
            result = self._match(db, Batch(State(db, self.words, []), {}), again, found)
            if result.verdict == "same" and result.asset is not None:
                self._attach(db, stored["row"], result.asset, "same", ["settled by a ruling on another sighting"])

    def _look_up(self, prepared: Prepared) -> Callable[[str], Held]:
        """Return the look-up of identifiers for a sighting: within its organisation, where it has one."""
        organisation = _organisation(prepared)
        return self.index.held_within(organisation) if organisation else self.index.held

    def _match(self, db: sqlite3.Connection, batch: Batch, prepared: Prepared, found: list[Identifier]) -> Match:
        """Find which asset identifiers are of, candidates weighed by what is held of them now."""

        def facts(asset: int) -> KnownAsset:
            if asset in batch.late:
                self._catch_up(db, batch, [asset])
            state = batch.state
            state.need_asset(asset)
            seen = state.last_seen[asset]
            return known(db, self.index, asset, *state.name_and_address(asset), seen, state.names(asset))

        sighting = prepared.sighting
        # Two computers of one name may both run a reporter; a list that only has names means the one there is.
        by_name = sighting.source.kind != "reporter"
        where = {"address": sighting.address, "at": sighting.second}
        return match(found, self._look_up(prepared), facts, **where, by_name=by_name)  # type: ignore[arg-type]

    def _attach(self, db: sqlite3.Connection, row: int, asset: int, verdict: str, reasons: list[str]) -> None:
        db.execute(
            "UPDATE estate_sighting SET asset_id = ?, verdict = ?, reasons = ? WHERE id = ?",
            (asset, verdict, json.dumps(reasons), row),
        )
        stored = next(stored_sightings(db, "WHERE g.id = ?", (row,)))
        identity = read_sighting(stored["document"])
        facts = prepare(identity).chosen["identity"].facts
        self.index.add(asset, [i.key for i in identifiers(facts) if i.kind != "tarn"])
        self.replay(db, asset)


def _organisation(prepared: Prepared) -> str:
    placement = prepared.chosen.get("placement")
    return (placement.facts.organisation or "") if placement else ""


def _lesser(section: str, collector: str, before: Freshness, at: int) -> bool:
    """Whether a reading by a lesser collector has to stand back behind the fuller one already held.

    Of a list the fuller one must have been whole; of facts, what it did not see it is not asked again by a lesser.
    """
    if rank(collector) <= rank(before.collector) or at - before.confirmed >= STALE_AFTER:
        return False
    return before.complete or section in FACTS
