"""The API's root: who may call, and errors as problem details (RFC 9457)."""

import logging
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.db import OperationalError
from django.http import HttpRequest, JsonResponse
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.security import HttpBearer, SessionAuth

from tarn.apps.counts.api import router as counts
from tarn.apps.discovery.credentials.api import router as credentials
from tarn.apps.discovery.crosscheck.api import router as crosscheck
from tarn.apps.discovery.hooks.api import router as hooks
from tarn.apps.discovery.imports.api import router as imports
from tarn.apps.discovery.intake.api import router as intake
from tarn.apps.discovery.intake.api_rules import router as rules
from tarn.apps.discovery.networks.api import router as networks
from tarn.apps.discovery.outposts.api import router as outposts
from tarn.apps.discovery.outposts.change import OldOutpost
from tarn.apps.discovery.reporters.api import router as reporters
from tarn.apps.discovery.sources.api import router as sources
from tarn.apps.discovery.sweeps.api import router as discovery
from tarn.apps.estate.asking.branches import NoBranch
from tarn.apps.estate.asking.dial import DialError
from tarn.apps.estate.branches.api import router as branches
from tarn.apps.estate.custom.api import router as own
from tarn.apps.estate.door.entrance import ClockSetBack
from tarn.apps.estate.papers.api import router as papers
from tarn.apps.estate.people.api import router as persons
from tarn.apps.estate.register.api import router as estate
from tarn.apps.estate.register.api_entering import router as entering
from tarn.apps.estate.register.api_picking import router as picking
from tarn.apps.estate.register.decide import NothingDecided
from tarn.apps.estate.register.pages import FieldError
from tarn.apps.estate.selections.api import router as sets
from tarn.apps.estate.selections.api_questions import router as questions
from tarn.apps.estate.selections.api_views import router as views
from tarn.apps.estate.selections.keep import NameTaken
from tarn.apps.estate.software.api import router as naming
from tarn.apps.exposure.api import router as exposure
from tarn.apps.exposure.api_outside_names import router as outside_names
from tarn.apps.exposure.doing.api import router as changes
from tarn.apps.exposure.feeds.api import router as feeds
from tarn.apps.exposure.grading.api import router as grading
from tarn.apps.exposure.grading.api_acceptances import router as acceptances
from tarn.apps.exposure.own.api import router as own_rules
from tarn.apps.filling.api import router as filling
from tarn.apps.handbooks.api import router as handbooks
from tarn.apps.labels.api import router as labels
from tarn.apps.licences.api import router as licences
from tarn.apps.lifecycle.api import router as lifecycle
from tarn.apps.lifecycle.api_steps import router as steps
from tarn.apps.money.api import router as money
from tarn.apps.people.actions.organisations import Unowned
from tarn.apps.people.actions.refusals import Invalid, Stale
from tarn.apps.people.actions.tokens import bearer
from tarn.apps.people.actions.undo import CannotUndo
from tarn.apps.people.api import router as people
from tarn.apps.people.api_accounts import router as accounts
from tarn.apps.people.roles import NotAllowed
from tarn.apps.people.room import NoRoomError
from tarn.apps.people.sealing import SealBroken
from tarn.apps.people.speaking import as_read
from tarn.apps.people.throttle import address_of
from tarn.apps.reports.api import router as reports
from tarn.apps.reports.api_files import router as files
from tarn.apps.reports.api_sql import router as sql
from tarn.apps.services.api import router as services
from tarn.apps.services.api_inquiry import router as inquiry
from tarn.apps.services.api_pictures import router as pictures
from tarn.apps.services.api_programs import router as programs
from tarn.apps.software.api import router as software
from tarn.apps.software.api_administrators_and_protection import router as protection
from tarn.apps.tasks.api import router as tasks
from tarn.apps.today.api import router as today
from tarn.apps.today.api_boards import router as boards
from tarn.apps.valuation.api import router as valuation
from tarn.core.filters.parse import FilterError
from tarn.core.finance.money import MoneyError
from tarn.core.licensing.ways import EntangledError
from tarn.core.reports import ReportError
from tarn.core.sightings import SightingError
from tarn.site.documented import Documented
from tarn.site.doors import admit
from tarn.site.how import router as upkeep

log = logging.getLogger("tarn.doors")


class TokenAuth(HttpBearer):
    """A script's token in the Authorization header (RFC 6750)."""

    def authenticate(self, request: HttpRequest, token: str) -> Any | None:
        """Return the person the token speaks for."""
        api_token = bearer(token)
        if api_token is None:
            return None
        request.user = api_token.user
        admit(request, api_token.user, token=api_token.scope)
        return api_token.user


class SignedIn(SessionAuth):
    """The session of a person who has signed in; changes carry the CSRF token."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Any | None:
        """Return the person who is signed in."""
        found = super().authenticate(request, key)
        if found is not None:
            admit(request, found)
        return found


def _signed_in(view: Callable[..., Any]) -> Callable[..., Any]:
    """Show the API's own description to those who may call it: it names every door (ASVS 5.0, 13.4.5)."""

    @wraps(view)
    def shown(request: HttpRequest, *given: Any, **named: Any) -> Any:
        token = request.headers.get("Authorization", "").removeprefix("Bearer ")
        if not request.user.is_authenticated and (not token or bearer(token) is None):
            return _problem(401, "Not signed in", "Sign in, or send a token, to see the description of the API.")
        return view(request, *given, **named)

    return shown


api = Documented(
    title="Tarn",
    version="1",
    description="Everything the application does, it does through this API.",
    auth=[TokenAuth(), SignedIn(csrf=True)],
    docs_url=None,
    docs_decorator=_signed_in,
    urls_namespace="api",
)
api.add_router("", people)
api.add_router("", accounts)
api.add_router("", estate)
api.add_router("", picking)
api.add_router("", questions)
api.add_router("", own)
api.add_router("", entering)
api.add_router("", branches)
api.add_router("", persons)
api.add_router("", papers)
api.add_router("", networks)
api.add_router("", discovery)
api.add_router("", intake)
api.add_router("", credentials)
api.add_router("", sources)
api.add_router("", crosscheck)
api.add_router("", imports)
api.add_router("", reporters)
api.add_router("", outposts)
api.add_router("", hooks)
api.add_router("", rules)
api.add_router("", software)
api.add_router("", protection)
api.add_router("", naming)
api.add_router("", sets)
api.add_router("", views)
api.add_router("", reports)
api.add_router("", files)
api.add_router("", sql)
api.add_router("", tasks)
api.add_router("", filling)
api.add_router("", exposure)
api.add_router("", acceptances)
api.add_router("", changes)
api.add_router("", grading)
api.add_router("", own_rules)
api.add_router("", outside_names)
api.add_router("", feeds)
api.add_router("", services)
api.add_router("", programs)
api.add_router("", inquiry)
api.add_router("", pictures)
api.add_router("", today)
api.add_router("", labels)
api.add_router("", counts)
api.add_router("", handbooks)
api.add_router("", boards)
api.add_router("", licences)
api.add_router("", lifecycle)
api.add_router("", steps)
api.add_router("", valuation)
api.add_router("", money)
api.add_router("", upkeep)


def _problem(status: int, title: str, detail: str, **more: Any) -> JsonResponse:
    for fault in more.get("faults", ()):
        fault["message"] = as_read(fault["message"])
    body = {"type": "about:blank", "title": as_read(title), "status": status, "detail": as_read(detail), **more}
    return JsonResponse(body, status=status, content_type="application/problem+json")


@api.exception_handler(HttpError)
def _http_error(request: HttpRequest, error: HttpError) -> JsonResponse:
    return _problem(error.status_code, "Refused", str(error))


@api.exception_handler(AuthenticationError)
def _not_signed_in(request: HttpRequest, error: AuthenticationError) -> JsonResponse:
    return _problem(401, "Not signed in", "Sign in, or send a token that has not been withdrawn.")


@api.exception_handler(ValidationError)
def _bad_request(request: HttpRequest, error: ValidationError) -> JsonResponse:
    faults = [
        {"place": ".".join(str(p) for p in e["loc"] if p not in ("body", "data")), "message": e["msg"]}
        for e in error.errors
    ]
    said = "; ".join(f"{f['place']}: {f['message']}" for f in faults[:3])
    return _problem(422, "Not understood", said, faults=faults)


@api.exception_handler(FilterError)
def _bad_filter(request: HttpRequest, error: FilterError) -> JsonResponse:
    return _problem(422, "The filter cannot be read", error.message, start=error.start, end=error.end, tries=error.try_)


@api.exception_handler(SightingError)
def _bad_sighting(request: HttpRequest, error: SightingError) -> JsonResponse:
    faults = [{"place": where, "message": what} for where, what in error.places]
    return _problem(422, "The document is no sighting", str(error), faults=faults)


@api.exception_handler(Invalid)
def _invalid(request: HttpRequest, error: Invalid) -> JsonResponse:
    return _problem(422, "Not saved", str(error), field=error.field)


@api.exception_handler(ReportError)
def _no_report(request: HttpRequest, error: ReportError) -> JsonResponse:
    return _problem(422, "Not understood", str(error), field=error.field)


@api.exception_handler(Unowned)
def _unowned(request: HttpRequest, error: Unowned) -> JsonResponse:
    return _problem(422, "Not saved", str(error), field=error.field)


@api.exception_handler(Stale)
def _stale(request: HttpRequest, error: Stale) -> JsonResponse:
    return _problem(409, "Changed meanwhile", str(error), now=error.now)


@api.exception_handler(NotAllowed)
def _not_allowed(request: HttpRequest, error: NotAllowed) -> JsonResponse:
    who = request.user.get_username() or "nobody"
    log.warning("refused %s %s to %s at %s: %s", request.method, request.path, who, address_of(request), error)
    return _problem(403, "Not allowed", str(error))


def _plain(kind: type[Exception], status: int, title: str) -> None:
    @api.exception_handler(kind)
    def _handle(request: HttpRequest, error: Exception) -> JsonResponse:
        return _problem(status, title, str(error))


@api.exception_handler(OperationalError)
def _busy(request: HttpRequest, error: OperationalError) -> JsonResponse:
    """Another has held the database for longer than anybody should wait; what goes wrong otherwise is no such case."""
    if "locked" not in str(error):
        raise error
    answer = _problem(503, "Busy", "Something else is being written just now. Nothing was changed; try again.")
    answer["Retry-After"] = "2"
    return answer


@api.exception_handler(NoRoomError)
def _no_room(request: HttpRequest, error: NoRoomError) -> JsonResponse:
    """The disk is nearly full (RFC 4918, 11.5): nothing was written, and nothing is lost where it is kept meanwhile."""
    answer = _problem(507, "The disk is nearly full", str(error))
    answer["Retry-After"] = "60"
    return answer


@api.exception_handler(OverflowError)
def _too_large(request: HttpRequest, error: OverflowError) -> JsonResponse:
    """A number larger than any the database knows: of nothing there is that many, and nothing has that number."""
    if "SQLite" not in str(error):
        raise error
    return _problem(422, "Not understood", "A number that was sent is larger than any there can be here.")


_kind: type[Exception]
for _kind in (DialError, NoBranch, FieldError, NothingDecided):
    _plain(_kind, 422, "Not understood")
_plain(ClockSetBack, 503, "The clock is wrong")
for _kind in (NameTaken, CannotUndo, SealBroken, OldOutpost, MoneyError, EntangledError):
    _plain(_kind, 409, "Not done")
