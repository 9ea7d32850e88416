"""Which asset a sighting is of, by who holds its identifiers and what is held of them now."""

import sqlite3
from collections.abc import Callable

from tarn.apps.estate.door.index import known
from tarn.apps.estate.door.memory import Memory
from tarn.apps.estate.door.prepare import Prepared
from tarn.apps.estate.door.state import State
from tarn.core.identity import Held, Match, match
from tarn.core.signs import KnownAsset


def look_up(memory: Memory, prepared: Prepared) -> Callable[[str], Held]:
    """Return the look-up of identifiers for a sighting: within its organisation, where it has one."""
    organisation = prepared.organisation
    return memory.index.held_within(organisation) if organisation else memory.index.held


def matched(db: sqlite3.Connection, memory: Memory, state: State, prepared: Prepared) -> Match:
    """Find which asset a sighting is of, candidates weighed by what the state holds of them."""

    def facts(asset: int) -> KnownAsset:
        state.need_asset(asset)
        seen = state.last_seen[asset]
        return known(db, memory.index, asset, *state.name_and_address(asset), seen, state.names(asset))

    sighting = prepared.sighting
    # Two computers of one name may both run a reporter; a list that only has names means the one there is.
    by_name = sighting.source.kind != "reporter"
    return match(
        prepared.found,
        look_up(memory, prepared),
        facts,
        address=sighting.address,
        at=sighting.second,
        by_name=by_name,
    )
