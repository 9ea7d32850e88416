"""Certificates as they were met: who presents each and where, who signed it, who calls there, and until when."""

import time
from collections import defaultdict
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.kept.health import standing
from tarn.apps.services.standing.edges import DAY
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import CertificateOut, CertificatePlace

_COLUMNS = "port, c.subject, c.issuer, c.begins, c.ends, c.names, c.chain, c.key_kind, c.key_bits, c.hashed"


def certificates(asked: Question) -> list[CertificateOut]:
    """Return the certificates devices of a selection present, each once with every place it is met at, the one that
    ends first on top. `callers`: who calls one of those ports, and is turned away once it is over."""
    at, mine = asked.at, set(ids(asked))
    now = at if at is not None else int(time.time())
    there, seeable = seen(at)
    then = holds("c", at)
    met: dict[str, list[tuple[Any, ...]]] = defaultdict(list)
    for asset, fingerprint, *told in raw_connection().execute(
        f"SELECT c.asset_id, c.fingerprint, c.{_COLUMNS} FROM estate_certificatesspan c "
        f"WHERE ifnull(c.fingerprint, '') != '' AND {then.text} ORDER BY c.asset_id, c.port",
        then.values,
    ):
        if asset in seeable:
            met[fingerprint].append((asset, *told))
    met = {f: rows for f, rows in met.items() if any(row[0] in mine for row in rows)}
    callers = {
        f: {
            e.stands
            for asset, port, *_ in rows
            for e in there.under.get(asset)
            if e.kind in ("talks to", "falls back on") and e.over == str(port)
        }
        for f, rows in met.items()
    }
    known = plates({*(row[0] for rows in met.values() for row in rows), *(a for c in callers.values() for a in c)}, at)
    stood = standing(at)
    out: list[CertificateOut] = []
    for fingerprint, rows in met.items():
        _, _, subject, issuer, begins, ends, names, chain, kind, bits, hashed = rows[0]
        places: list[CertificatePlace] = [{**end(r[0], known), "port": r[1]} for r in rows if r[0] in known]
        holders = {r[0] for r in rows}
        out.append(
            {
                "fingerprint": fingerprint,
                "subject": subject or "",
                "names": (names or "").split(),
                "issuer": issuer or "",
                "chain": [one for one in (chain or "").split("; ") if one],
                "self_signed": bool(subject) and subject == issuer,
                "begins": iso(begins) if begins is not None else None,
                "ends": iso(ends) if ends is not None else None,
                "days": (ends - now) // DAY if ends is not None else None,
                "key": " ".join(filter(None, (kind, f"{bits} bits" if bits else "", hashed and f"over {hashed}"))),
                "places": places,
                "callers": counted(callers[fingerprint] & known.keys(), known),
                "services": sorted(s.name for n, s in stood.services.items() if stood.members[n].all & holders),
            }
        )
    return sorted(out, key=lambda c: (c["days"] is None, c["days"] or 0, c["subject"], c["fingerprint"]))
