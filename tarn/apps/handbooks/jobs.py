"""What the clock asks of handbooks: to issue those that are due, and to send what was issued."""

import base64
import json
import logging
import time

from django.core.mail import EmailMessage
from django.db import transaction
from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.estate.asking.dial import zone
from tarn.apps.handbooks.issuing import issue
from tarn.apps.handbooks.models import Delivery, Handbook
from tarn.apps.handbooks.writing.formats import file_of
from tarn.apps.people.sealing import unseal
from tarn.apps.people.speaking import language_at
from tarn.apps.reports.calling import NotCalled, call, is_call
from tarn.core.schedule import next_after
from tarn.core.speech import letter_in, said_in
from tarn.core.watching import next_try

log = logging.getLogger("tarn.handbooks")
_GIVEN_UP = 2**40


@db_periodic_task(crontab(minute="*"))
def issue_each_minute() -> None:
    """Issue the handbooks that are due."""
    issue_due(int(time.time()))


@db_periodic_task(crontab(minute="*"))
def deliver_each_minute() -> None:
    """Send issues by mail."""
    deliver_due(int(time.time()))


def issue_due(now: int) -> int:
    """Issue every handbook that is due; return how many were. One that cannot be says so, and holds none up."""
    done = 0
    for held in Handbook.objects.filter(next_at__lte=now):
        try:
            issue(None, held.pk)
            held.trouble = ""
            done += 1
        except Exception as fault:
            log.exception("handbook %d could not be issued", held.pk)
            held.trouble = f"It could not be issued: {fault}"[:500]
        with transaction.atomic():
            held.next_at = next_after(held.rule, now, str(zone())) if held.rule else None
            held.save(update_fields=["next_at", "trouble"])
    return done


def deliver_due(now: int) -> int:
    """Send every issue that is due to be sent; return how many went. What failed is tried again."""
    sent = 0
    files: _Files = {}
    for one in Delivery.objects.select_related("issue__handbook").filter(sent_at=None, due_at__lte=now)[:50]:
        issued = one.issue
        try:
            if is_call(one.to):
                _call(one)
            else:
                _mail(one, files)
            one.sent_at, one.trouble = now, ""
            sent += 1
        except Exception as fault:
            log.warning("issue %d was not sent to %s: %s", issued.pk, one.to, fault)
            one.tries += 1
            one.trouble = (str(fault) if isinstance(fault, NotCalled) else f"{type(fault).__name__}: {fault}")[:500]
            one.due_at = next_try(one.tries, now) or _GIVEN_UP
        with transaction.atomic():
            one.save(update_fields=["tries", "trouble", "due_at", "sent_at"])
    return sent


_Files = dict[tuple[int, str, str], tuple[str, bytes, str]]


def _mail(one: Delivery, files: _Files) -> None:
    issued = one.issue
    language = language_at(one.to)
    number = said_in(f"no. {issued.number}", language)
    day = said_in(f"of {issued.variables['date']}", language)
    text = f"{issued.title}, {number} {day}.\n"
    if issued.changed:
        text += letter_in(f"{len(issued.changed)} differences from the issue before.\n", language)
    message = EmailMessage(f"{issued.title}, {number}", text, to=[one.to])
    for form in issued.handbook.formats:
        kept = issued.pk, form, language
        if kept not in files:  # written once, to however many it goes
            files[kept] = file_of(issued, form, language)
        name, content, media = files[kept]
        message.attach(name, content, media.partition(";")[0])
    message.send()


def _call(one: Delivery) -> None:
    """Call another system with an issue: what it is, and its files in base64 (RFC 4648)."""
    issued, handbook = one.issue, one.issue.handbook
    if handbook.sealed is None:
        raise NotCalled("The handbook has no secret to sign with; keep it again.")
    secret = unseal(bytes(handbook.sealed), f"the handbook {handbook.name}")["secret"]
    told = {
        "handbook": issued.title,
        "number": issued.number,
        "date": issued.variables["date"],
        "differences": len(issued.changed),
        "files": [
            {"name": name, "media": media, "content": base64.b64encode(content).decode()}
            for name, content, media in (file_of(issued, form) for form in handbook.formats)
        ],
    }
    call(one.to, secret, f"issue_{one.pk}", json.dumps(told).encode())
