"""Making and changing sweeps and networks."""

from typing import Any

from django.db import transaction

from tarn.apps.discovery.models import Credential, Sweep
from tarn.apps.discovery.networks.change import keep_within, never_probed
from tarn.apps.discovery.starting import next_start
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.routes import ROUTES
from tarn.core.ranges import ALL_THERE_ARE, RangeError, expand, parse_ranges

PROTOCOLS = ("snmp", "ssh", "winrm", "tls")


def check_ranges(ranges: list[str], exclusions: list[str], organisation: int | None = None) -> dict[str, Any]:
    """Return what ranges come to for an organisation: the addresses, and those left out with the exclusion that does.

    Raises Invalid naming the field.
    """
    try:
        wanted = parse_ranges(ranges)
    except RangeError as error:
        raise Invalid("ranges", str(error)) from None
    try:
        without = parse_ranges(exclusions, most=ALL_THERE_ARE)
    except RangeError as error:
        raise Invalid("exclusions", str(error)) from None
    if not wanted:
        raise Invalid("ranges", "A sweep needs at least one range, such as 10.60.4.0/24.")
    keep_within(ranges, "ranges")
    never = parse_ranges(never_probed(organisation), most=ALL_THERE_ARE)
    probe, left = expand(wanted, [*without, *never])
    if not probe:
        raise Invalid("exclusions", "The exclusions leave no address to probe.")
    return {"probe": probe, "left_out": left}


def _checked(data: SweepIn) -> tuple[dict[str, Any], list[Credential]]:
    name = data.name.strip()
    if not name:
        raise Invalid("name", "A sweep needs a name: it stands beside every value it brings.")
    ranges, exclusions = list(data.ranges), list(data.exclusions)
    organisation = owner(data.organisation)
    check_ranges(ranges, exclusions, organisation.pk if organisation else None)
    protocols = data.protocols
    for protocol in protocols:
        if protocol not in PROTOCOLS:
            raise Invalid("protocols", f"“{protocol}” is no protocol; of: {', '.join(PROTOCOLS)}.")
    route = data.route or "direct"
    if route not in ROUTES:
        raise Invalid("route", f"“{route}” is no route; one of: {', '.join(ROUTES)}.")
    at_once = data.at_once
    if not 1 <= at_once <= 1024:
        raise Invalid("at_once", f"{at_once} devices at once is out of bounds: 1 to 1,024.")
    patience = data.patience
    if not 0.1 <= patience <= 30:
        raise Invalid("patience", f"{patience} s is out of bounds: 0.1 to 30.")
    ids = list(data.credentials)
    found = list(visible(Credential).filter(pk__in=ids))
    missing = set(ids) - {c.pk for c in found}
    if missing:
        raise Invalid("credentials", f"There is no credential {min(missing)}.")
    if tried := next((c for c in found if c.known_to_all), None):
        raise Invalid("credentials", f"“{tried.name}” is known to everybody: it is tried, and never read with.")
    if other := next((c for c in found if c.organisation_id not in (None, organisation and organisation.pk)), None):
        raise Invalid("credentials", f"“{other.name}” may be used for another organisation only.")
    wanted = parse_ranges(ranges)
    for one in found:
        reach = one.where
        if not any(reach.meets(r) for r in wanted):
            raise Invalid("credentials", f"“{one.name}” may be used at no address of this sweep.")
    minutes = data.minutes
    if minutes is not None and not 1 <= minutes <= 7 * 1440:
        raise Invalid("minutes", f"A limit of {minutes} minutes is out of bounds: 1 to 10,080.")
    schedule = data.schedule.strip()
    values = {
        "schedule": schedule,
        "next_at": next_start(schedule),
        "minutes": minutes,
        "name": name,
        "organisation": organisation,
        "ranges": ranges,
        "exclusions": exclusions,
        "protocols": protocols,
        "route": route,
        "at_once": at_once,
        "patience": patience,
    }
    return values, found


def make_sweep(user: Any, data: SweepIn) -> Sweep:
    """Make a sweep. Raises Invalid."""
    if user is not None:
        require(user, "plan")
    values, credentials = _checked(data)
    with once("name", f"There is a sweep “{values['name']}” already."):
        made = Sweep.objects.create(**values)
        made.credentials.set(credentials)
        record(user, "made a sweep", made.name, detail={"ranges": made.ranges})
    return made


def change_sweep(user: Any, sweep_id: int, version: int, data: SweepIn) -> Sweep:
    """Change a sweep made from `version`. Raises Invalid, Stale, Sweep.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        sweep = visible(Sweep).get(pk=sweep_id)
        require_version(
            sweep, version, f"“{sweep.name}”", {"name": sweep.name, "ranges": sweep.ranges, "version": sweep.version}
        )
        values, credentials = _checked(data)
        for name, value in values.items():
            setattr(sweep, name, value)
        sweep.version += 1
        with once("name", f"There is a sweep “{values['name']}” already."):
            sweep.save()
        sweep.credentials.set(credentials)
        record(user, "changed a sweep", sweep.name)
    return sweep


def drop_sweep(user: Any, sweep_id: int) -> None:
    """Drop a sweep and its runs; what it brought stays. Raises Sweep.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        sweep = visible(Sweep).get(pk=sweep_id)
        record(user, "dropped a sweep", sweep.name)
        sweep.delete()


def exclude(user: Any, sweep_id: int, addresses: list[str]) -> Sweep:
    """Leave addresses out of a sweep from now on. Raises Invalid, Sweep.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = visible(Sweep).get(pk=sweep_id)
        before = list(held.exclusions)
        held.exclusions = list(dict.fromkeys([*held.exclusions, *addresses]))
        check_ranges(held.ranges, held.exclusions, held.organisation_id)
        held.version += 1
        held.save(update_fields=["exclusions", "version"])
        inverse = {"action": "set exclusions", "sweep": held.pk, "exclusions": before}
        record(user, "left addresses out of", held.name, detail={"addresses": addresses[:50]}, undo=inverse)
    return held


@undoer("set exclusions", needs="plan")
def _set_exclusions(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    held = visible(Sweep).get(pk=inverse["sweep"])
    now, held.exclusions = list(held.exclusions), inverse["exclusions"]
    held.version += 1
    held.save(update_fields=["exclusions", "version"])
    return {**inverse, "exclusions": now}
