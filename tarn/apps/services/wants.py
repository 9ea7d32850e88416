"""What wants a hand of services: those short of what they need, talk gone quiet, certificates, supplies on battery."""

from tarn.apps.estate.wants import by_filter
from tarn.apps.people.wanting import Want, Wanted, named, several
from tarn.apps.services.kept.health import standing
from tarn.apps.services.standing.plates import plates


def _short() -> Wanted:
    stood = standing(None)
    short = {n: s for n, s in stood.services.items() if stood.is_short(n)}
    text = several(len(short), "service has less than it needs", "services have less than they need")
    to = f"/services/{next(iter(short))}" if len(short) == 1 else "/services"
    return Wanted(tuple(map(str, short)), text, to, {}, named(s.name for s in short.values()))


def _quiet() -> Wanted:
    stood = standing(None)
    quiet = [e for e in stood.quiet if e.kind == "talks to"]
    callers = {e.stands for e in quiet}
    known = plates({*callers, *(e.on for e in quiet)}, None)
    first = f"{known[quiet[0].stands]['name']} to {known[quiet[0].on]['name']}" if quiet else ""
    text = several(len(quiet), "connection has gone quiet", "connections have gone quiet")
    asked = ", ".join(known[a]["number"] for a in sorted(callers)[:6])
    things = tuple(f"{e.stands} {e.on} {e.over} {e.heard}" for e in quiet)
    return Wanted(things, text, "/services", {"tab": "inquiry", "q": asked}, first)


def _over() -> Wanted:
    return by_filter(
        "certificates[ends < now]",
        "device presents a certificate that is over",
        "devices present a certificate that is over",
    )


def _soon() -> Wanted:
    return by_filter(
        "certificates[ends >= now and ends < now + 14d]",
        "device presents a certificate that ends within two weeks",
        "devices present a certificate that ends within two weeks",
    )


def _battery() -> Wanted:
    return by_filter("feeding_from = battery", "supply runs on its battery", "supplies run on their batteries")


WANTS = (
    Want("on-battery", "bad", "look", "See which", _battery, rank=8),
    Want("services-short", "bad", "look", "See which", _short, rank=5),
    Want("certificates-over", "bad", "look", "See which", _over, rank=12),
    Want("quiet", "warn", "look", "Look into it", _quiet, rank=15),
    Want("certificates-soon", "warn", "look", "See which", _soon),
)
