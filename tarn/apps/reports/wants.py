"""What wants a hand of reports: watches that cannot be asked, letters that did not go out or wait for an answer."""

from tarn.apps.people.scope import visible
from tarn.apps.people.wanting import Want, Wanted, named, several
from tarn.apps.reports.models import Letter, Watch


def _trouble() -> Wanted:
    held = list(visible(Watch).filter(on=True).exclude(trouble="").order_by("name"))
    text = several(len(held), "watch cannot be asked", "watches cannot be asked")
    things = tuple(f"{w.pk} {w.version}" for w in held)
    return Wanted(things, text, "/reports", {"tab": "watches"}, named(w.name for w in held))


def _unsent() -> Wanted:
    held = list(Letter.objects.filter(watch__in=visible(Watch), sent_at=None).exclude(trouble="").order_by("pk"))
    text = several(len(held), "letter could not be sent yet", "letters could not be sent yet")
    return Wanted(tuple(str(x.pk) for x in held), text, "/reports", {"tab": "watches"}, named(x.subject for x in held))


def _waiting() -> Wanted:
    insist = visible(Watch).filter(on=True, insists=True)
    held = list(Letter.objects.filter(watch__in=insist, acknowledged_at=None).order_by("pk").select_related("watch"))
    text = several(len(held), "letter waits for somebody’s word", "letters wait for somebody’s word")
    return Wanted(
        tuple(str(x.pk) for x in held), text, "/reports", {"tab": "watches"}, named(x.watch.name for x in held)
    )


WANTS = (
    Want("watches-trouble", "bad", "keep", "See why", _trouble),
    Want("letters-unsent", "bad", "keep", "See why", _unsent),
    Want("letters-waiting", "warn", "look", "Read them", _waiting, rank=12),
)
