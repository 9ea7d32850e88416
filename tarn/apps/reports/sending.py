"""Sending letters by SMTP (RFC 5321). What fails is tried again, later each time, and shown."""

import logging
import smtplib

from django.core.mail import EmailMultiAlternatives
from django.db import transaction

from tarn.apps.reports.models import Letter
from tarn.core.watching import next_try

log = logging.getLogger("tarn.reports")
_GIVEN_UP = 2**40


def send_due(now: int) -> int:
    """Send every letter that is due; return how many went."""
    due = Letter.objects.filter(sent_at=None, due_at__lte=now).order_by("pk")[:200]
    return sum(_send(letter, now) for letter in due)


def _send(letter: Letter, now: int) -> bool:
    message = EmailMultiAlternatives(letter.subject, letter.text, to=letter.to)
    message.attach_alternative(letter.html, "text/html")
    if letter.attachment is not None:
        message.attach(letter.attached_as, bytes(letter.attachment))
    try:
        message.send()
    except (OSError, smtplib.SMTPException) as error:
        letter.tries += 1
        letter.trouble = f"{type(error).__name__}: {error}"[:500]
        letter.due_at = next_try(letter.tries, now) or _GIVEN_UP
        log.warning("letter %d (“%s”) was not sent: %s", letter.pk, letter.subject, letter.trouble)
    else:
        letter.sent_at, letter.trouble = now, ""
    with transaction.atomic():
        letter.save(update_fields=["tries", "trouble", "due_at", "sent_at"])
    return letter.sent_at is not None


def send_again(letter: Letter, now: int) -> bool:
    """Try a letter again at once, given up or not."""
    letter.due_at = now
    return _send(letter, now)
