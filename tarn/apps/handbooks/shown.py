"""Telling handbooks and their issues."""

from django.db.models import Prefetch

from tarn.apps.estate.asking.dial import iso
from tarn.apps.handbooks.models import Handbook, Issue
from tarn.apps.handbooks.results import HandbookOut, HandbooksOut, IssueLine, IssueOut, LiveKindOut
from tarn.apps.people.scope import visible
from tarn.core.handbooks.document import VARIABLES
from tarn.core.handbooks.live import LIVE
from tarn.core.handbooks.shipped import HANDBOOKS
from tarn.core.schedule import in_words


def handbooks() -> HandbooksOut:
    """Return the handbooks one may see, and those that ship."""
    issues = Prefetch("issues", Issue.objects.only("handbook", "number", "at", "state"))
    held = visible(Handbook).select_related("organisation").prefetch_related(issues)
    lines = []
    for one in held:
        done = [i for i in one.issues.all() if i.state == "issued"]
        lines.append(
            {
                "id": one.pk,
                "name": one.name,
                "text": one.text,
                "made_by": one.made_by,
                "organisation": one.organisation.name if one.organisation else None,
                "issued": len(done),
                "last": iso(done[0].at) if done else None,
                "waits": any(i.state == "asked" for i in one.issues.all()),
                "rule": in_words(one.rule) if one.rule else "",
                "trouble": one.trouble,
            }
        )
    return {
        "handbooks": lines,  # type: ignore[typeddict-item]
        "shipped": [{"key": h.key, "name": h.name, "text": h.text} for h in HANDBOOKS.values()],
    }


def handbook(number: int) -> HandbookOut:
    """Return a handbook as it is being written. Raises Handbook.DoesNotExist."""
    held: Handbook = visible(Handbook).get(pk=number)
    # What issues hold may be large, and is not told here; a handbook is kept, and told, every second one writes.
    issues = held.issues.defer("document", "filled", "variables").prefetch_related("deliveries")
    return {
        "id": held.pk,
        "name": held.name,
        "text": held.text,
        "document": held.document,
        "place": held.place,
        "rule": held.rule,
        "rule_words": in_words(held.rule) if held.rule else "",
        "to": held.to,
        "formats": held.formats,
        "secret": "",
        "approved": held.approved,
        "next_at": iso(held.next_at) if held.next_at else None,
        "trouble": held.trouble,
        "version": held.version,
        "issues": [_line(one) for one in issues],
        "kinds": _kinds(),
        "variables": VARIABLES,
    }


def _kinds() -> list[LiveKindOut]:
    return [
        {
            "kind": key,
            "label": one.label,
            "what": one.what,
            "settings": [{"name": s.name, "label": s.label, "kind": s.kind, "needed": s.needed} for s in one.settings],
        }
        for key, one in LIVE.items()
    ]


def _line(one: Issue) -> IssueLine:
    unsent = [d for d in one.deliveries.all() if d.sent_at is None]
    return {
        "id": one.pk,
        "number": one.number,
        "at": iso(one.at),
        "state": one.state,
        "asked_by": one.asked_by,
        "decided_by": one.decided_by,
        "decided_at": iso(one.decided_at) if one.decided_at else None,
        "why": one.why,
        "changed": len(one.changed),
        "unsent": len(unsent),
        "trouble": next((f"{d.to}: {d.trouble}" for d in unsent if d.trouble), ""),
    }


def issue_held(number: int) -> Issue:
    """Return an issue of a handbook one may see. Raises Issue.DoesNotExist."""
    held: Issue = Issue.objects.select_related("handbook").get(pk=number, handbook__in=visible(Handbook))
    return held


def issue_shown(number: int) -> IssueOut:
    """Return an issue with all that was filled in. Raises Issue.DoesNotExist."""
    held = issue_held(number)
    return {
        **_line(held),
        "title": held.title,
        "document": held.document,
        "filled": held.filled,
        "variables": held.variables,
        "changes": held.changed,
    }
