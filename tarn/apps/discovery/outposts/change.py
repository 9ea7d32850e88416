"""Outposts: joining, being given work, and taking in what they hand in."""

import secrets
import time
from datetime import timedelta
from typing import Any

from django.db import transaction

from tarn.apps.discovery.credentials.expected_keys import host_keys, takes_first_keys
from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.credentials.trying import note_trial
from tarn.apps.discovery.models import Lease, Network, Outpost, Run, RunAddress, Trial
from tarn.apps.discovery.outposts.leasing import count_handed, heard_from, take_order
from tarn.apps.discovery.sweeps.handing_in import hand_in, settle
from tarn.apps.discovery.sweeps.look_settings import keep_refusals
from tarn.apps.estate.door.entrance import take_in_batch
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.actions.tokens import digest
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import visible
from tarn.collect.found import Found
from tarn.collect.outpost.wire import SPEECH, Greeting, HandIn, Receipt, TrialNews, TrialOrder, WorkOffer, pack
from tarn.core.senders import misdated, oversteps
from tarn.core.sightings import Sighting

IDLE, BUSY = 2.0, 5.0
"""Seconds after which an outpost asks again, without work and with."""
MOST_SKEW = 2.0
"""Seconds a clock may be off before what it dates is corrected."""


class OldOutpost(ValueError):
    """An outpost that speaks another release's language."""


def make_outpost(user: Any, name: str, networks: list[int], organisation: int | None = None) -> tuple[Outpost, str]:
    """Make an outpost for networks; returns it and its token, which is shown here and never again."""
    if user is not None:
        require(user, "credentials")
    name = name.strip()[:80]
    if not name:
        raise Invalid("name", "An outpost needs a name: it stands beside every address it looked at.")
    token = "out_" + secrets.token_urlsafe(32)
    with once("name", f"There is an outpost “{name}” already."):
        made = Outpost.objects.create(
            name=name, digest=digest(token), made_by=user, made_at=int(time.time()), organisation=owner(organisation)
        )
        made.network_set.set(_networks(networks))
        record(user, "made an outpost", made.name)
    return made, token


def set_networks(user: Any, number: int, networks: list[int]) -> Outpost:
    """Say which networks are reached through an outpost. Raises Invalid, Outpost.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        outpost = visible(Outpost).get(pk=number, withdrawn_at=None)
        outpost.network_set.set(_networks(networks))
        record(user, "set the networks of an outpost", outpost.name, detail={"networks": networks})
    return outpost


def withdraw_outpost(user: Any, number: int) -> None:
    """Withdraw an outpost: its token is refused from now on, and what it was at goes to others.

    Raises Outpost.DoesNotExist.
    """
    require(user, "credentials")
    with transaction.atomic():
        held = visible(Outpost).get(pk=number, withdrawn_at=None)
        held.withdrawn_at = int(time.time())
        held.save(update_fields=["withdrawn_at"])
        Lease.objects.filter(outpost=held).delete()
        record(user, "withdrew an outpost", held.name)


def _networks(ids: list[int]) -> list[Network]:
    found = list(visible(Network).filter(pk__in=ids))
    if missing := set(ids) - {n.pk for n in found}:
        raise Invalid("networks", f"There is no network {min(missing)}.")
    if shut := next((n for n in found if n.never_probe), None):
        raise Invalid("networks", f"{shut.range} must never be probed, by an outpost neither.")
    return found


def speaker(token: str) -> Outpost:
    """Return the outpost a token is for. Raises NotAllowed where it is unknown or withdrawn."""
    outpost = Outpost.objects.filter(digest=digest(token)).first()
    if outpost is None:
        raise NotAllowed("This outpost's token is not known here. Make the outpost anew and join with its token.")
    if outpost.withdrawn_at is not None:
        raise NotAllowed(f"The token of the outpost “{outpost.name}” was withdrawn.")
    return outpost


def give_work(outpost: Outpost, greeting: Greeting) -> WorkOffer:
    """Note what an outpost says of itself and give it work. Raises OldOutpost, which the page shows too."""
    now = time.time()
    trouble = ""
    if greeting.speech != SPEECH:
        older = "an older" if greeting.speech < SPEECH else "a newer"
        trouble = (
            f"It runs {older} release ({greeting.release}, language {greeting.speech}); this Tarn speaks {SPEECH}. "
            "Install the same release on both."
        )
    said = {
        "last_seen": int(now),
        "release": greeting.release[:40],
        "skew": round(greeting.at - now, 1),
        "kept": greeting.kept,
        "trouble": trouble,
    }
    with transaction.atomic():
        Outpost.objects.filter(pk=outpost.pk).update(**said)
        if trouble:
            heard_from(outpost, [])
        else:
            heard_from(outpost, greeting.leases)
            orders = [order] if greeting.room > 0 and (order := take_order(outpost)) else []
            trials = _trials(outpost)
    if trouble:
        raise OldOutpost(trouble)
    return WorkOffer(BUSY if greeting.leases or orders else IDLE, orders, trials)


def _trials(outpost: Outpost) -> list[TrialOrder]:
    waiting = list(Trial.objects.select_related("credential").filter(outpost=outpost, state="waiting")[:4])
    Trial.objects.filter(pk__in=[t.pk for t in waiting]).update(state="running")
    return [_trial_order(t) for t in waiting]


def _trial_order(trial: Trial) -> TrialOrder:
    known = sorted(host_keys(trial.address).get(trial.address, ()))
    return TrialOrder(trial.pk, trial.address, pack(opened(trial.credential)), known, takes_first_keys(trial))


def take_hand_in(outpost: Outpost, handed: HandIn) -> Receipt:
    """Take in what an outpost found. What was handed in before counts once.

    Addresses that are not the outpost's to look at are refused, each with the reason. What comes after others have
    looked there meanwhile is evidence all the same, and changes no outcome. Raises Run.DoesNotExist.
    """
    with transaction.atomic():
        run = Run.objects.select_related("sweep").get(pk=handed.run)
        wanted = [*(f.address for f in handed.found), *handed.stages]
        rows = {
            r.address: r
            for r in RunAddress.objects.select_related("lease").filter(
                run=run, address__in=wanted, network__outposts=outpost
            )
        }
        refused: dict[str, str] = {}
        answers: list[Found] = []
        for one in (_dated_here(f, outpost.skew) for f in handed.found):
            if why := _unfit(one, rows.get(one.address), run, outpost):
                refused[one.address] = why
            else:
                answers.append(one)
        open_still = {a for a, row in rows.items() if _still_open(row, handed.lease)}
        mine = [f for f in answers if f.address in open_still]
        late = [s for f in answers if f.address not in open_still for s in f.sightings]
        stages = {a: s for a, s in handed.stages.items() if a in rows and rows[a].outcome == "waiting"}
        if late:
            take_in_batch(late)
        hand_in(run, mine, stages, outpost.name)
        count_handed(outpost, len(mine))
        keep_refusals(run, handed.refused)
        if handed.done:
            Lease.objects.filter(key=handed.lease).delete()
        settle(run)
        halt = run.state != "running" or bool(run.wish)
    return Receipt(halt=halt, refused=refused)


def _unfit(found: Found, row: RunAddress | None, run: Run, outpost: Outpost) -> str:
    if row is None:
        return f"{found.address} is not among the addresses of run {run.pk} that “{outpost.name}” may look at"
    sighting, whose = found.sighting, run.sweep.organisation.name if run.sweep.organisation else None
    if any(_organisation(s) != whose for s in found.sightings):
        return "its sighting speaks for another organisation"
    network = row.network
    placed = (network.place if network else None, whose)
    if faults := [f for s in found.sightings for f in oversteps(s, placed)]:
        return f"its sighting oversteps: {faults[0][0]}: {faults[0][1]}"
    if wrong := next((w for s in found.sightings if (w := misdated(s.second, int(time.time())))), ""):
        return f"its sighting is misdated: {wrong}"
    if any(g.source.kind != "virtual host" for g in found.guests):
        return "what it says of guests speaks for another source"
    if sighting is not None:
        if (sighting.source.kind, sighting.source.name) != ("sweep", run.sweep.name):
            return f"its sighting speaks for {sighting.source.kind} “{sighting.source.name}”"
        if sighting.address != found.address:
            return f"its sighting is of {sighting.address}"
    return ""


def _organisation(sighting: Sighting) -> str | None:
    said = {r.facts.organisation for r in sighting.readings if r.section == "placement"}
    return next(iter(said), None) if len(said) <= 1 else ""


def _still_open(row: RunAddress, lease: str) -> bool:
    return row.outcome == "waiting" or row.code == "outpost-away" or (row.lease is not None and row.lease.key == lease)


def _dated_here(found: Found, skew: float) -> Found:
    """Date what was found by our clock where the outpost's is off."""

    def dated(sighting: Sighting) -> Sighting:
        return sighting.model_copy(update={"at": sighting.at - timedelta(seconds=round(skew))})

    if abs(skew) > MOST_SKEW:
        found.sighting = dated(found.sighting) if found.sighting is not None else None
        found.guests = [dated(g) for g in found.guests]
    return found


def take_trial_news(outpost: Outpost, number: int, news: TrialNews) -> None:
    """Note the steps of a trial so far. Raises Trial.DoesNotExist for one that is not this outpost's."""
    trial = Trial.objects.select_related("credential").get(pk=number, outpost=outpost)
    note_trial(trial, [s.as_row() for s in news.steps], done=news.done)
