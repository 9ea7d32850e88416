"""What was found, written together with the outcome of its address, whoever looked: a worker or an outpost."""

import time
from dataclasses import asdict

from tarn.apps.discovery.models import Lease, Run, RunAddress, Worked
from tarn.apps.estate.door.entrance import take_in_batch
from tarn.collect.found import Found

_WRITTEN = [
    "stage", "tick", "outcome", "code", "reason", "remedy", "credential", "taken_for", "met", "ports", "took_ms",
    "asset_id", "outpost", "lease", "offers", "only",
]  # fmt: skip


def hand_in(run: Run, found: list[Found], stages: dict[str, int], outpost: str = "") -> None:
    """Take evidence in and note how far each address got, inside the caller's transaction.

    `run` is the row as it is now; its tick rises by one. Addresses the run does not have raise KeyError.
    """
    run.tick += 1
    # What a host says of its guests comes after what was read of the guests themselves, which tells more.
    sightings = [f.sighting for f in found if f.sighting is not None]
    sightings += [guest for f in found for guest in f.guests]
    taken = {t.document: t for t in take_in_batch(sightings)} if sightings else {}
    _note_stages(run, stages)
    rows = {r.address: r for r in RunAddress.objects.filter(run=run, address__in=[f.address for f in found])}
    for one in found:
        row = rows[one.address]
        row.stage, row.tick, row.outpost, row.lease = 5, run.tick, outpost, None
        row.outcome, row.code = one.outcome, one.code
        row.reason, row.remedy, row.met = one.reason, one.remedy, one.met
        row.credential, row.taken_for = one.credential, one.taken_for
        row.ports, row.took_ms, row.only = one.ports, one.took_ms, ""
        row.offers = [asdict(o) for o in one.offers]
        row.asset_id = taken[one.sighting.id].asset if one.sighting is not None else None
        row.save(update_fields=_WRITTEN)
    let_in = [Worked(address=f.address, credential=name) for f in found for name in f.worked]
    Worked.objects.bulk_create(let_in, ignore_conflicts=True, batch_size=400)
    run.save(update_fields=["tick"])


def _note_stages(run: Run, stages: dict[str, int]) -> None:
    """Note the stages addresses are at, a statement each few hundred: a sweep begins with thousands at once."""
    for stage in sorted(set(stages.values())):
        addresses = [a for a, at in stages.items() if at == stage]
        for begin in range(0, len(addresses), 500):
            these = addresses[begin : begin + 500]
            rows = RunAddress.objects.filter(run=run, address__in=these)
            if rows.update(stage=stage, tick=run.tick) != len(these):
                strange = set(these) - set(rows.values_list("address", flat=True))
                raise KeyError(min(strange))


def is_out_of_time(run: Run) -> bool:
    """Whether a run has had the time its sweep allows."""
    return bool(run.sweep.minutes and run.started_at and time.time() > run.started_at + run.sweep.minutes * 60)


def settle(run: Run) -> None:
    """End or pause a run nobody is at any more, inside the caller's transaction; else leave it running."""
    if run.at_work or run.state != "running":
        return
    waiting = RunAddress.objects.filter(run=run, outcome="waiting")
    here, there = waiting.filter(network=None).count(), waiting.exclude(network=None).count()
    if here or there:
        late = is_out_of_time(run)
        if (run.wish or late) and Lease.objects.filter(run=run).exists():
            return  # the outposts at it are told to stop with their next hand-in
        if late:
            state, run.message = "stopped", f"Its time was over: {here + there} addresses were not looked at."
        elif run.wish:
            state, run.message = {"pause": "paused", "stop": "stopped"}[run.wish], ""
        elif here:
            state, run.message = "failed", f"{here} addresses were not looked at; run it again."
        else:
            return  # the outposts have not done yet
    else:
        state, run.message = "done", ""
    run.state, run.wish = state, ""
    run.ended_at = int(time.time()) if state != "paused" else None
    run.tick += 1
    run.save()
