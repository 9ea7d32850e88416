"""Leases: which outpost is at which addresses, and what becomes of them when an outpost falls silent."""

import math
import time
import uuid
from ipaddress import ip_address

from django.db import transaction
from django.db.models import F, Q

from tarn.apps.discovery.models import Lease, Network, Outpost, Run, RunAddress, Trial
from tarn.apps.discovery.networks.places import Places, ranges_of
from tarn.apps.discovery.sweeps.handing_in import is_out_of_time, settle
from tarn.apps.discovery.sweeps.look_settings import looked_with, narrowed
from tarn.apps.estate.register.links import learnt_since
from tarn.collect.outpost.wire import Stretch, SweepOrder, pack
from tarn.core.outcomes import explain

HOLDS = 60
"""Seconds a lease holds after its outpost was last heard from."""
LISTENS = 30
"""Seconds after its last word that an outpost counts as at its post."""
AWAY = 90
"""Seconds a run waits for an outpost before its addresses are given up for this time."""
LEAST, MOST = 16, 512
"""Addresses of one order."""


def heard_from(outpost: Outpost, leases: list[str]) -> None:
    """Extend what an outpost is at and take back what it has forgotten, inside the caller's transaction."""
    held = Lease.objects.filter(outpost=outpost)
    held.filter(key__in=leases).update(ends=int(time.time()) + HOLDS)
    # It began anew and knows nothing of these: the addresses go to whoever asks next.
    held.exclude(key__in=leases).delete()


def take_order(outpost: Outpost) -> SweepOrder | None:
    """Lease addresses of a run to an outpost, inside the caller's transaction; None where nothing waits for it."""
    now = int(time.time())
    Lease.objects.filter(ends__lt=now).delete()
    mine = list(outpost.network_set.all())
    free = RunAddress.objects.filter(
        run__state="running", run__wish="", outcome="waiting", lease=None, network__in=mine
    ).order_by("run", "position")
    first = free.select_related("run__sweep").first()
    if first is None or is_out_of_time(first.run):
        return None
    run = first.run
    waiting = free.filter(run=run, only=first.only)
    in_hand = RunAddress.objects.filter(run=run, outcome="waiting", network__in=mine).exclude(lease=None).count()
    beside = Outpost.objects.filter(network__in=mine, withdrawn_at=None, last_seen__gte=now - LISTENS).distinct()
    share = math.ceil((waiting.count() + in_hand) / max(1, beside.count()))
    ids = dict(waiting.values_list("pk", "address")[: min(MOST, max(LEAST, share))])
    lease = Lease.objects.create(key=uuid.uuid4().hex, run=run, outpost=outpost, made_at=now, ends=now + HOLDS)
    RunAddress.objects.filter(pk__in=list(ids)).update(lease=lease)
    return _order(run, lease, list(ids.values()), mine, first.only)


def _order(run: Run, lease: Lease, addresses: list[str], networks: list[Network], only: str) -> SweepOrder:
    settings = narrowed(looked_with(run, Places.load(run.sweep.organisation_id)), only)
    places = {n.place for n in networks}
    theirs = set(run.sweep.credentials.filter(outposts=lease.outpost).values_list("name", flat=True))
    theirs -= set(run.sweep.credentials.exclude(outposts=lease.outpost).values_list("name", flat=True))
    allowed = [
        c for c in settings.credentials if c.name in theirs and places & settings.limited.get(c.name, frozenset(places))
    ]
    names = {c.name for c in allowed}
    macs, behind = learnt_since(run.started_at or lease.made_at, settings.organisation)
    here = set(addresses)
    macs = {a: seen for a, seen in macs.items() if a in here}
    hardware = {mac for mac, _ in macs.values()}
    ranges = [r for n in networks for r in ranges_of(n)]

    def beside(address: str) -> bool:
        parsed = ip_address(address)
        return any(parsed in r for r in ranges)

    return SweepOrder(
        run=run.pk,
        sweep=run.sweep.name,
        lease=lease.key,
        addresses=addresses,
        credentials=[pack(c) for c in allowed],
        protocols=sorted(settings.protocols),
        patience=settings.patience,
        ports=list(settings.ports),
        at_once=run.sweep.at_once,
        networks=[Stretch(r.text, n.place, n.at_once, n.pause_ms / 1000) for n in networks for r in ranges_of(n)],
        organisation=settings.organisation,
        worked={a: sorted(let_in & names) for a, let_in in settings.worked.items() if a in here},
        refused=settings.guard.counts(),
        limited={c: sorted(several) for c, several in settings.limited.items() if c in names},
        host_keys={a: sorted(keys) for a, keys in settings.host_keys.items() if a in here},
        keys_met=sorted(key for a, keys in settings.host_keys.items() if beside(a) for key in keys),
        macs=macs,
        behind={m: where for m, where in behind.items() if m in hardware},
    )


def tend(now: int) -> None:
    """Take back leases that ran out, give up addresses whose outposts stay away, end what nobody is at any more."""
    with transaction.atomic():
        Lease.objects.filter(ends__lt=now).delete()
        for run in Run.objects.select_related("sweep").filter(state="running", at_work=False):
            _give_up(run, now)
            settle(run)
        for trial in Trial.objects.select_related("outpost").filter(
            ~Q(outpost=None), ~Q(state="done"), made_at__lt=now - AWAY
        ):
            _give_up_trial(trial, now)


def _give_up(run: Run, now: int) -> None:
    waiting = RunAddress.objects.filter(run=run, outcome="waiting", lease=None).exclude(network=None)
    networks = Network.objects.filter(pk__in=waiting.values("network")).prefetch_related("outposts")
    for network in networks:
        posts = [o for o in network.outposts.all() if o.withdrawn_at is None]
        latest = max((o.last_seen or 0 for o in posts), default=0)
        if max(latest, run.started_at or now) > now - AWAY:
            continue
        names = ", ".join(o.name for o in posts) or "none is left"
        says, remedy = explain("outpost-away", network=network.name or network.range, names=names)
        run.tick += 1
        waiting.filter(network=network).update(
            outcome="no answer", code="outpost-away", reason=says, remedy=remedy, stage=5, tick=run.tick
        )
        run.save(update_fields=["tick"])


def _give_up_trial(trial: Trial, now: int) -> None:
    assert trial.outpost is not None
    if (trial.outpost.last_seen or 0) > now - AWAY:
        return
    says, remedy = explain("outpost-away", network=trial.address, names=trial.outpost.name)
    step = {
        "step": "outpost", "title": "Does the outpost take it on?", "verdict": "failed",
        "says": says, "advice": remedy, "took_ms": 0,
    }  # fmt: skip
    Trial.objects.filter(pk=trial.pk).update(state="done", ended_at=now, steps=[*trial.steps, step])


def count_handed(outpost: Outpost, number: int) -> None:
    """Note that an outpost has looked at so many addresses more."""
    Outpost.objects.filter(pk=outpost.pk).update(handed=F("handed") + number)
