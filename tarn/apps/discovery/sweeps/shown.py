"""What discovery shows: sweeps, runs, outcomes, credentials without their secrets, and intake."""

import json
import time
from collections import defaultdict
from typing import Any

from django.db.models import Count

from tarn.apps.discovery.models import Credential, Run, RunAddress, Sweep
from tarn.apps.discovery.networks.shown import networks
from tarn.apps.discovery.sweeps.results import AddressOut, ComparedOut, OffersOut, RunOut, RunPage, StageOut, SweepOut
from tarn.apps.people.scope import visible
from tarn.collect.look import STAGES
from tarn.core.schedule import in_words


def sweep(held: Sweep, last: Run | None = None) -> SweepOut:
    """Return a sweep with its last run."""
    return {
        "id": held.pk,
        "name": held.name,
        "ranges": held.ranges,
        "exclusions": held.exclusions,
        "protocols": held.protocols,
        "credentials": [c.pk for c in held.credentials.all()],
        "route": held.route,
        "at_once": held.at_once,
        "patience": held.patience,
        "schedule": held.schedule,
        "schedule_words": in_words(held.schedule) if held.schedule else "",
        "next_at": held.next_at,
        "minutes": held.minutes,
        "organisation": held.organisation_id,
        "version": held.version,
        "last_run": run_summary(last) if last else None,
    }


def sweeps() -> list[SweepOut]:
    """Return all sweeps, each with its last run."""
    last = {r.sweep_id: r for r in visible(Run).select_related("sweep", "asked_by").order_by("id")}
    return [sweep(s, last.get(s.pk)) for s in visible(Sweep).prefetch_related("credentials").order_by("name")]


def run_summary(run: Run) -> RunOut:
    """Return a run's head: state, counts by outcome, stages, rate and what remains."""
    outcomes = dict(
        RunAddress.objects.filter(run=run).values_list("outcome").annotate(n=Count("id")).values_list("outcome", "n")
    )
    done = run.total - outcomes.get("waiting", 0)
    until = run.ended_at or int(time.time())
    seconds = max(until - run.started_at, 0) if run.started_at else 0
    rate = done / seconds if seconds else 0.0
    remaining = round((run.total - done) / rate) if rate and run.state == "running" else None
    return {
        "id": run.pk,
        "sweep": run.sweep_id,
        "name": run.sweep.name,
        "route": run.sweep.route,
        "state": run.state,
        "wish": run.wish,
        "asked_by": run.asked_by.username if run.asked_by else None,
        "made_at": run.made_at,
        "started_at": run.started_at,
        "ended_at": run.ended_at,
        "total": run.total,
        "done": done,
        "seconds": seconds,
        "rate": round(rate, 1),
        "remaining_seconds": remaining,
        "outcomes": outcomes,
        "stages": _stages(run, done),
        "message": run.message,
        "tick": run.tick,
    }


def _stages(run: Run, done: int) -> list[StageOut]:
    """Return the four stages, each with how many addresses are past it and how many are in it."""
    at = dict(RunAddress.objects.filter(run=run, outcome="waiting").values_list("stage").annotate(n=Count("id")))
    return [
        {
            "name": name,
            "past": done + sum(n for s, n in at.items() if s > number),
            "inside": at.get(number, 0),
            "total": run.total,
        }
        for number, name in enumerate(STAGES, start=1)
    ]


def address_row(row: RunAddress) -> AddressOut:
    """Return one address of a run."""
    return {
        "address": row.address,
        "stage": row.stage,
        "outcome": row.outcome,
        "code": row.code,
        "reason": row.reason,
        "remedy": row.remedy,
        "credential": row.credential,
        "outpost": row.outpost,
        "taken_for": row.taken_for,
        "ports": row.ports,
        "asset_id": row.asset_id,
        "took_ms": row.took_ms,
    }


def changed_addresses(run_id: int, after: int) -> list[RunAddress]:
    """Return the addresses of a run that changed after a tick, in order."""
    return list(RunAddress.objects.filter(run_id=run_id, tick__gt=after).order_by("position"))


def run_page(run: Run) -> RunPage:
    """Return everything a run's page shows."""
    rows = changed_addresses(run.pk, -1)
    grouped: dict[tuple[str, str, str], list[RunAddress]] = defaultdict(list)
    for row in rows:
        if row.code not in _NOTHING_WRONG:
            grouped[row.code, row.reason, row.remedy].append(row)
    by_name = dict(visible(Credential).values_list("name", "pk"))
    return {
        "run": run_summary(run),
        "addresses": [address_row(r) for r in rows],
        "networks": [n for n in networks() if not n["never_probe"]],
        "reasons": [
            {
                "code": code,
                "reason": reason,
                "remedy": remedy,
                "count": len(several),
                "addresses": [r.address for r in several],
                "credential": by_name.get(several[0].met.get("credential", "")),
            }
            for (code, reason, remedy), several in sorted(grouped.items(), key=lambda g: -len(g[1]))
        ],
        "compared": compared(run, rows),
    }


_NOTHING_WRONG = frozenset({"", "silent", "read", "excluded", "edge", "unmanaged"})


def compared(run: Run, rows: list[RunAddress]) -> ComparedOut | None:
    """Compare a run with the last ended one of its sweep before it: which addresses came, went, fell, rose."""
    before = Run.objects.filter(sweep=run.sweep_id, pk__lt=run.pk, state="done").order_by("-id").first()
    if before is None:
        return None
    was = dict(RunAddress.objects.filter(run=before).values_list("address", "outcome"))
    out: dict[str, list[str]] = {"newly answering": [], "gone silent": [], "read worse": [], "read better": []}
    for row in rows:
        then, now = _GRADE.get(was.get(row.address, ""), -1), _GRADE.get(row.outcome, -1)
        if then < 0 or now < 0 or then == now:
            continue
        change = (
            "newly answering"
            if then == 0
            else "gone silent"
            if now == 0
            else "read worse"
            if now < then
            else "read better"
        )
        out[change].append(row.address)
    return {"run": before.pk, "ended_at": before.ended_at, "changes": out}


_GRADE = {"no answer": 0, "answered": 1, "recognised": 2, "part read": 3, "fully read": 4}


def offers(asset: int) -> OffersOut | None:
    """Return the collectors an asset was offered to when a sweep last met it, and what came of each."""
    met = RunAddress.objects.filter(asset_id=asset, run__in=visible(Run)).select_related("run__sweep")
    last = met.exclude(offers=[]).order_by("-run", "-pk").first()
    if last is None:
        return None
    return {
        "address": last.address,
        "run": last.run_id,
        "sweep": last.run.sweep.name,
        "outpost": last.outpost,
        "at": last.run.ended_at,
        "offers": last.offers,
    }


def runs(limit: int = 30) -> list[RunOut]:
    """Return the latest runs."""
    return [run_summary(r) for r in visible(Run).select_related("sweep", "asked_by")[:limit]]


def running() -> list[RunOut]:
    """Return what is under way, for the top bar."""
    under_way = visible(Run).select_related("sweep", "asked_by").filter(state__in=("waiting", "running", "paused"))
    return [run_summary(r) for r in under_way[:20]]


def to_event(name: str, data: Any) -> bytes:
    """Return a server-sent event (HTML Living Standard, 9.2)."""
    return f"event: {name}\ndata: {json.dumps(data, separators=(',', ':'))}\n\n".encode()
