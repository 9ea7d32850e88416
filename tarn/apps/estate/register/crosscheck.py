"""Who sees what: the sources side by side over a selection, what only some know, and where they disagree."""

import json
import time
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.register.results import (
    CrossCheckOut,
    DisagreementOut,
    EstimateOut,
    Estimates,
    LabelledEstimate,
    SaidTwice,
)
from tarn.apps.estate.register.strata import Columns, columns, selected
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE
from tarn.apps.people.scope import scope
from tarn.core.coverage import Estimate, combine, estimate, pattern_counts
from tarn.core.filters.tree import EVERYTHING

FRESH = 60 * 86_400
"""Seconds after which a source that has not seen a device again no longer counts as one that sees it; files stay."""
MOST_WITNESSES = 12
_JOINED = {"sweep": "Sweeps", "reporter": "Reporters", "outpost": "Sweeps", "virtual host": "Virtual hosts"}
COMPARED = ("memory", "person", "department", "kind", "os_name", "model", "serial", "place", "name")
"""Fields whose disagreements are shown."""


@dataclass(frozen=True)
class Witnesses:
    """Who sees whom: names and kinds of the witnesses, and a bit mask for each position of the columns."""

    names: tuple[str, ...]
    kinds: tuple[str, ...]
    bits: Any

    @property
    def pairs(self) -> list[tuple[str, str]]:
        """Return names with kinds."""
        return list(zip(self.names, self.kinds, strict=True))

    def sees(self, place: int) -> Any:
        """Return a mask of the positions a witness sees."""
        return (self.bits >> place) & 1 == 1


_witnesses: Remembered[Witnesses] = Remembered("witnesses", EVIDENCE, most=4, one_at_a_time=True)


def witnesses(at: int | None) -> Witnesses:
    """Return who sees whom, from memory where the evidence has not changed. Sweeps count as one; hands do not count.

    Beyond MOST_WITNESSES sources those that see fewest are left out.
    """
    hour = None if at else int(time.time()) // 3600  # what is fresh goes by the clock
    return _witnesses.get((at, hour, scope()), lambda: _build(columns(at), at))


def _build(held: Columns, at: int | None) -> Witnesses:
    db = raw_connection()
    names: dict[str, str] = {}
    of: dict[int, str] = {}
    for number, kind, name in db.execute("SELECT id, kind, name FROM estate_source WHERE kind NOT IN ('hand', 'rule')"):
        of[number] = _JOINED.get(kind, name)
        names.setdefault(of[number], "sweep" if kind == "outpost" else kind)
    now = at or int(time.time())
    seen: dict[str, list[Any]] = {n: [] for n in names}
    cursor = db.execute("SELECT source_id, asset_id, first_seen, last_seen FROM estate_sourceseen")
    while rows := cursor.fetchmany(50_000):
        table = np.array(rows, dtype=np.int64)
        for number in np.unique(table[:, 0]):
            if (name := of.get(int(number))) is None:
                continue
            mine = table[table[:, 0] == number]
            fresh = mine[:, 2] <= now
            if names[name] != "file" and at is None:
                fresh &= mine[:, 3] >= now - FRESH
            seen[name].append(mine[fresh, 1])
    if scope() is not None:
        # Sources that see nothing of theirs are none of their business.
        seen = {n: [a[np.isin(a, held.assets)] for a in several] for n, several in seen.items()}
        seen = {n: several for n, several in seen.items() if any(len(a) for a in several)}
    order = sorted(seen, key=lambda n: -sum(len(a) for a in seen[n]))[:MOST_WITNESSES]
    bits = np.zeros(len(held.assets), dtype=np.int64)
    for place, name in enumerate(order):
        if seen[name]:
            bits |= np.isin(held.assets, np.concatenate(seen[name])).astype(np.int64) << place
    return Witnesses(tuple(order), tuple(names[n] for n in order), bits)


def population(held: Columns, asked: Question) -> Any:
    """Return which positions a selection means here: what waits at intake is known too, what was set aside or
    retired is not looked for."""
    mask = np.ones(len(held.assets), dtype=bool) if asked.tree == EVERYTHING else selected(held, asked)
    codes = {t: i for i, t in held.words.items() if t in ("set aside", "retired")}
    return mask & (held.standing != codes.get("set aside", -2)) & (held.terms["state"] != codes.get("retired", -2))


def crosscheck(asked: Question) -> CrossCheckOut:
    """Return the overlaps of a selection and what they say of devices nobody has seen."""
    held = columns(asked.at)
    mask, who = population(held, asked), witnesses(asked.at)
    counts = pattern_counts(who.bits[mask], len(who.names))
    order = [int(m) for m in np.argsort(-counts, kind="stable") if counts[m]]
    return {
        "total": int(mask.sum()),
        "sources": [
            {"name": n, "kind": k, "count": int((who.sees(i) & mask).sum())}
            for i, (n, k) in enumerate(zip(who.names, who.kinds, strict=True))
        ],
        "patterns": [
            {"mask": m, "members": [i for i in range(len(who.names)) if m >> i & 1], "count": int(counts[m])}
            for m in order
        ],
        **_estimates(held, who, mask),
    }


def _estimates(held: Columns, who: Witnesses, mask: Any) -> Estimates:
    """Return the estimate of the whole, and by kind and by place.

    Devices of one kind and platform are about as likely to be seen as each other; the whole and the kinds are sums
    over those. Places mix kinds, so theirs are rougher; devices without a place are of every sort and get none.
    """

    def told(stratum: Any) -> Estimate:
        return estimate(pattern_counts(who.bits[stratum], len(who.names)), len(who.names))

    def label(code: int) -> str:
        return held.words.get(int(code), "none known")

    kinds, platforms, places = (held.terms[n] for n in ("kind", "platform", "place"))
    parts: dict[int, list[Estimate]] = {}
    for kind in np.unique(kinds[mask]):
        of_kind = mask & (kinds == kind)
        parts[kind] = [told(of_kind & (platforms == p)) for p in np.unique(platforms[of_kind])]
    by_kind: list[LabelledEstimate] = [
        {"label": label(k), **_said(combine(several), who)} for k, several in parts.items()
    ]
    by_place: list[LabelledEstimate] = [
        {"label": label(p), **_said(told(mask & (places == p)), who)} for p in np.unique(places[mask]) if p >= 0
    ]
    return {
        "estimate": _said(combine([e for several in parts.values() for e in several]), who),
        "by_kind": sorted(by_kind, key=lambda r: (-r["unseen"], -r["known"])),
        "by_place": sorted(by_place, key=lambda r: (-r["unseen"], -r["known"])),
    }


def _said(found: Estimate, who: Witnesses) -> EstimateOut:
    return {
        "known": found.known,
        "unseen": round(float(found.unseen), 1),
        "low": round(float(found.low), 1),
        "high": round(float(found.high), 1),
        "method": found.method,
        "refusal": found.refusal,
        "dependent": [[who.names[a], who.names[b]] for a, b in found.dependent],
    }


def members(asked: Question, wanted: int | None, most: int = 200) -> tuple[list[int], list[int], list[int], Witnesses]:
    """Return devices of a selection seen by exactly this combination (None: unseen by some that should see them).

    The second list is each one's own combination, the third those that should see it; last who the witnesses are.
    """
    held = columns(asked.at)
    mask, who = population(held, asked), witnesses(asked.at)
    should = expected(held, who)
    mask = mask & (who.bits == wanted) if wanted is not None else mask & (should & ~who.bits != 0)
    places = np.nonzero(mask)[0][:most]
    return held.assets[places].tolist(), who.bits[places].tolist(), should[places].tolist(), who


def expected(held: Columns, who: Witnesses) -> Any:
    """Return by position the witnesses that should see it: those that see at least half of what is of its kind and
    platform in the register."""
    out = np.zeros(len(held.assets), dtype=np.int64)
    sorts = held.terms["kind"].astype(np.int64) * (1 << 24) + held.terms["platform"]
    register = held.standing == held.register
    for sort in np.unique(sorts[register]):
        stratum = sorts == sort
        known = stratum & register
        for place in range(len(who.names)):
            if (who.sees(place) & known).sum() * 2 >= known.sum():
                out[stratum] |= 1 << place
    return out


def facts_of(assets: list[int], at: int | None) -> dict[int, dict[str, Any]]:
    """Return what tells why a source may not see an asset: name, kind, platform, address, place, and whether a
    directory has its account disabled."""
    if not assets:
        return {}
    db, marks = raw_connection(), ",".join(map(str, assets))
    condition = holds("s", at)
    names = ("kind", "platform", "place")
    words = ", ".join(f"(SELECT t.text FROM estate_term t WHERE t.id = s.{n}_id)" for n in names)
    rows = db.execute(
        f"SELECT s.asset_id, a.number, s.name, s.address, {words} FROM estate_assetspan s "
        f"JOIN estate_asset a ON a.id = s.asset_id WHERE {condition.text} AND s.asset_id IN ({marks})",
        condition.values,
    )
    out = {i: dict(zip(("number", "name", "address", *names), rest, strict=True)) for i, *rest in rows}
    claimed = holds("f", at)
    for (asset,) in db.execute(
        f"SELECT f.asset_id FROM estate_fieldspan f WHERE {claimed.text} AND f.field = 'disabled' "
        f"AND f.value = 'true' AND f.asset_id IN ({marks})",
        claimed.values,
    ):
        out[asset]["disabled"] = True
    return out


def disagreements(asked: Question) -> list[DisagreementOut]:
    """Return, by field and pair of sources, how many devices of a selection they say different things of."""
    held = columns(asked.at)
    chosen = set(held.assets[population(held, asked)].tolist())
    marks = ",".join("?" * len(COMPARED))
    rows = raw_connection().execute(
        "SELECT f.field, f.asset_id, o.kind, o.name, f.value FROM estate_fieldspan f "
        "JOIN estate_source o ON o.id = f.source_id WHERE f.valid_to IS NULL AND f.section != 'recognition' "
        f"AND f.field IN ({marks}) AND (f.field, f.asset_id) IN (SELECT field, asset_id FROM estate_fieldspan "
        f"WHERE valid_to IS NULL AND field IN ({marks}) AND section != 'recognition' "
        "GROUP BY field, asset_id HAVING count(DISTINCT lower(value)) > 1)",
        (*COMPARED, *COMPARED),
    )
    said: dict[tuple[str, int], dict[str, str]] = {}
    for field, asset, kind, name, value in rows:
        if asset in chosen:
            said.setdefault((field, asset), {})[_JOINED.get(kind, name)] = str(json.loads(value))
    pairs: dict[tuple[str, str, str], list[SaidTwice]] = {}
    for (field, asset), words in said.items():
        several = sorted(words)
        for i, a in enumerate(several):
            for b in several[i + 1 :]:
                if words[a].lower() != words[b].lower():
                    pairs.setdefault((field, a, b), []).append({"asset": asset, "first": words[a], "second": words[b]})
    return [
        {"field": field, "first": a, "second": b, "count": len(found), "devices": found[:25]}
        for (field, a, b), found in sorted(pairs.items(), key=lambda p: -len(p[1]))
    ]
