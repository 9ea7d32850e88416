"""Reporters: enrolment tokens, the scripts with them, and taking in what reporters send."""

import secrets
import time
import uuid
from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from tarn.apps.discovery.models import Enrolment, Reporter
from tarn.apps.discovery.reporters.results import ReportedOut
from tarn.apps.estate.door.entrance import take_in_batch
from tarn.apps.estate.register.dossier import document
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.tokens import digest
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import visible
from tarn.collect.reporter.reports import VERSION, Report, posix, powershell, readings
from tarn.collect.sources.finding import whose
from tarn.core.sections import FACTS, Identity
from tarn.core.sightings import compose, make_id, make_reading, read_sighting

SOURCE = ("reporter", "Reporters")


def enrol(user: Any, name: str, url: str, organisation: int | None = None) -> tuple[Enrolment, dict[str, str]]:
    """Make an enrolment; returns it and the scripts with its token, which is shown here and never again."""
    require(user, "credentials")
    if not name.strip():
        raise Invalid("name", "An enrolment needs a name, so that it can be told from others and withdrawn.")
    token = "rep_" + secrets.token_urlsafe(32)
    with transaction.atomic():
        made = Enrolment.objects.create(
            name=name.strip()[:80],
            digest=digest(token),
            made_by=user,
            made_at=int(time.time()),
            organisation=owner(organisation),
        )
        record(user, "made a reporter enrolment", made.name)
    return made, {"posix": posix(url, token), "powershell": powershell(url, token)}


def withdraw_enrolment(user: Any, number: int) -> None:
    """Withdraw an enrolment: its reporters are refused from now on. Raises Enrolment.DoesNotExist."""
    require(user, "credentials")
    with transaction.atomic():
        held = visible(Enrolment).get(pk=number, withdrawn_at=None)
        held.withdrawn_at = int(time.time())
        held.save(update_fields=["withdrawn_at"])
        record(user, "withdrew a reporter enrolment", held.name)


def take_report(token: str, report: Report) -> ReportedOut:
    """Take a report in. Returns the asset, the reporter's number, and whether everything must be sent again.

    Raises NotAllowed for a token that is unknown or withdrawn, Invalid for a report of a version not known here.
    """
    enrolment = Enrolment.objects.filter(digest=digest(token)).first()
    if enrolment is None or enrolment.withdrawn_at is not None:
        raise NotAllowed("This reporter's token is not known here, or was withdrawn. Download the reporter anew.")
    if report.version > VERSION:
        raise Invalid(
            "version", f"This Tarn reads reports up to version {VERSION}; the reporter sends {report.version}."
        )
    now = int(time.time())
    with transaction.atomic():
        reporter = Reporter.objects.filter(number=report.host, enrolment=enrolment).first() if report.host else None
        before = document(reporter.document) if reporter else None
        if report.unchanged and before is None:
            return {"asset": "", "host": "", "again": True, "unread": []}
        made, unread = readings(report)
        if before is not None and report.unchanged:
            made = _unchanged(before, made) + made
        made = [r for r in made if r.section != "placement"]
        number = reporter.number if reporter else uuid.uuid4().hex
        issued = Identity(instance=make_id("reporter", number))
        made = [r for r in made if not (r.section == "identity" and r.facts.instance)]
        made.append(make_reading("identity", issued, "reporter", complete=False))
        made += whose(enrolment.organisation.name if enrolment.organisation else "", "reporter")
        skew = float(report.at - now)
        sighting = compose(SOURCE, datetime.fromtimestamp(now, UTC), made, id=uuid.uuid4().hex, clock_skew=skew)
        taken = take_in_batch([sighting])[0]
        values = {
            "enrolment": enrolment,
            "document": sighting.id,
            "asset_id": taken.asset,
            "version": report.version,
            "last_seen": now,
            "skew": skew,
        }
        Reporter.objects.update_or_create(number=number, defaults=values)
    asset = numbers_of([taken.asset])[taken.asset] if taken.asset else "nothing yet: it waits for a decision"
    return {"asset": asset, "host": number, "again": False, "unread": unread}


def _unchanged(before: dict[str, Any], made: list[Any]) -> list[Any]:
    """Return the readings of the last report whose sections this one does not bring; of facts, those said elsewhere."""
    brought = {(r.section, r.collector) for r in made}
    lists = {r.section for r in made if r.section not in FACTS}
    kept = read_sighting(before).readings
    return [r for r in kept if (r.section, r.collector) not in brought and r.section not in lists]
