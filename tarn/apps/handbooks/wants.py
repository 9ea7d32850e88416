"""What wants a hand of handbooks: issues that wait for a second person, and what could not be issued or sent."""

from tarn.apps.handbooks.models import Delivery, Handbook, Issue
from tarn.apps.people.scope import visible
from tarn.apps.people.wanting import Want, Wanted, named, several


def _waiting() -> Wanted:
    waits = list(Issue.objects.filter(state="asked", handbook__in=visible(Handbook)).order_by("pk"))
    text = several(len(waits), "issue of a handbook waits for approval", "issues of handbooks wait for approval")
    to = f"/handbooks/{waits[0].handbook_id}" if len(waits) == 1 else "/reports"
    search = {} if len(waits) == 1 else {"tab": "handbooks"}
    return Wanted(tuple(str(w.pk) for w in waits), text, to, search, named(str(w) for w in waits))


def _failed() -> Wanted:
    seen = visible(Handbook)
    failed = [h.name for h in seen.exclude(trouble="")]
    unsent = Delivery.objects.filter(sent_at=None, tries__gt=2, issue__handbook__in=seen).select_related("issue")
    things = (*failed, *(f"{d.issue} {d.to}" for d in unsent))
    text = several(len(things), "handbook was not issued or not sent", "handbooks were not issued or not sent")
    return Wanted(things, text, "/reports", {"tab": "handbooks"}, named(things))


WANTS = (
    Want("handbooks-waiting", "note", "plan", "Look at it", _waiting),
    Want("handbooks-failed", "warn", "keep", "See which", _failed),
)
