"""The cover of an asset, as whoever sends it to repair sees it: who answers for it, until when, how to claim."""

from datetime import date

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.register.covering import claims_of_warranty, coverages_of
from tarn.apps.lifecycle.reads.contracts import standing_over
from tarn.apps.lifecycle.results import CoverOut
from tarn.core.cover import Cover, verdict


def cover(asset: int, at: int | None) -> CoverOut:
    """Return what covers an asset on a day: its makers' coverages, what files and hands say, contracts, and a verdict.

    `conflict`: in words, where those who speak of its warranty's end differ.
    """
    day = day_of(at)
    told = [
        Cover(one["name"], one["source"], one["begins"], one["ends"], one["level"], one["claim"])
        for one in coverages_of(asset, at)
    ]
    claims = claims_of_warranty(asset, at)
    held = {c.source for c in told}
    told += [Cover("Warranty", who, None, ends) for who, ends in claims if who not in held]
    told += [
        Cover(one.name, f"contract with {one.provider}", one.starts, ends, one.kind, one.number)
        for one, ends in standing_over(asset, at)
        if one.kind in ("support", "maintenance", "lease")
    ]
    cover_state = verdict(told, day)
    return {
        "in_cover": cover_state.in_cover,
        "says": cover_state.says,
        "until": cover_state.until.isoformat() if cover_state.until else None,
        "days_left": cover_state.days_left,
        "conflict": _conflict(claims),
        "covers": [
            {
                "name": c.name,
                "who": c.source,
                "begins": c.begins.isoformat() if c.begins else None,
                "ends": c.ends.isoformat() if c.ends else None,
                "level": c.level,
                "claim": c.claim,
                "holds": c.holds(day),
            }
            for c in sorted(told, key=lambda c: (not c.holds(day), -(c.ends or date.max).toordinal()))
        ],
    }


def _conflict(claims: list[tuple[str, date]]) -> str:
    if len({ends for _, ends in claims}) < 2:
        return ""
    return "They differ on the end of its warranty: " + ", ".join(f"{who} says {e.isoformat()}" for who, e in claims)
