"""What is around a device: the switch it is plugged into, the host it runs on, who is usually signed in."""

import json
from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from tarn.apps.estate.store.database import raw_connection

DAYS = 60
"""Days back that the usual account is reckoned over."""

_LISTED = "(SELECT value FROM json_each(?))"


def _named(assets: Iterable[int]) -> dict[int, tuple[str | None, str | None]]:
    """Return name and place of assets."""
    cursor = raw_connection().execute(
        "SELECT s.asset_id, s.name, t.text FROM estate_assetspan s LEFT JOIN estate_term t ON t.id = s.place_id "
        f"WHERE s.valid_to IS NULL AND s.asset_id IN {_LISTED}",
        [json.dumps(sorted(set(assets)))],
    )
    return {asset: (name, place) for asset, name, place in cursor}


def switches(assets: Iterable[int]) -> dict[int, dict[str, Any]]:
    """Return by asset the switch and port it is plugged into: of the ports its addresses were learnt at, the one with
    the fewest others (behind a port to another switch lie many)."""
    db, wanted = raw_connection(), json.dumps(sorted(set(assets)))
    behind: dict[str, tuple[int, int, str]] = {}
    for switch, port, macs, count in db.execute(
        "SELECT asset_id, port, group_concat(DISTINCT mac), count(DISTINCT mac) FROM estate_forwardingspan "
        "WHERE valid_to IS NULL GROUP BY asset_id, port"
    ):
        for mac in macs.split(","):
            if mac not in behind or count < behind[mac][0]:
                behind[mac] = (count, switch, port)
    macs_of: dict[int, set[str]] = defaultdict(set)
    for asset, mac in db.execute(
        f"SELECT asset_id, mac FROM estate_interfacesspan WHERE valid_to IS NULL AND mac IS NOT NULL AND asset_id IN "
        f"{_LISTED} UNION SELECT asset_id, mac FROM estate_assetspan WHERE valid_to IS NULL AND mac IS NOT NULL "
        f"AND asset_id IN {_LISTED}",
        [wanted, wanted],
    ):
        macs_of[asset].add(mac)
    best = {
        asset: min(found)
        for asset, macs in macs_of.items()
        if (found := [behind[m] for m in macs if m in behind and behind[m][1] != asset])
    }
    known = _named(switch for _, switch, _ in best.values())
    return {
        asset: {
            "switch.name": known.get(switch, (None, None))[0],
            "switch.place": known.get(switch, (None, None))[1],
            "switch.port": port,
        }
        for asset, (_, switch, port) in best.items()
    }


def hosts(assets: Iterable[int]) -> dict[int, dict[str, Any]]:
    """Return by asset the virtual host that has it as a guest."""
    found = (
        raw_connection()
        .execute(
            "SELECT s.asset_id, g.asset_id FROM estate_assetspan s JOIN estate_guestsspan g ON lower(g.uuid) = "
            "lower(s.uuid) AND g.valid_to IS NULL WHERE s.valid_to IS NULL AND s.uuid IS NOT NULL "
            f"AND s.asset_id IN {_LISTED} ORDER BY g.valid_from",
            [json.dumps(sorted(set(assets)))],
        )
        .fetchall()
    )
    known = _named(host for _, host in found)
    return {
        asset: {"host.name": known.get(host, (None, None))[0], "host.place": known.get(host, (None, None))[1]}
        for asset, host in found
    }


def usual_accounts(assets: Iterable[int], now: int) -> dict[int, str]:
    """Return by asset the account that was signed in last for most of the last DAYS days."""
    since = now - DAYS * 86_400
    held: dict[int, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    for asset, value, begins, ends in raw_connection().execute(
        "SELECT asset_id, value, valid_from, valid_to FROM estate_fieldspan WHERE field = 'last_user' "
        f"AND (valid_to IS NULL OR valid_to > ?) AND asset_id IN {_LISTED}",
        [since, json.dumps(sorted(set(assets)))],
    ):
        account = str(json.loads(value) or "").rpartition("\\")[2].lower()
        if account:
            held[asset][account] += min(ends or now, now) - max(begins, since)
    return {asset: max(times, key=lambda a: (times[a], a)) for asset, times in held.items()}


def own_words(assets: Iterable[int], fields: Iterable[str]) -> dict[int, dict[str, tuple[str, Any]]]:
    """Return by asset and field what a person has said of it by hand, the latest word, and who."""
    out: dict[int, dict[str, tuple[str, Any]]] = defaultdict(dict)
    for asset, name, value, who in raw_connection().execute(
        "SELECT f.asset_id, f.field, f.value, o.name FROM estate_fieldspan f "
        "JOIN estate_source o ON o.id = f.source_id "
        f"WHERE f.valid_to IS NULL AND o.kind = 'hand' AND f.field IN {_LISTED} AND f.asset_id IN {_LISTED} "
        "ORDER BY f.valid_from",
        [json.dumps(sorted(set(fields))), json.dumps(sorted(set(assets)))],
    ):
        out[asset][name] = (who, json.loads(value))
    return out
