"""Inquiries kept for their notes."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.dial import iso
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import scope, visible
from tarn.apps.services.inputs import InquiryNoteIn
from tarn.apps.services.inquiry.results import InquiryBrief, InquiryNoteOut
from tarn.apps.services.models import Inquiry, InquiryNote

MOST_WORDS, LONGEST = 20, 4_000


def one(number: int) -> Inquiry:
    """Return an inquiry that is kept. Raises Invalid: it is asked for by a number among others."""
    found: Inquiry | None = visible(Inquiry).filter(pk=number).first() if 0 < number < 2**63 else None
    if found is None:
        raise Invalid("number", f"There is no inquiry {number}.")
    return found


def note(user: Any, data: InquiryNoteIn) -> Inquiry:
    """Write a note, with its time; the first keeps the inquiry. Raises Invalid."""
    require(user, "keep")
    text = data.text.strip()
    if not text:
        raise Invalid("text", "A note needs something written in it.")
    if len(text) > LONGEST:
        raise Invalid("text", f"A note has {LONGEST:,} characters at most; this has {len(text):,}.")
    words = list(dict.fromkeys(w.strip()[:200] for w in data.words if w.strip()))
    if len(words) > MOST_WORDS:
        raise Invalid("words", f"{len(words)} are too many to look into at once: at most {MOST_WORDS}.")
    with transaction.atomic():
        if data.number is not None:
            kept = one(data.number)
            if words and words != kept.words:
                kept.words = words
                kept.save(update_fields=["words"])
        else:
            if not words:
                raise Invalid("words", "Say what is looked into: an address, a name, a person, a ticket, a service.")
            whose = owner(None) if scope() is not None else None
            kept = Inquiry.objects.create(
                words=words, opened_by=user.username, opened_at=int(time.time()), organisation=whose
            )
        InquiryNote.objects.create(inquiry=kept, at=int(time.time()), by=user.username, text=text)
        record(user, "noted in an inquiry", str(kept) or "inquiry", detail={"text": text[:200]})
    return kept


def notes_of(kept: Inquiry) -> list[InquiryNoteOut]:
    """Return the notes of an inquiry, the oldest first."""
    return [{"id": n.pk, "at": iso(n.at), "by": n.by, "text": n.text} for n in kept.notes.all()]


def latest(most: int = 20) -> list[InquiryBrief]:
    """Return the inquiries that are kept, the newest first."""
    return [
        {
            "number": k.pk,
            "words": k.words,
            "opened_at": iso(k.opened_at),
            "opened_by": k.opened_by,
            "notes": k.notes.count(),
        }
        for k in visible(Inquiry).prefetch_related("notes")[:most]
    ]
