"""What a stored sighting changes of what is held of its asset: worked out in memory, in its state."""

import json
import sqlite3
from typing import Any

from tarn.apps.estate.door.prepare import Prepared, differing_items, stored_body
from tarn.apps.estate.door.state import Freshness, Line, State
from tarn.apps.estate.door.tables import FACT_FIELDS, INSTALLS, SPAN_TABLES
from tarn.core.kept_json import kept
from tarn.core.kinds import guess, telling_package
from tarn.core.sections import FACTS, ITEMS, OWN, RULING, SINCE_BEFORE, STALE_AFTER, rows, seen_through
from tarn.core.sightings import rank
from tarn.core.truth import RANKS, READ, SPOKEN

_HOLD_MACHINES = frozenset({"virtual host", "cloud account"})
"""Kinds of source whose devices are virtual machines."""

_TELLING = frozenset({*FACTS, "packages", "ports"})
"""Sections that bear on what an asset is held to be."""

Content = dict[tuple[Any, ...], tuple[Any, ...]]
"""A reading as keys and values of its span table."""


def tell(db: sqlite3.Connection, state: State, prepared: Prepared, asset: int, source: int) -> bool:
    """Have a sighting change what is held of its asset; return whether it does.

    It must be the latest that is told of the asset: what came earlier is told in its place (`deriving.py`).
    """
    sighting, at = prepared.sighting, prepared.sighting.second
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
            differs, bears = _differ(db, state, line, before, prepared)
            changed, telling = changed or differs, telling or bears
            continue
        if section in SINCE_BEFORE:
            reading = _since_before(db, section, reading, before)
        content = _content(state, line, reading)
        fresh = Freshness(digest, reading.collector, reading.complete, at, True)
        complete = reading.complete or section == "decision"
        changed = state.apply(line, content, fresh, complete=complete, at=at) or changed
        telling = telling or section in _TELLING
    if telling or len(state.sources_of[asset]) > 1:
        state.load_spans([(asset, source, "identity")])
        if telling and sighting.source.kind not in SPOKEN:
            _recognise(state, prepared, (asset, source, "recognition"))
        changed = state.settle(asset, at) or changed
    return changed


def _lesser(section: str, collector: str, before: Freshness, at: int) -> bool:
    """Whether a reading by a lesser collector has to stand back behind the fuller one already held.

    Of a list the fuller one must have been whole; of facts, what it did not see it is not asked again by a lesser.
    """
    if rank(collector) <= rank(before.collector) or at - before.confirmed >= STALE_AFTER:
        return False
    return before.complete or section in FACTS


def _differ(
    db: sqlite3.Connection, state: State, line: Line, before: Freshness, prepared: Prepared
) -> tuple[bool, bool]:
    """Tell a list of packages by its difference from the last whole one.

    Returns whether there is any, and whether it bears on what the device is taken for.
    """
    words, at = state.words, prepared.sighting.second
    reading, digest = prepared.chosen[line[2]], prepared.hashes[line[2]]
    held, said = differing_items(stored_body(db, before.hash), prepared.bodies[digest])
    gone = [words.release(db, p["name"], p.get("version", ""), "")[1] for p in held]
    come = [
        words.release(db, p["name"], p.get("version", ""), p.get("publisher", ""), p.get("system", ""))[::-1]
        for p in said
    ]
    # Two spellings of one name are one listing: what goes under one and comes under the other has stayed.
    stays = set(gone) & {release for release, _ in come}
    gone, come = [g for g in gone if g not in stays], [c for c in come if c[0] not in stays]
    state.differ(line, gone, come, Freshness(digest, reading.collector, True, at, True), at)
    return bool(gone or come), any(telling_package(p["name"]) for p in (*held, *said))


def _since_before(db: sqlite3.Connection, section: str, reading: Any, before: Freshness | None) -> Any:
    """Return the reading of a list with what is reckoned from the one before it."""
    earlier = json.loads(stored_body(db, before.hash))["items"] if before is not None else []
    items = SINCE_BEFORE[section]([ITEMS[section].model_validate(item) for item in earlier], reading.items)
    return reading.model_copy(update={"items": items})


def _content(state: State, line: Line, reading: Any) -> Content:
    """Return a reading as keys and values of its span table."""
    section = line[2]
    held = {k: o.value for k, o in state.open.get(line, {}).items()}
    if section == "decision":
        return _decided(held, reading.facts)
    if section in FACTS:
        told = {
            (section, f): (kept(v),) for f in FACT_FIELDS[section] if (v := getattr(reading.facts, f)) not in (None, "")
        }
        return told | {k: v for k, v in held.items() if k[1] in reading.unseen}
    if SPAN_TABLES[section] is INSTALLS:
        releases = (state.words.release(state.db, p.name, p.version, p.publisher, p.system) for p in reading.items)
        return {(release,): (listing,) for listing, release in releases}
    return seen_through(section, rows(section, reading.items), held if reading.unseen else {}, reading.unseen)


def _decided(held: Content, facts: Any) -> Content:
    """Return what people have decided so far with what this decision says; none takes back what was said."""
    said = {name: getattr(facts, name) for name in facts.model_fields_set if name != "own"}
    said |= {f"{OWN}{name}": value for name, value in (facts.own or {}).items()}
    taken_back = {("decision", name) for name, value in said.items() if value is None}
    told = {("decision", name): (kept(value),) for name, value in said.items() if value is not None}
    return {k: v for k, v in held.items() if k not in taken_back} | told


def _recognise(state: State, prepared: Prepared, line: Line) -> None:
    """Work out what kind of device it is; the guess is a claim of the lowest rank."""
    facts: dict[str, Any] = {}
    for section in ("identity", "system"):
        if section in prepared.chosen:
            facts.update(prepared.chosen[section].facts.model_dump(exclude_none=True))
    if not facts:
        return
    kind, at = prepared.sighting.source.kind, prepared.sighting.second
    ports = {p.port for p in prepared.chosen["ports"].items} if "ports" in prepared.chosen else set()
    packages = {p.name for p in prepared.chosen["packages"].items} if "packages" in prepared.chosen else set()
    taken_for = guess(facts, ports, packages, virtual=kind in _HOLD_MACHINES)
    if taken_for.kind == "device" and RANKS[kind] != READ:
        return  # a list that tells nothing of the kind claims nothing
    state.guesses[line[0]] = taken_for
    content: Content = {("recognition", "kind"): (kept(taken_for.kind),)}
    state.apply(line, content, Freshness(b"", "recognition", True, at, True), complete=True, at=at)
