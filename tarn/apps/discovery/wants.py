"""What wants a hand in discovery: what was found, and what does not hear any more."""

from django.db.models import Max

from tarn.apps.discovery.models import Source, Sync
from tarn.apps.discovery.outposts.shown import outposts
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register import intake
from tarn.apps.people.scope import visible
from tarn.apps.people.wanting import Want, Wanted, named, several


def _intake() -> Wanted:
    waiting = ids(question("", None, standing="intake"))
    text = several(len(waiting), "found device waits at intake", "found devices wait at intake")
    return Wanted(tuple(map(str, waiting)), text, "/discovery/intake")


def _undecided() -> Wanted:
    cases = intake.undecided()
    text = several(len(cases), "sighting may be of several devices", "sightings may each be of several devices")
    return Wanted(tuple(c["document"] for c in cases), text, "/discovery/intake")


def _outposts() -> Wanted:
    silent = [o for o in outposts() if o["state"] in ("away", "refused")]
    text = several(len(silent), "outpost is not heard from", "outposts are not heard from")
    things = tuple(f"{o['id']} {o['state']}" for o in silent)
    return Wanted(things, text, "/discovery", {}, named(o["name"] for o in silent))


def _sources() -> Wanted:
    latest = Sync.objects.exclude(state__in=("waiting", "running")).values("source").annotate(last=Max("pk"))
    failed = list(
        visible(Sync)
        .filter(pk__in=latest.values("last"), state="failed", source__in=visible(Source))
        .select_related("source")
        .order_by("source__name")
    )
    text = several(len(failed), "source could not be read last time", "sources could not be read last time")
    to = f"/discovery/sources/{failed[0].source_id}" if len(failed) == 1 else "/discovery"
    return Wanted(tuple(str(s.pk) for s in failed), text, to, {}, named(s.source.name for s in failed))


def _losses() -> Wanted:
    held = list(visible(Sync).filter(loss__isnull=False, state="part").select_related("source").order_by("pk"))
    text = several(len(held), "source has lost much, and waits for a yes", "sources have lost much, and wait for a yes")
    to = f"/discovery/sources/{held[0].source_id}" if held else "/discovery"
    return Wanted(tuple(str(s.pk) for s in held), text, to, {}, named(s.source.name for s in held))


WANTS = (
    Want("outposts", "bad", "look", "See them", _outposts, rank=25),
    Want("sources-failed", "bad", "sweep", "See why", _sources, rank=30),
    Want("source-losses", "warn", "plan", "Look at it", _losses),
    Want("intake", "warn", "decide", "Decide", _intake, rank=20),
    Want("undecided", "warn", "decide", "Say which it is", _undecided),
)
