"""Issuing handbooks: all blocks filled as of one moment, frozen, numbered, and held against the issue before."""

import time
from typing import Any

from django.db import transaction
from django.db.models import Max

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.handbooks.filling import Asked, fill
from tarn.apps.handbooks.models import Delivery, Handbook, Issue
from tarn.apps.labels.printing import words
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import asking_for, visible
from tarn.core.handbooks.differing import differences
from tarn.core.handbooks.document import HandbookError, check, walk
from tarn.core.handbooks.live import Filled

DEEPEST_PARTS = 4


def with_parts(document: dict[str, Any], seen: tuple[int, ...] = ()) -> dict[str, Any]:
    """Return a document with the parts of other handbooks put in. Raises Invalid where they go round in a circle."""
    content: list[dict[str, Any]] = []
    for node in document.get("content", ()):
        if node["type"] != "part":
            content.append(node)
            continue
        number = node["attrs"]["handbook"]
        held = visible(Handbook).filter(pk=number).first()
        if held is None:
            content.append(_said(f"The handbook {number} that belongs here is not there any more."))
        elif number in seen or len(seen) >= DEEPEST_PARTS:
            raise Invalid("document", f"“{held.name}” is put into itself, by way of its parts.")
        else:
            inner = with_parts(held.document, (*seen, number))
            for one in inner.get("content", ()):
                content.append(_own_key(one, f"p{number}."))
    return {**document, "content": content}


def _own_key(node: dict[str, Any], before: str) -> dict[str, Any]:
    """Return a node of a part whose key is none of the whole's."""
    if node["type"] != "live":
        return node
    return {**node, "attrs": {**node["attrs"], "key": before + node["attrs"]["key"]}}


def _said(text: str) -> dict[str, Any]:
    return {"type": "paragraph", "content": [{"type": "text", "text": text, "marks": [{"type": "italic"}]}]}


def filled_as_of(handbook: Handbook, document: dict[str, Any], at: int, since: int | None) -> dict[str, Filled]:
    """Return by key the blocks of a document, filled as of a moment, within the handbook's organisation."""
    out: dict[str, Filled] = {}
    with asking_for(handbook.organisation):
        for _, node in walk(document):
            if node["type"] == "live":
                attrs = node["attrs"]
                asked = Asked(attrs.get("settings", {}), at, handbook.place, since)
                out[attrs["key"]] = fill(attrs["kind"], asked)
    return out


def issue(user: Any, number: int, at: int | None = None) -> Issue:
    """Issue a handbook as of a moment, or now; where it wants a second person it waits for that one. Raises Invalid,
    NotAllowed, Handbook.DoesNotExist."""
    if user is not None:
        require(user, "keep")
    handbook = visible(Handbook).select_related("organisation").get(pk=number)
    who = user.username if user is not None else handbook.made_by
    now = int(time.time())
    moment = now if at is None else at
    before = handbook.issues.filter(state="issued").first()
    try:
        document = check(with_parts(handbook.document, (handbook.pk,)))
    except HandbookError as fault:
        raise Invalid("document", str(fault)) from None
    filled = filled_as_of(handbook, document, moment, before.at if before else None)
    changed = differences(before.document, document, before.filled, filled) if before else []
    with transaction.atomic():
        running = (handbook.issues.aggregate(last=Max("number"))["last"] or 0) + 1
        made = Issue.objects.create(
            handbook=handbook,
            number=running,
            at=moment,
            title=handbook.name,
            document=document,
            filled=filled,
            variables={
                "company": words().company or "the company",
                "place": handbook.place or "all places",
                "date": f"{day_of(moment):%-d %B %Y}",
                "number": str(running),
                "asked": who,
                "approved": "" if handbook.approved else who,
            },
            changed=changed,
            state="asked" if handbook.approved else "issued",
            asked_by=who,
            asked_at=now,
        )
        if made.state == "issued":
            _send(made, now)
        record(user, "issued a handbook" if made.state == "issued" else "asked for approval of", f"{made}")
    return made


def decide(user: Any, number: int, approve: bool, why: str) -> Issue:
    """Approve or refuse an issue that waits. Raises Invalid, NotAllowed, Issue.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held: Issue = Issue.objects.select_for_update().get(pk=number, handbook__in=visible(Handbook))
        if held.state != "asked":
            raise Invalid("approve", f"No. {held.number} is {held.state} already.")
        if held.asked_by == user.username:
            raise Invalid("approve", "Whoever asked for an issue does not approve it: that takes a second person.")
        held.state = "issued" if approve else "refused"
        held.decided_by, held.decided_at, held.why = user.username, int(time.time()), why.strip()
        held.variables = {**held.variables, "approved": user.username if approve else ""}
        held.save()
        if approve:
            _send(held, held.decided_at)
        record(user, "approved an issue of" if approve else "refused an issue of", str(held), detail={"why": held.why})
    return held


def _send(held: Issue, now: int) -> None:
    Delivery.objects.bulk_create([Delivery(issue=held, to=to, due_at=now) for to in held.handbook.to])
