"""Starting, pausing, stopping and going on with runs."""

import time
from datetime import datetime
from ipaddress import ip_address
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db import transaction

from tarn.apps.discovery.credentials.acting_access import Coverage
from tarn.apps.discovery.models import Run, RunAddress, Sweep
from tarn.apps.discovery.networks.places import Places
from tarn.apps.discovery.starting import next_start
from tarn.apps.discovery.sweeps.change import PROTOCOLS, check_ranges
from tarn.apps.discovery.sweeps.handing_in import settle
from tarn.apps.discovery.sweeps.jobs import run_sweep
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.outcomes import explain

ENDED = ("done", "stopped", "failed")


def start_run(user: Any, sweep_id: int) -> Run:
    """Make a run of a sweep, with a row for every address, and hand it to the workers.

    Raises Invalid where a run of it is under way, Sweep.DoesNotExist.
    """
    if user is not None:
        require(user, "sweep")
    with transaction.atomic():
        run = plan_run(user, visible(Sweep).get(pk=sweep_id))
    _hand_over(run.pk)
    return run


def plan_run(user: Any, sweep: Sweep, only: set[str] | None = None) -> Run:
    """Make a run and its rows, of all its addresses or `only` some, inside the caller's transaction."""
    under_way = Run.objects.filter(sweep=sweep).exclude(state__in=ENDED).first()
    if under_way:
        raise Invalid("sweep", f"Run {under_way.pk} of “{sweep.name}” is under way ({under_way.state}); stop it first.")
    found = check_ranges(sweep.ranges, sweep.exclusions, sweep.organisation_id)
    if only is not None:
        found = {"probe": [a for a in found["probe"] if a in only], "left_out": {}}
    places, now = Places.load(sweep.organisation_id), int(time.time())
    quiet = {a: window for a in found["probe"] if (window := places.under_maintenance(a, now))}
    addresses = [a for a in found["probe"] if a not in quiet]
    run = Run.objects.create(sweep=sweep, asked_by=user, made_at=now, total=len(addresses), tick=1)
    probe = [
        RunAddress(run=run, position=i, address=a, tick=1, network=places.beyond_reach(a))
        for i, a in enumerate(addresses)
    ]
    left = [_left_out(run, len(probe) + i, a, by) for i, (a, by) in enumerate(found["left_out"].items())]
    left += [_quiet(run, len(probe) + len(left) + i, a, *window) for i, (a, window) in enumerate(quiet.items())]
    RunAddress.objects.bulk_create([*probe, *left], batch_size=2000)
    record(user, "started a sweep", sweep.name, detail={"run": run.pk, "addresses": run.total})
    return run


def start_due(now: int) -> list[int]:
    """Start the sweeps whose time has come, and note when each comes next. Returns the runs."""
    started = []
    for sweep in Sweep.objects.filter(next_at__lte=now):
        with transaction.atomic():
            # One that is still under way from last time is left to end; its next turn comes.
            busy = Run.objects.filter(sweep=sweep).exclude(state__in=ENDED).exists()
            if not busy:
                started.append(plan_run(None, sweep).pk)
            Sweep.objects.filter(pk=sweep.pk).update(next_at=next_start(sweep.schedule))
    for run_id in started:
        _hand_over(run_id)
    return started


def _left_out(run: Run, position: int, address: str, by: str) -> RunAddress:
    code = "excluded" if by else "edge"
    says, remedy = explain(code, exclusion=by)
    return RunAddress(
        run=run, position=position, address=address, tick=1, outcome="left out", code=code, reason=says, remedy=remedy
    )


def _quiet(run: Run, position: int, address: str, network: str, ends: int) -> RunAddress:
    until = datetime.fromtimestamp(ends, ZoneInfo(settings.TIME_ZONE)).strftime("%H:%M")
    says, remedy = explain("maintenance", network=network, until=until)
    return RunAddress(
        run=run,
        position=position,
        address=address,
        tick=1,
        outcome="left out",
        code="maintenance",
        reason=says,
        remedy=remedy,
    )


def _hand_over(run_id: int) -> None:
    run_sweep(run_id)


def steer(user: Any, run_id: int, wish: str) -> Run:
    """Pause, stop or resume a run. Raises Invalid, Run.DoesNotExist."""
    require(user, "sweep")
    with transaction.atomic():
        run = visible(Run).select_related("sweep").get(pk=run_id)
        if run.state in ENDED:
            raise Invalid("run", f"Run {run.pk} has ended ({run.state}).")
        if wish == "resume":
            if run.state != "paused" and not run.wish:
                raise Invalid("run", f"Run {run.pk} is not paused.")
            run.wish, run.state = "", "waiting" if run.state == "paused" else run.state
        elif wish in ("pause", "stop"):
            if run.state in ("paused", "waiting"):
                run.state = "stopped" if wish == "stop" else "paused"
                run.ended_at = int(time.time()) if wish == "stop" else None
            else:
                run.wish = wish
                settle(run)  # where neither a worker nor an outpost is at it, the wish is granted at once
        else:
            raise Invalid("wish", f"“{wish}” is nothing a run can be asked: pause, stop or resume.")
        run.tick += 1
        run.save()
        record(user, {"pause": "paused", "stop": "stopped", "resume": "resumed"}[wish] + " a sweep", run.sweep.name)
    if wish == "resume" and run.state == "waiting":
        _hand_over(run.pk)
    return run


def look_again(user: Any, address: str, only: str = "") -> Run:
    """Have an address looked at again by the sweep that looked at it last, by one collector only where it is named.

    Raises Invalid.
    """
    if only and only not in PROTOCOLS:
        raise Invalid("only", f"“{only}” is no collector; of: {', '.join(PROTOCOLS)}.")
    ended = visible(Run).filter(state__in=(*ENDED, "paused"))
    looked = RunAddress.objects.filter(address=address, run__in=ended).exclude(outcome="left out")
    last = looked.order_by("-run").first()
    if last is not None:
        return read_again(user, last.run_id, [address], only)
    if user is not None:
        require(user, "sweep")
    try:
        ip_address(address)
    except ValueError:
        raise Invalid("address", f"“{address}” is no address.") from None
    sweep = Coverage().of(address)
    if sweep is None:
        raise Invalid("address", f"No sweep covers {address}; one of its ranges must hold it.")
    return _run_of(user, sweep, [address])


def _run_of(user: Any, sweep: Sweep, addresses: list[str]) -> Run:
    """Make a run of a sweep over a few of its addresses alone; who may is asked before. Raises Invalid."""
    with transaction.atomic():
        run = plan_run(user, sweep, set(addresses))
    _hand_over(run.pk)
    return run


def read_afresh(addresses: list[str]) -> list[str]:
    """Have addresses read anew in Tarn's own name, by the sweeps that cover them; return those that must wait, for
    the run that would read them is under way, or that nothing covers."""
    waiting: list[str] = []
    coverage = Coverage()
    by_sweep: dict[Sweep, list[str]] = {}
    for address in addresses:
        sweep = coverage.of(address)
        if sweep is None:
            waiting.append(address)
        else:
            by_sweep.setdefault(sweep, []).append(address)
    for sweep, found in by_sweep.items():
        try:
            _run_of(None, sweep, found)
        except Invalid:
            waiting += found
    return waiting


def read_again(user: Any, run_id: int, addresses: list[str], only: str = "") -> Run:
    """Have addresses of an ended or paused run looked at again, in the same run. `user` is None for another system."""
    if user is not None:
        require(user, "sweep")
    with transaction.atomic():
        run = visible(Run).select_related("sweep").get(pk=run_id)
        if run.state not in (*ENDED, "paused"):
            raise Invalid("run", f"Run {run.pk} is under way; wait for its end.")
        rows = RunAddress.objects.filter(run=run, address__in=addresses).exclude(outcome="left out")
        if not rows.exists():
            raise Invalid("addresses", "None of these addresses belongs to the run.")
        run.tick += 1
        rows.update(outcome="waiting", stage=0, code="", reason="", remedy="", tick=run.tick, only=only)
        run.state, run.wish, run.ended_at = "waiting", "", None
        run.save()
        record(user, "had addresses read again", run.sweep.name, detail={"addresses": addresses[:20]})
    _hand_over(run.pk)
    return run
