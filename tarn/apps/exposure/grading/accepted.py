"""What is accepted for a while: which findings, at a moment. Afterwards they are open again by themselves."""

import time
from typing import Any

import numpy as np
from django.db.models import Q

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.models import Acceptance
from tarn.apps.exposure.results import AcceptanceOut
from tarn.apps.people.scope import NOBODY, asking_as
from tarn.core.filters.parse import FilterError


def mask(rows: Any, at: int | None) -> Any:
    """Return by finding whether it is accepted at a moment."""
    out = np.zeros(len(rows), dtype=bool)
    for held in standing(at):
        out |= _meant(held, rows, at)
    return out


def paused(rows: Any, at: int | None) -> Any:
    """Return by finding for how many seconds, up to a moment, it was accepted since it began."""
    out, moment = np.zeros(len(rows), dtype=np.int64), at or int(time.time())
    for held in Acceptance.objects.filter(begins__lt=moment):
        mine = _meant(held, rows, at)
        if mine.any():
            begins = np.maximum(rows["since"][mine].astype(np.int64), held.begins or 0)
            ends = min(held.ended_at or held.until, held.until, moment)
            out[mine] += np.maximum(np.int64(ends) - begins, 0)
    return out


def standing(at: int | None) -> list[Acceptance]:
    """Return the acceptances that count at a moment."""
    moment = at or int(time.time())
    counted = Acceptance.objects.filter(begins__lte=moment, until__gt=moment)
    return list(counted.filter(Q(ended_at=None) | Q(ended_at__gt=moment)))


def _meant(held: Acceptance, rows: Any, at: int | None) -> Any:
    found = rows["vulnerability"] == (held.vulnerability_id or -(held.rule_id or 0))
    if held.product and found.any():
        numbers = np.unique(rows["thing"][found]).tolist()
        named = [n for n, row in things.some(numbers).items() if row.product == held.product]
        found &= np.isin(rows["thing"], named)
    if held.filter and found.any():
        try:
            with asking_as(NOBODY):  # what it means does not depend on who looks
                meant = ids(question(held.filter, at))
        except FilterError:
            meant = []  # asks for what is no longer there: accepts nothing rather than everything
        found &= np.isin(rows["asset"], meant)
    return found


def listed() -> list[AcceptanceOut]:
    """Return all acceptances, the latest first: what each covers now, and how it stands."""
    rows, now = findings().at(None), int(time.time())
    return [
        {
            "id": held.pk,
            "advisory": named(held),
            "own": held.rule_id is not None,
            "product": held.product,
            "filter": held.filter,
            "reason": held.reason,
            "grade": held.grade,
            "made_by": held.made_by,
            "made_at": iso(held.made_at),
            "approved_by": held.approved_by,
            "until": iso(held.until),
            "state": _state(held, now),
            "devices": len(np.unique(rows["asset"][_meant(held, rows, None)])),
        }
        for held in Acceptance.objects.select_related("vulnerability", "rule")
    ]


def named(held: Acceptance) -> str:
    """Return the advisory or the rule of our own that an acceptance is of."""
    return str(held.vulnerability or held.rule)


def _state(held: Acceptance, now: int) -> str:
    if held.ended_at is not None:
        return "taken back"
    if held.until <= now:
        return "over"
    return "waits for a second person" if held.begins is None else "accepted"
