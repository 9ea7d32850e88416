"""What a run of sightings comes to: whose each is and what it changes, worked out in memory, then written in one go."""

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from tarn.apps.estate.door.matching import look_up, matched
from tarn.apps.estate.door.memory import Memory
from tarn.apps.estate.door.moving import absorb
from tarn.apps.estate.door.prepare import Prepared, pack, prepare, stored_sightings
from tarn.apps.estate.door.state import State
from tarn.apps.estate.door.telling import tell
from tarn.apps.estate.door.words import Words
from tarn.core.kept_json import kept, kept_close
from tarn.core.sections import RULING
from tarn.core.sightings import read_sighting


@dataclass(slots=True)
class Taken:
    """What became of a sighting: new, same, undecided, unidentified, ruling or already held; and why."""

    document: str
    verdict: str
    asset: int | None
    reasons: list[str] = field(default_factory=list)
    changed: bool = False
    row: int | None = None
    candidates: Sequence[int] = ()
    """The assets an undecided sighting may be of."""


class NeedsWritten(Exception):
    """What has been planned must be written before this can be planned; nothing of it has been.

    `late`: the asset that has to be derived anew for it, where it is one.
    """

    def __init__(self, late: int | None = None) -> None:
        super().__init__(late)
        self.late = late


class _Current(State):
    """A state that is asked for nothing that evidence of the past has made untrue."""

    def __init__(self, db: sqlite3.Connection, words: Words, assets: Iterable[int], late: set[int]) -> None:
        self.late = late
        super().__init__(db, words, assets)

    def need_asset(self, asset: int, *, empty: bool = False) -> None:
        if asset in self.late:
            raise NeedsWritten(asset)
        super().need_asset(asset, empty=empty)


class Plan:
    """A run of sightings, taken one after another. Evidence is stored as it is planned; what follows from it last.

    Assets of which evidence of the past has come are `late`: they are derived anew once, at the end of the batch, or
    before what is held of them is asked for.
    """

    def __init__(
        self, db: sqlite3.Connection, memory: Memory, coming: Sequence[Prepared], received: int, late: set[int]
    ) -> None:
        self._db, self._memory, self._received = db, memory, received
        likely: dict[int, list[Prepared]] = {}
        for prepared in coming:
            for identifier in prepared.found:
                holders = memory.index.holders(identifier.key)
                if len(holders) == 1 and holders[0] not in late:
                    likely.setdefault(holders[0], []).append(prepared)
                    break
        self._state = _Current(db, memory.words, likely, late)
        lines = []
        for asset, several in likely.items():
            for prepared in several:
                lines += self._state.changing(asset, memory.source(db, prepared), prepared)
        self._state.load_spans(lines)
        self._ready = {s[0].sighting.id: a for a, s in likely.items() if len(s) == 1}

    def take(self, prepared: Prepared) -> tuple[Taken, list[str]]:
        """Plan one sighting; return what becomes of it, and the identifiers its asset was first seen with.

        Raises NeedsWritten.
        """
        if RULING in prepared.chosen:
            taken = Taken(prepared.sighting.id, "ruling", None)
            self._store(prepared, taken)
            return taken, []
        taken, absorbs = self._identify(prepared)
        source = self._memory.source(self._db, prepared)
        if (taken.asset, source, "packages") in self._state.differing:
            # Its list was told by difference in this plan already: that has to stand first.
            raise NeedsWritten
        if taken.verdict == "new":
            taken.asset = self._memory.new_asset(self._db, prepared.sighting.second)
            self._state.need_asset(taken.asset, empty=True)
        if absorbs and taken.asset is not None:
            absorb(self._db, self._memory, absorbs, taken.asset)
            self._state.late.update(absorbs, (taken.asset,))
        gained = self._gains(prepared, taken.asset)
        self._store(prepared, taken)
        if taken.asset is not None:
            taken.changed = self._tell(prepared, taken.asset, source)
        elif taken.verdict == "undecided" and taken.row is not None:
            self._memory.waiting.add(taken.row, [i.key for i in prepared.found])
        return taken, gained

    def settle(self, row: int) -> list[str]:
        """Look again at an undecided sighting; return the identifiers its asset gains, where it is settled.

        Raises NeedsWritten.
        """
        db, waiting = self._db, self._memory.waiting
        stored = next(stored_sightings(db, "WHERE g.id = ? AND g.verdict = 'undecided'", (row,)), None)
        if stored is None:  # settled meanwhile, by a person or another process
            waiting.drop(row)
            return []
        again = prepare(read_sighting(stored["document"]))
        result = matched(db, self._memory, self._state, again)
        if result.verdict != "same" or result.asset is None or result.absorbs:
            return []
        waiting.drop(row)
        why = kept([*result.reasons, "settled by later evidence"])
        db.execute(
            "UPDATE estate_sighting SET asset_id = ?, verdict = 'same', reasons = ?, candidates = '[]' WHERE id = ?",
            (result.asset, why, row),
        )
        self._state.late.add(result.asset)
        return self._memory.index.add(result.asset, [i.key for i in again.found if i.kind != "tarn"])

    def write(self) -> None:
        """Write what was planned. The plan is spent after that."""
        self._state.write()
        self._memory.index.write(self._db)

    def _identify(self, prepared: Prepared) -> tuple[Taken, tuple[int, ...]]:
        """Say whose a sighting is, and which assets it shows to be the same device; nothing is changed yet."""
        document, found = prepared.sighting.id, prepared.found
        if not found:
            return Taken(document, "unidentified", None, ["nothing in it tells one device from another"]), ()
        if found[0].kind == "tarn" and look_up(self._memory, prepared)(found[0].key) is None:
            return Taken(document, "unidentified", None, [f"there is no asset {found[0].value}"]), ()
        result = matched(self._db, self._memory, self._state, prepared)
        taken = Taken(document, result.verdict, result.asset, result.reasons, candidates=result.candidates)
        return taken, tuple(result.absorbs)

    def _gains(self, prepared: Prepared, asset: int | None) -> list[str]:
        """Note what an asset is seen with; return the identifiers it was not seen with before."""
        if asset is None:
            return []
        if prepared.organisation:
            self._memory.index.own(asset, prepared.organisation)
        return self._memory.index.add(asset, [i.key for i in prepared.found if i.kind != "tarn"])

    def _tell(self, prepared: Prepared, asset: int, source: int) -> bool:
        """Have a sighting change what is held of its asset; of the past, later and in its place."""
        state, at = self._state, prepared.sighting.second
        if asset in state.late:
            return True
        state.need_asset(asset)
        if at < state.last_seen.get(asset, at):
            state.late.add(asset)
            return True
        if self._ready.get(prepared.sighting.id) != asset:
            state.load_spans(state.changing(asset, source, prepared))
        return tell(self._db, state, prepared, asset, source)

    def _store(self, prepared: Prepared, taken: Taken) -> None:
        """Keep the evidence: its bodies by their hashes, and which asset it was taken to be of."""
        sighting, db = prepared.sighting, self._db
        source = self._memory.source(db, prepared)
        # What is held of the asset already is stored already; most sections of most nights are.
        lines = ((taken.asset or 0, source, s) for s in prepared.hashes)
        stored = {fresh.hash for line in lines if (fresh := self._state.fresh.get(line))}
        db.executemany(
            "INSERT INTO estate_sectionbody (hash, body) VALUES (?, ?) ON CONFLICT DO NOTHING",
            [(digest, pack(body)) for digest, body in prepared.bodies.items() if digest not in stored],
        )
        (taken.row,) = db.execute(
            "INSERT INTO estate_sighting (document, source_id, at, received_at, address, clock_skew, head, asset_id, "
            "verdict, reasons, candidates) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id",
            (
                sighting.id,
                source,
                sighting.second,
                self._received,
                sighting.address or "",
                sighting.clock_skew,
                kept_close(prepared.head),
                taken.asset,
                taken.verdict,
                kept(taken.reasons),
                kept(list(taken.candidates)),
            ),
        ).fetchone()
