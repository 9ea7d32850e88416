"""The company's own word on a match that is none: it stands as a document of its own, before all others, and is dated
like them, so that what was known before it stays told."""

import json
import time
import zlib
from typing import Any

from django.db import transaction

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.feeds.keep import Keeper
from tarn.apps.exposure.feeds.take import feed_by_hand, settle
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.finding.deriving import derive
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.inputs import OwnWordIn
from tarn.apps.exposure.models import Document, StatementRow, Vulnerability
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.exposure.outside import Subject
from tarn.core.exposure.reading import Part
from tarn.core.exposure.told import Document as Read
from tarn.core.exposure.told import Statement, Telling

FORMAT, FEED = "own word", "Own words"


def say_not_affected(user: Any, data: OwnWordIn) -> int:
    """Say that a release, a product, or nothing here at all is affected; return the number of the word.

    Raises Invalid.
    """
    require(user, "decide")
    reason = data.reason.strip()[:500]
    if len(reason) < 3:
        raise Invalid("reason", "Say why it is not affected: whoever meets it next will ask.")
    number = number_of(data.advisory)
    row = things.some([data.thing]).get(data.thing)
    if number is None or row is None:
        raise Invalid("advisory", f"No feed has told of “{data.advisory[:100]}”, or the release is not known.")
    name, now = Vulnerability.objects.get(pk=number).name, int(time.time())
    said = {**data.model_dump(), "reason": reason, "by": user.username, "at": now}
    statements = tuple(_statements(number, row, data))
    telling = Telling((name,), title=reason, text=reason, published=now, statements=statements)
    word = Read(FORMAT, f"{name} {now} {user.username}", user.get_full_name() or user.username, "own", now, (telling,))
    with transaction.atomic():
        feed = feed_by_hand(FEED)
        keeper = Keeper(feed.pk, now)
        keeper.take([Part(FORMAT, json.dumps(said).encode(), word)])
        settle(keeper.kept)
        made = Document.objects.get(feed=feed, format=FORMAT, name=word.name, ends=None)
        what = {"release": f"{row.product} {row.version}", "product": row.product, "advisory": "everything here"}
        record(
            user,
            "said not affected",
            f"{what[data.reach]}: {name}",
            detail={"reason": reason, "justification": data.justification},
            undo={"action": "own word", "document": made.pk},
        )
    return int(made.pk)


def _statements(number: int, row: things.Row, data: OwnWordIn) -> list[Statement]:
    thing = things.names().thing(row)
    versions = (row.version,) if data.reach == "release" and row.version else ()
    keys = [key for key, _ in thing.keys]
    if data.reach == "advisory":
        keys = list(StatementRow.objects.filter(vulnerability=number).values_list("key", flat=True).distinct())
    place, why = f"/{data.reach}", data.justification
    return [Statement(Subject(k, row.product), "not affected", place, versions, justification=why) for k in keys]


def take_back(user: Any, number: int) -> None:
    """Take a word back: from now on the documents of others decide again. Raises Document.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        held = Document.objects.get(pk=number, format=FORMAT, ends=None)
        _end(held)
        record(user, "took back a word", held.name, undo={"action": "own word again", "document": held.pk})


def _end(held: Document) -> None:
    """End a word; one said within this second never stood."""
    Document.objects.filter(pk=held.pk).update(ends=max(int(time.time()), held.begins))
    derive(set(held.tellings.values_list("vulnerability_id", flat=True)))
    changed(raw_connection())


@undoer("own word", "decide")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    held = Document.objects.get(pk=inverse["document"])
    if held.ends is None:
        _end(held)
    return {"action": "own word again", "document": held.pk}


@undoer("own word again", "decide")
def _again(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    """Have a word stand again from now on, as it was said."""
    db = raw_connection()
    (body,) = db.execute(
        "SELECT c.body FROM exposure_document d JOIN exposure_content c ON c.hash = d.hash WHERE d.id = ?",
        [inverse["document"]],
    ).fetchone()
    told = json.loads(zlib.decompress(body))
    data = OwnWordIn.model_validate({k: told[k] for k in OwnWordIn.model_fields})
    return {"action": "own word", "document": say_not_affected(user, data)}
