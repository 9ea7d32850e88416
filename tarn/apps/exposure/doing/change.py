"""What people do about proposed changes: put one first, refuse one, give one to be done."""

import time
from datetime import date
from typing import Any

from django.db import transaction

from tarn.apps.discovery.sources.tickets import give_ticket
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.doing.change_page import change_page
from tarn.apps.exposure.doing.results import ChangePage
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.inputs import ChangeWordIn, WorkIn
from tarn.apps.exposure.models import ChangeWord, GivenWork
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.core.filters.parse import FilterError

LISTED = 60
"""Devices a ticket names one by one."""


def say_of_change(user: Any, data: ChangeWordIn) -> ChangeWord:
    """Put a change first, or refuse it, for everybody; the later word counts. Raises Invalid."""
    require(user, "plan")
    key, reason, now = data.key.strip()[:400], data.reason.strip()[:1000], int(time.time())
    if ":" not in key:
        raise Invalid("key", f"“{data.key[:80]}” is no change.")
    if data.word == "refuse" and len(reason) < 3:
        raise Invalid("reason", "Say why it is not to be made: whoever answers for it will ask.")
    with transaction.atomic():
        ChangeWord.objects.filter(key=key, ended_at=None).update(ended_at=now)
        made = ChangeWord.objects.create(key=key, word=data.word, reason=reason, made_by=user.username, made_at=now)
        changed(raw_connection())
        record(user, "put first" if data.word == "pin" else "refused", _called(key), detail={"reason": reason})
    return made


def take_word_back(user: Any, number: int) -> None:
    """Take back what was said of a change. Raises ChangeWord.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = ChangeWord.objects.get(pk=number, ended_at=None)
        held.ended_at = int(time.time())
        held.save(update_fields=["ended_at"])
        changed(raw_connection())
        record(user, "took back what was said of a change", _called(held.key), detail={"word": held.word})


def _called(key: str) -> str:
    return key.partition(":")[2][:120]


def give(user: Any, data: WorkIn) -> GivenWork:
    """Give a change to a person by a day, or to a service desk as a ticket. Raises Invalid."""
    require(user, "decide")
    try:
        page = change_page(question(data.filter), data.key)
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    if page is None:
        raise Invalid("key", "This change ends nothing here by now.")
    assets = ids(question(page["filter"]))
    if data.expected is not None and len(assets) != data.expected:
        raise Invalid("filter", f"It was shown for {data.expected} devices and is for {len(assets)} by now.")
    person, day = " ".join(data.person.split())[:200], _day(data.day)
    if data.how == "person" and not person:
        raise Invalid("person", "Say to whom it is given.")
    if data.how == "person" and day is None:
        raise Invalid("day", "Say by which day.")
    what = sentence(page)
    numbers = sorted(numbers_of(assets).values())
    reference = ""
    if data.how == "ticket":
        if data.source is None:
            raise Invalid("source", "Choose a service desk that takes tickets in.")
        reference = give_ticket(user, data.source, what, _text(page, data.words, numbers))
    with transaction.atomic():
        made = GivenWork.objects.create(
            key=data.key,
            what=what,
            filter=page["filter"],
            how=data.how,
            person=person,
            day=day,
            reference=reference,
            words=data.words.strip()[:2000],
            assets=numbers,
            open_then=len(assets),
            made_by=user.username,
            made_at=int(time.time()),
        )
        record(user, "gave", what, detail={"to": person or reference, "devices": len(assets), "day": data.day})
    return made


def take_work_back(user: Any, number: int) -> None:
    """Take work back that was given. Raises GivenWork.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        held = GivenWork.objects.get(pk=number, ended_at=None)
        held.ended_at = int(time.time())
        held.save(update_fields=["ended_at"])
        record(user, "took back", held.what, detail={"from": held.person or held.reference})


def _day(text: str) -> date | None:
    if not text.strip():
        return None
    try:
        day = date.fromisoformat(text.strip())
    except ValueError:
        raise Invalid("day", "Say by which day, such as 2027-03-31.") from None
    if day < date.today():
        raise Invalid("day", "That day is past.")
    return day


def sentence(page: ChangePage) -> str:
    """Return a change in words: “Update Quill Office to 16.1.4 or later on 53 devices”."""
    row = page["change"]
    to = f" to {row['target']} or later" if row["target"] else ""
    verb = row["verb"].capitalize() if row["verb"] != "take measures" else "Take the maker's measures against"
    devices = f"{row['devices']} device{'s' * (row['devices'] != 1)}"
    return f"{verb} {row['product']}{to} on {devices}"


def _text(page: ChangePage, words: str, numbers: list[str]) -> str:
    row = page["change"]
    ends = f"It ends {row['advisories']} advisories: {', '.join(row['names'])}" if row["advisories"] else row["todo"]
    by = f"Promised by {row['due'][:10]}." if row["due"] else ""
    more = f" and {len(numbers) - LISTED} more" if len(numbers) > LISTED else ""
    parts = [words.strip(), ends, *page["measures"], by, f"Devices: {', '.join(numbers[:LISTED])}{more}."]
    return "\n\n".join(p for p in parts if p)
