"""Sending what watches wrote: by SMTP (RFC 5321), or as a signed call. What fails is tried again, later, and shown."""

import logging
import smtplib
from collections import defaultdict

import httpx
from django.core.mail import EmailMultiAlternatives
from django.db import transaction

from tarn.apps.people.sealing import SealBroken, unseal
from tarn.apps.people.speaking import language_at
from tarn.apps.reports.calling import NotCalled, call, is_call
from tarn.apps.reports.models import Letter
from tarn.core.speech import letter_in, page_in, said_in
from tarn.core.watching import next_try

log = logging.getLogger("tarn.reports")
_GIVEN_UP = 2**40


class _NotSent(Exception):
    """A letter could not be sent; the message says why."""


def send_due(now: int) -> int:
    """Send every letter that is due; return how many went. Those that are gathered go in one message a recipient."""
    due = Letter.objects.select_related("watch").filter(sent_at=None, due_at__lte=now).order_by("pk")[:200]
    together: dict[tuple[object, ...], list[Letter]] = defaultdict(list)
    for letter in due:
        together[tuple(letter.to) if letter.gathered else (letter.pk,)].append(letter)
    return sum(len(some) * _send(some, now) for some in together.values())


def _send(letters: list[Letter], now: int) -> bool:
    try:
        if is_call(letters[0].to[0]):
            _call(letters[0])
        else:
            _mail(letters)
    except Exception as error:  # whatever one letter meets, the others go, and its watch shows what it met
        if not isinstance(error, (_NotSent, NotCalled, OSError, smtplib.SMTPException, httpx.HTTPError, SealBroken)):
            log.exception("letter %d could not be sent", letters[0].pk)
        said = str(error) if isinstance(error, (_NotSent, NotCalled)) else f"{type(error).__name__}: {error}"
        for letter in letters:
            letter.tries += 1
            letter.trouble = said[:500]
            letter.due_at = next_try(letter.tries, now) or _GIVEN_UP
            log.warning("letter %d (“%s”) was not sent: %s", letter.pk, letter.subject, letter.trouble)
    else:
        for letter in letters:
            letter.sent_at, letter.trouble = now, ""
    with transaction.atomic():
        for letter in letters:
            letter.save(update_fields=["tries", "trouble", "due_at", "sent_at"])
    return letters[0].sent_at is not None


def _mail(letters: list[Letter]) -> None:
    first = letters[0]
    subject, text, html = first.subject, first.text, first.html
    if len(letters) > 1:
        subject = f"{len(letters)} watches: {', '.join(dict.fromkeys(x.watch.name for x in letters))}"[:200]
        text = "\n\n".join(f"== {x.subject} ==\n\n{x.text}" for x in letters)
        html = "<hr>".join(x.html for x in letters)
    languages = {language_at(to) for to in first.to}
    language = languages.pop() if len(languages) == 1 else "en"
    message = EmailMultiAlternatives(said_in(subject, language), letter_in(text, language), to=first.to)
    message.attach_alternative(page_in(html, language), "text/html")
    for letter in letters:
        if letter.attachment is not None:
            message.attach(letter.attached_as, bytes(letter.attachment))
    message.send()


def _call(letter: Letter) -> None:
    """Call another system with a letter. Raises _NotSent, NotCalled."""
    if letter.watch.sealed is None:
        raise _NotSent("The watch has no secret to sign with; save it again.")
    secret = unseal(bytes(letter.watch.sealed), f"the watch {letter.watch.name}")["secret"]
    call(letter.to[0], secret, f"letter_{letter.pk}", letter.text.encode())


def send_again(letter: Letter, now: int) -> bool:
    """Try a letter again at once, given up or not."""
    letter.due_at = now
    return _send([letter], now)
