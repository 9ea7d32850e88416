"""Sources: made, changed, tested without storing anything, and dropped."""

import asyncio
import time
from typing import Any

from django.db import transaction

from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import Credential, Source, Sync
from tarn.apps.discovery.sources.asking import asked_at, findings, kind_of
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.discovery.sources.jobs import run_sync
from tarn.apps.discovery.sources.known import known_to
from tarn.apps.discovery.sources.missing import Missing
from tarn.apps.discovery.sources.results import PickOut, TestOut
from tarn.apps.discovery.starting import next_start
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.names import addresses_of
from tarn.collect.problems import Problem
from tarn.collect.routes import ROUTES
from tarn.collect.sources.directory import PICKS, picked
from tarn.collect.sources.finding import Finding

GONE = ("keep", "mark", "retire")
SAMPLE = 12
TEST_SECONDS = 45
"""Seconds a test waits for a source: somebody sits before it."""


def _checked(data: SourceIn) -> dict[str, Any]:
    name = data.name.strip()
    if not name:
        raise Invalid("name", "A source needs a name: it stands beside every value it brings.")
    kind = kind_of(data.kind)
    if data.route not in ROUTES:
        raise Invalid("route", f"“{data.route}” is no route; one of: {', '.join(ROUTES)}.")
    if data.gone not in GONE:
        raise Invalid("gone", f"What becomes of what the other side drops is one of: {', '.join(GONE)}.")
    days = data.gone_days
    if not 1 <= days <= 3650:
        raise Invalid("gone_days", f"{days} days is out of bounds: 1 to 3,650.")
    share = data.loss_share
    if not 0 <= share <= 100:
        raise Invalid("loss_share", f"{share} % is out of bounds: 0 to 100.")
    host = asked_at(kind, data.settings)
    credential = _credential(data.credential)
    _within_reach(credential, host)
    schedule = data.schedule.strip()
    return {
        "name": name,
        "kind": kind.name,
        "settings": data.settings,
        "take": data.take,
        "credential": credential,
        "route": data.route,
        "schedule": schedule,
        "next_at": next_start(schedule),
        "gone": data.gone,
        "gone_days": days,
        "loss_share": share,
        "organisation": owner(data.organisation),
    }


def _credential(number: int | None) -> Credential | None:
    if number is None:
        return None
    credential = visible(Credential).filter(pk=number).first()
    if credential is None:
        raise Invalid("credential", f"There is no credential {number}.")
    return credential


def _within_reach(credential: Credential | None, host: str) -> None:
    if credential is not None and host and not credential.where.holds(host):
        raise Invalid(
            "credential",
            f"“{credential.name}” may not be used at {host}. Who keeps it says where it may; that asks for its secret.",
        )


def make_source(user: Any, data: SourceIn) -> Source:
    """Make a source. Raises Invalid."""
    if user is not None:
        require(user, "plan")
    values = _checked(data)
    with once("name", f"There is a source “{values['name']}” already."):
        made = Source.objects.create(**values)
        record(user, "made a source", made.name, detail={"kind": made.kind})
    return made


def change_source(user: Any, source_id: int, version: int, data: SourceIn) -> Source:
    """Change a source made from `version`. Raises Invalid, Stale, Source.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        source = visible(Source).get(pk=source_id)
        require_version(source, version, f"“{source.name}”", {"name": source.name, "version": source.version})
        for name, value in _checked(data).items():
            setattr(source, name, value)
        source.version += 1
        with once("name", f"There is a source “{source.name}” already."):
            source.save()
        record(user, "changed a source", source.name)
    return source


def drop_source(user: Any, source_id: int) -> None:
    """Drop a source; what it brought stays as evidence. Raises Source.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        source = visible(Source).get(pk=source_id)
        record(user, "dropped a source", source.name)
        source.delete()


def test_source(user: Any, data: SourceIn) -> TestOut:
    """Ask a source as it is described and show what it would bring; nothing is stored. Raises Invalid."""
    require(user, "plan")
    values = _checked(data)
    credential = opened(values["credential"]) if values["credential"] else None
    began = time.perf_counter()
    known = known_to(Source(**values))
    found: list[Finding] = []

    async def go() -> None:
        async for finding in findings(values["kind"], values["settings"], credential, values["route"], "", known):
            found.append(finding)

    try:
        asyncio.run(asyncio.wait_for(go(), TEST_SECONDS))
        says, remedy = "", ""
    except TimeoutError:
        says, remedy = f"It did not give everything within {TEST_SECONDS} s; this is what came by then.", ""
    except Problem as problem:
        says, remedy = problem.says, problem.remedy
    faults: dict[str, int] = {}
    for finding in found:
        for fault in finding.faults:
            faults[str(fault)] = faults.get(str(fault), 0) + 1
    return {
        "found": len(found),
        "took_ms": round((time.perf_counter() - began) * 1000),
        "problem": says,
        "remedy": remedy,
        "faults": [{"says": k, "count": n} for k, n in sorted(faults.items(), key=lambda f: -f[1])[:20]],
        "sample": [{"key": f.key, "label": f.label, "facts": shown(f)} for f in found[:SAMPLE]],
    }


def shown(finding: Finding) -> dict[str, Any]:
    """Return a finding's facts by field, and how many items each of its lists has."""
    out: dict[str, Any] = {}
    if (who := finding.person) is not None:
        told = {"name": who.name, "email": who.email, "department": who.department, "title": who.title}
        return {k: v for k, v in told.items() if v} | {"active": who.active}
    for reading in finding.readings:
        if hasattr(reading, "facts"):
            out |= {k: v for k, v in reading.facts.model_dump(exclude_none=True).items() if v not in ((), "")}
        else:
            out[reading.section] = len(reading.items)
    return out


def pick(user: Any, source_id: int, which: str) -> PickOut:
    """Return the addresses of a directory's computers of one sort, by the name service. Raises Invalid."""
    require(user, "plan")
    source = visible(Source).select_related("credential").get(pk=source_id)
    if source.kind != "directory" or source.credential is None:
        raise Invalid("source", f"“{source.name}” is no directory.")
    if which not in PICKS:
        raise Invalid("pick", f"“{which}” is no pick; one of: {', '.join(PICKS)}.")
    credential, now, route = opened(source.credential), int(time.time()), ROUTES[source.route]
    names: list[str] = []
    addresses: list[str] = []
    unknown: list[str] = []

    async def go() -> None:
        async for one in findings(source.kind, source.settings, credential, source.route):
            if picked(one, which, now):
                names.append(one.label)
        for name, found in zip(names, await asyncio.gather(*(addresses_of(route, n) for n in names)), strict=True):
            addresses.extend(found)
            if not found:
                unknown.append(name)

    try:
        asyncio.run(go())
    except Problem as problem:
        raise Invalid("source", problem.says) from None
    return {"names": len(names), "addresses": addresses, "unknown": unknown}


def start_sync(user: Any, source_id: int) -> Sync:
    """Make a sync of a source and hand it to the workers. Raises Invalid, Source.DoesNotExist."""
    if user is not None:
        require(user, "sweep")
    with transaction.atomic():
        held = visible(Source).get(pk=source_id)
        under_way = Sync.objects.filter(source=held, state__in=("waiting", "running")).first()
        if under_way and int(time.time()) - under_way.made_at < 3600:
            raise Invalid("source", f"A sync of “{held.name}” is under way.")
        made = Sync.objects.create(source=held, asked_by=user, made_at=int(time.time()))
        record(user, "started a sync", held.name)
    run_sync(made.pk)
    return made


def accept_loss(user: Any, sync_id: int) -> Sync:
    """Deal with what a sync misses beyond the source's share, as the source says. Raises Invalid, Sync.DoesNotExist.

    Only of the latest whole sync: what an earlier one missed may have come back.
    """
    require(user, "plan")
    with transaction.atomic():
        held = visible(Sync).select_related("source__organisation").get(pk=sync_id)
        latest = Sync.objects.filter(source=held.source, state="done", since=None).order_by("-id").first()
        if held.loss is None or latest is None or latest.pk != held.pk:
            raise Invalid("sync", "Nothing of this sync waits for a decision; look at the latest.")
        record(user, "held what a source misses to be gone", held.source.name, detail=dict(held.loss))
        held.loss = None
        Missing(held).deal_with()
        held.save(update_fields=["loss", "counts"])
    return held


def start_due_syncs(now: int) -> list[int]:
    """Start the syncs whose time has come, and note when each comes next."""
    started = []
    for source in Source.objects.filter(next_at__lte=now):
        Source.objects.filter(pk=source.pk).update(next_at=next_start(source.schedule))
        try:
            started.append(start_sync(None, source.pk).pk)
        except Invalid:
            continue  # the last one is still under way; its next turn comes
    return started
