"""Ends of support: what documents tell of what is here, and which device is past one, by the one list there is."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from functools import partial
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.register.strata import columns, selected
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import Ground
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.deriving import THINGS, all_things
from tarn.apps.exposure.finding.occurrences import OPEN, occurrences
from tarn.apps.exposure.ground import ADVISORIES
from tarn.apps.exposure.results import SupportOut
from tarn.apps.lifecycle.reads.support import support_ends, support_version
from tarn.core.days import noon
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.status import weigh
from tarn.core.filters.check import Checked, Cond
from tarn.core.filters.plain import compares, holds
from tarn.core.filters.tree import Compare, Plain, to_text

SORTS = {"a": "software", "o": "system", "h": "model"}


@dataclass(frozen=True, slots=True)
class ToldEnd:
    """An end of support as a document tells it of what is here: the day, and who says so."""

    day: date
    by: str


_told: Remembered[dict[tuple[str, str], ToldEnd]] = Remembered("ends of support told", ADVISORIES, THINGS, most=1)


def told() -> dict[tuple[str, str], ToldEnd]:
    """Return what documents tell of what is here, by its name (letter case aside) and version; of two the earlier."""
    return _told.get("all", _read)


def days_told() -> dict[tuple[str, str], date]:
    """Return the days alone."""
    return {key: end.day for key, end in told().items()}


def _read() -> dict[tuple[str, str], ToldEnd]:
    if raw_connection().execute("SELECT 1 FROM exposure_supporttold LIMIT 1").fetchone() is None:
        return {}
    there, rows = all_things(), things.everything()
    out: dict[tuple[str, str], ToldEnd] = {}
    for key, body, ends, by in raw_connection().execute(
        "SELECT s.key, s.body, s.ends, ifnull(nullif(d.by, ''), d.name) FROM exposure_supporttold s "
        "JOIN exposure_document d ON d.id = s.document_id WHERE d.ends IS NULL"
    ):
        statement, end = read_statement(body), ToldEnd(day_of(ends), by)
        for number in set(there.named(key)):
            verdict = weigh(there.by_number[number], statement)
            if verdict is None or verdict.status not in ("affected", "under investigation"):
                continue
            at = (rows[number].product.casefold(), rows[number].version)
            if at not in out or end.day < out[at].day:
                out[at] = end
    return out


_ending: Remembered[dict[int, date]] = Remembered(
    "ends of support by thing", ADVISORIES, THINGS, Ground("ends of support", support_version), most=1
)


def ending() -> dict[int, date]:
    """Return the last day of support of what is here, by thing, of those of which it is known."""
    return _ending.get("all", _by_thing)


def _by_thing() -> dict[int, date]:
    ends = support_ends()
    if not ends:
        return {}
    found = ((n, ends.day(row.product, row.version)) for n, row in things.everything().items())
    return {n: day for n, day in found if day is not None}


def over(at: int | None) -> frozenset[int]:
    """Return the things past their end of support at a moment."""
    today = day_of(at)
    return frozenset(n for n, day in ending().items() if day < today)


@dataclass(frozen=True)
class _Here:
    """What is on devices at a moment and has an end of support: rows of thing and asset."""

    rows: Any
    ends: dict[int, date]


def _here(at: int | None) -> _Here:
    ends = ending()
    rows = occurrences(frozenset(ends)).of(ends)
    moment = OPEN - 1 if at is None else at
    return _Here(rows[(rows["begins"] <= moment) & (rows["ends"] > moment)], ends)


def numbers(at: int | None, inner: Checked | None) -> dict[int, int]:
    """Return how many things with an end of support, for which a condition holds, each asset has; those with any."""
    here = _here(at)
    held = things.some(np.unique(here.rows["thing"]).tolist())
    meant = [n for n, row in held.items() if inner is None or holds(inner, partial(_compares, row, here.ends[n]))]
    assets, times = np.unique(here.rows["asset"][np.isin(here.rows["thing"], meant)], return_counts=True)
    return dict(zip(assets.tolist(), times.tolist(), strict=True))


def _compares(row: things.Row, day: date, cond: Cond) -> bool:
    value = {"product": row.product, "release": row.version, "ends": noon(day), "sort": SORTS[row.part]}
    return compares(cond, value[cond.field.name])


def listed(asked: Question) -> list[SupportOut]:
    """Return what is on a selection and has an end of support: each release with its devices, the earliest first."""
    here, columns_ = _here(asked.at), columns(asked.at)
    mine = columns_.assets[selected(columns_, asked)]
    rows = here.rows[np.isin(here.rows["asset"], mine)]
    held, by = things.some(np.unique(rows["thing"]).tolist()), told()
    assets: dict[tuple[str, str, str, date], set[int]] = defaultdict(set)
    for thing in held:
        row = held[thing]
        key = (row.product, row.version, SORTS[row.part], here.ends[thing])
        assets[key] |= set(rows["asset"][rows["thing"] == thing].tolist())
    today, ends = day_of(asked.at), support_ends()
    out: list[SupportOut] = []
    for (product, release, sort, day), on in assets.items():
        document = by.get((product.casefold(), release))
        by_hand = ends.of(product, release)
        conditions = [("product", product), *([("release", release)] if release else []), ("sort", sort)]
        inner = " and ".join(to_text(Compare(f, "=", Plain(v, True))) for f, v in conditions)
        out.append(
            {
                "product": product,
                "release": release,
                "sort": sort,
                "day": day.isoformat(),
                "days": (day - today).days,
                "by": "our own list" if by_hand is not None and by_hand.day else document.by if document else "",
                "devices": len(on),
                "filter": f"support[{inner}]",
            }
        )
    out.sort(key=lambda r: (r["day"], r["product"], r["release"]))
    return out
