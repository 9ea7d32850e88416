"""Who may call which operation: every operation of the API, once, with what it needs of whoever calls.

What is not here answers nobody: an operation that is new has to be given its door. The check comes before anything that
was sent is read, and it is one of two: actions check the role again, for they are called from elsewhere too.
"""

from typing import Any

from django.http import HttpRequest

from tarn.apps.people.roles import NotAllowed, lacks_factor, require
from tarn.apps.people.room import need_room
from tarn.apps.people.scope import scope_of

OPEN = """
GET /healthz  GET /readyz
GET /csrf  GET /me  GET /first  POST /first
GET /acknowledgements/{key}  POST /acknowledgements/{key}  GET /found/{code}
POST /reports  POST /outposts/work  POST /outposts/found  POST /outposts/trials/{number}  POST /inbound/{key}
GET /lifecycle/feed/{token}.ics
"""
"""Operations that nobody signs in for: those before signing in, and those that carry a key of their own."""

PERSONAL = """
PUT /me/language
GET /tokens  POST /tokens  DELETE /tokens/{token_id}
POST /today/aside  DELETE /today/aside/{key}
POST /boards  PUT /boards/{number}  DELETE /boards/{number}  POST /boards/chosen
"""
"""What a person does of themselves, signed in; no token may, so that a token makes neither tokens nor people."""

NEEDS = {
    "look": """
        GET /handbooks  GET /handbooks/{number}  GET /handbooks/issues/{number}
        GET /handbooks/issues/{number}/{format}  POST /handbooks/fill
        GET /counts  GET /counts/{number}  GET /counts/{number}/lines  GET /counts/{number}/protocol
        GET /organisations  GET /holders  GET /today  GET /boards
        POST /boards/answers  GET /labels/choices  GET /labels/{code}  GET /assets/{asset}/labels
        GET /assets  GET /assets.csv  GET /strata  GET /assets/{asset}  GET /assets/{asset}/peek
        GET /assets/{asset}/history  GET /assets/{asset}/ribbon  GET /sightings/{document}  GET /tags  GET /set-aside
        POST /filter  POST /filter/draft  POST /filter/written  POST /filter/narrowed
        GET /filter/complete  GET /fields  GET /kinds  GET /branches  GET /persons  GET /persons/one
        GET /assets/{asset}/papers  GET /papers-of/{kind}/{number}  GET /papers/{number}/file
        GET /networks  GET /networks/selected  GET /assets/{asset}/offers  GET /sweeps  GET /runs  GET /runs/{number}
        GET /runs/{number}/events  GET /intake  GET /intake/count  GET /credentials  GET /trials/{number}
        GET /sources  GET /sources/choices  GET /sources/{number}
        GET /crosscheck  GET /crosscheck/devices  GET /crosscheck/disagreements  GET /outposts  GET /intake/rules
        GET /software  GET /software/products/{number}  GET /software/changes  GET /software/names
        GET /software/rulings  GET /software/baselines  GET /software/administrators  GET /software/protection
        GET /names/corrections  GET /sets  GET /sets/{number}  GET /phrases  GET /views
        POST /register/pasted  GET /register/numbers  GET /reports/asked/{format}
        POST /reports/listed/{format}
        GET /reports/rows  GET /reports/list  POST /reports/preview  GET /reports/shown/{key}
        GET /reports/shown/{key}/{format}  GET /watches  GET /watches/conditions  POST /letters/{number}/acknowledge
        GET /mailbox
        GET /tasks  GET /tasks/{number}  GET /scripts  GET /fill-rules  GET /fill-rules/choices
        GET /licences/metrics  GET /licences/positions  GET /licences/positions/{key}
        GET /licences/positions/{key}/trend  GET /licences/changes  GET /licences/remedy  GET /licences/idle
        GET /licences/warnings  GET /licences/purchases  GET /licences/next-year  GET /licences/hired
        GET /licences  GET /licences/keys  GET /licences/{number}
        GET /lifecycle/river  GET /lifecycle/cash  GET /lifecycle/contracts  GET /lifecycle/contracts/{number}
        GET /lifecycle/orders  GET /lifecycle/support-ends  GET /lifecycle/steps  GET /lifecycle/hand-overs
        GET /lifecycle/stock  GET /lifecycle/assets/{asset}/steps  GET /lifecycle/assets/{asset}/cover
        POST /lifecycle/feed
        GET /valuation/money  GET /valuation/assets/{asset}  GET /valuation/rules  GET /valuation/energy
        GET /valuation/scenarios  GET /valuation/scenarios/beside  POST /valuation/refresh
        GET /money/ledger  GET /money/rates
        GET /exposure  GET /exposure/advisories  GET /exposure/heat  GET /exposure/advisories/{name}
        GET /exposure/first  GET /exposure/first/budget  GET /exposure/accepted
        GET /exposure/names  GET /exposure/year  GET /exposure/changes/{key}  GET /exposure/work  GET /exposure/own
        GET /exposure/support  GET /exposure/promises  GET /exposure/promises/ended  GET /exposure/policy
        GET /exposure/bom  GET /exposure/vex/{format}
        GET /feeds  GET /feeds/choices  GET /feeds/{number}
        GET /services/standing/{asset}  GET /services/stops  GET /services/singles  GET /services/links
        GET /services/noise  GET /services  GET /services/proposed  GET /services/questions  GET /services/{number}
        GET /services/programs  GET /services/programs/{key}  GET /services/recognisers  GET /services/recognisers/file
        GET /services/applications  GET /services/inquiry  GET /services/inquiries
        GET /services/inquiry/sheet/{format}  GET /services/ports  GET /services/talk  GET /services/subnets
        GET /services/racks  GET /services/hosts  GET /services/vlans  GET /services/certificates
        GET /services/between  GET /services/edges/{format}  GET /services/map
    """,
    "keep": """
        POST /handbooks  PUT /handbooks/{number}  DELETE /handbooks/{number}  POST /handbooks/{number}/issues
        POST /assets/{asset}/papers  POST /papers-of/{kind}/{number}  DELETE /papers/{number}
        POST /sets  PUT /sets/{number}  DELETE /sets/{number}  POST /views  DELETE /views/{number}
        POST /phrases  PUT /phrases/{name}  DELETE /phrases/{name}
        POST /reports/composed  PUT /reports/composed/{number}  DELETE /reports/composed/{number}
        POST /services/inquiry/notes  POST /services/{number}/watch
        POST /watches  PUT /watches/{number}  DELETE /watches/{number}  POST /watches/{number}/try
    """,
    "sweep": """
        POST /look-again  POST /sweeps/{number}/runs  POST /runs/{number}/wish  POST /runs/{number}/again
        POST /trials  POST /sources/{number}/syncs  POST /feeds/{number}/runs
    """,
    "decide": """
        GET /audit  POST /audit/{entry_id}/undo  POST /sightings  POST /tags  POST /decide  POST /empty
        POST /identity/rulings
        POST /assets/{asset}/merge  POST /assets/{asset}/split  POST /register
        POST /software/rulings  DELETE /software/rulings/{number}
        POST /licences/said  POST /licences/needs  POST /labels/print  POST /labels/{code}/lost
        POST /counts  POST /counts/plan  GET /counts/{number}/pack  POST /counts/{number}/met
        DELETE /counts/{number}/met/{met}  POST /counts/{number}/settle  POST /counts/{number}/close
        POST /counts/{number}/give-up
        POST /lifecycle/steps/open  POST /lifecycle/steps/take  POST /lifecycle/steps-taken/{anchor}/papers
        POST /lifecycle/hand-overs/{number}/acknowledgement
        POST /exposure/own-words  DELETE /exposure/own-words/{number}
        POST /exposure/names  DELETE /exposure/names/{number}
        POST /exposure/work  DELETE /exposure/work/{number}
    """,
    "plan": """
        PUT /labels/words  POST /labels/schemes  PUT /labels/schemes/{number}  DELETE /labels/schemes/{number}
        POST /handbooks/issues/{number}/decision
        POST /kinds  PUT /kinds/{number}  DELETE /kinds/{number}
        POST /own-fields  PUT /own-fields/{number}  DELETE /own-fields/{number}
        PUT /branches  DELETE /branches  POST /networks  PUT /networks/{number}
        POST /sweeps  POST /sweeps/check  PUT /sweeps/{number}  DELETE /sweeps/{number}  POST /sweeps/{number}/exclude
        POST /sources  POST /sources/test  PUT /sources/{number}  DELETE /sources/{number}
        POST /syncs/{number}/loss  POST /sources/{number}/pick
        POST /imports  POST /assets/{asset}/sbom  GET /imports/{number}  GET /imports/{number}/refused.csv
        PUT /imports/{number}  POST /imports/{number}/rehearse  POST /imports/{number}/carry-out
        PUT /outposts/{number}
        POST /intake/rules  POST /intake/rules/rehearse  PUT /intake/rules/{number}  DELETE /intake/rules/{number}
        POST /software/baselines  PUT /software/baselines/{number}  DELETE /software/baselines/{number}
        POST /names/corrections  POST /names/corrections/rehearse  DELETE /names/corrections/{number}
        POST /fill-rules  POST /fill-rules/rehearse  PUT /fill-rules/{number}  DELETE /fill-rules/{number}
        POST /fill-rules/{number}/force  PUT /fill-rules
        POST /licences/bundle  POST /licences  POST /licences/keys/{number}/show  DELETE /licences/keys/{number}
        POST /licences/use-records  DELETE /licences/purchases/{number}  PUT /licences/{number}
        DELETE /licences/{number}  POST /licences/{number}/purchases  POST /licences/{number}/keys
        POST /lifecycle/contracts  PUT /lifecycle/contracts/{number}  DELETE /lifecycle/contracts/{number}
        POST /lifecycle/contracts/{number}/decision  POST /lifecycle/orders  DELETE /lifecycle/orders/{number}
        POST /lifecycle/order-lines/{number}/receive  POST /lifecycle/support-ends
        DELETE /lifecycle/support-ends/{number}  PUT /lifecycle/steps  PUT /lifecycle/assets/{asset}/acquisition
        PUT /valuation/assets/{asset}/terms  DELETE /valuation/assets/{asset}/terms  POST /valuation/rules
        PUT /valuation/rules/{number}  DELETE /valuation/rules/{number}  POST /valuation/rules/{number}/up
        PUT /valuation/energy  POST /valuation/scenarios  PUT /valuation/scenarios/{number}
        DELETE /valuation/scenarios/{number}  PUT /money/ledger  POST /money/rates
        POST /feeds  POST /feeds/test  POST /feeds/documents  PUT /feeds/{number}  DELETE /feeds/{number}
        POST /feed-runs/{number}/loss
        POST /exposure/accepted  POST /exposure/accepted/{number}/approval  DELETE /exposure/accepted/{number}
        POST /exposure/own/tried  POST /exposure/own  PUT /exposure/own/{number}  DELETE /exposure/own/{number}
        POST /services/noise  DELETE /services/noise/{number}  POST /services  PUT /services/{number}
        DELETE /services/{number}  POST /services/{number}/members  DELETE /services/{number}/members/{hand}
        POST /services/rehearsal  POST /services/programs/{key}/word  POST /services/recognisers
        POST /services/recognisers/tried  POST /services/recognisers/file  PUT /services/recognisers/{number}
        DELETE /services/recognisers/{number}
        POST /exposure/policy/rehearsal  PUT /exposure/policy
        POST /exposure/change-words  DELETE /exposure/change-words/{number}
    """,
    "credentials": """
        POST /credentials  PUT /credentials/{number}  DELETE /credentials/{number}  POST /credentials/{number}/secret
        POST /credentials/{number}/tries
        POST /trials/{number}/key  GET /reporters/enrolments  POST /reporters/enrolments
        DELETE /reporters/enrolments/{number}  POST /outposts  DELETE /outposts/{number}
        GET /hooks  POST /hooks  DELETE /hooks/{number}
    """,
    "tasks": "POST /tasks  POST /tasks/plan  POST /tasks/{number}/approval  POST /tasks/{number}/stop",
    "scripts": "POST /scripts  PUT /scripts/{number}  DELETE /scripts/{number}  POST /scripts/{number}/review",
    "statements": "GET /sql/views  POST /sql",
    "upkeep": """
        GET /how  GET /metrics
    """,
    "people": """
        GET /people  POST /people  GET /people/{number}  PUT /people/{number}  DELETE /people/{number}
        POST /people/{number}/switch  POST /people/{number}/password  POST /people/{number}/sign-out
        DELETE /people/{number}/factors  DELETE /people/{number}/sessions/{session}
        DELETE /people/{number}/tokens/{token}  GET /failed-sign-ins  POST /organisations
    """,
}
"""What each operation needs of a role (`people.roles`)."""

COMPANY = """
    POST /kinds  PUT /kinds/{number}  DELETE /kinds/{number}
    POST /own-fields  PUT /own-fields/{number}  DELETE /own-fields/{number}
    PUT /branches  DELETE /branches  POST /networks  PUT /networks/{number}
    POST /phrases  PUT /phrases/{name}  DELETE /phrases/{name}
    POST /names/corrections  POST /names/corrections/rehearse  DELETE /names/corrections/{number}
    POST /software/rulings  DELETE /software/rulings/{number}
    POST /scripts  PUT /scripts/{number}  DELETE /scripts/{number}  POST /scripts/{number}/review
    POST /lifecycle/support-ends  DELETE /lifecycle/support-ends/{number}  PUT /lifecycle/steps
    PUT /labels/words  POST /labels/schemes  PUT /labels/schemes/{number}  DELETE /labels/schemes/{number}
    PUT /valuation/energy  PUT /money/ledger  POST /money/rates
    POST /valuation/rules  PUT /valuation/rules/{number}  DELETE /valuation/rules/{number}
    POST /valuation/rules/{number}/up
    GET /feeds  GET /feeds/choices  GET /feeds/{number}  POST /feeds  POST /feeds/test  POST /feeds/documents
    PUT /feeds/{number}  DELETE /feeds/{number}  POST /feeds/{number}/runs  POST /feed-runs/{number}/loss
    POST /exposure/own-words  DELETE /exposure/own-words/{number}  GET /exposure/accepted  POST /exposure/accepted
    POST /exposure/accepted/{number}/approval  DELETE /exposure/accepted/{number}
    GET /exposure/names  POST /exposure/names  DELETE /exposure/names/{number}
    POST /services/noise  DELETE /services/noise/{number}
    POST /services/programs/{key}/word  POST /services/recognisers  POST /services/recognisers/file
    PUT /services/recognisers/{number}  DELETE /services/recognisers/{number}
    POST /exposure/own  PUT /exposure/own/{number}  DELETE /exposure/own/{number}  PUT /exposure/policy
    POST /exposure/change-words  DELETE /exposure/change-words/{number}  DELETE /exposure/work/{number}
    POST /sightings  GET /sql/views  POST /sql  GET /mailbox
    GET /how  GET /metrics
    GET /people  POST /people  GET /people/{number}  PUT /people/{number}  DELETE /people/{number}
    POST /people/{number}/switch  POST /people/{number}/password  POST /people/{number}/sign-out
    DELETE /people/{number}/factors  DELETE /people/{number}/sessions/{session}
    DELETE /people/{number}/tokens/{token}  GET /failed-sign-ins  POST /organisations
"""
"""What is of the whole company: whoever is limited to some of its organisations may not."""


READING = """
    POST /filter  POST /filter/draft  POST /filter/written  POST /filter/narrowed
    POST /reports/preview  POST /valuation/refresh  POST /sweeps/check  POST /tasks/plan
    POST /reports/listed/{format}
    POST /intake/rules/rehearse  POST /names/corrections/rehearse  POST /fill-rules/rehearse  POST /sql
    POST /services/rehearsal
"""
"""Calls that change nothing although they are no GET: a token that only reads may make them."""


def _listed(text: str) -> tuple[str, ...]:
    words = text.split()
    return tuple(f"{method} {path}" for method, path in zip(words[::2], words[1::2], strict=True))


NEEDED = {door: need for need, text in NEEDS.items() for door in _listed(text)}
OPENED, OWN, WHOLE, READS = (frozenset(_listed(text)) for text in (OPEN, PERSONAL, COMPANY, READING))
DOORS = frozenset({*NEEDED, *OPENED, *OWN})


def door_of(request: HttpRequest) -> str:
    """Return the operation a request calls, as this table writes it."""
    path = request.resolver_match.route.removeprefix("api") if request.resolver_match else ""
    for kind in ("int:", "str:", "slug:", "uuid:", "path:"):
        path = path.replace(f"<{kind}", "<")
    return f"{request.method} {path.replace('<', '{').replace('>', '}')}"


def admit(request: HttpRequest, user: Any, *, token: str = "") -> None:
    """Let somebody who is known call what they call; `token`: what the token they use reaches. Raises NotAllowed."""
    door = door_of(request)
    if door in OPENED:
        return
    if not token and lacks_factor(user):
        raise NotAllowed("Your role asks for a second factor: add one under Settings, then go on.")
    if door in OWN:
        if token:
            raise NotAllowed("A token cannot do that; sign in as the person.")
        return
    if door not in NEEDED:
        raise NotAllowed(f"{door} has no door: nobody may call it.")
    if not (door.startswith(("GET ", "DELETE ")) or door in READS):
        need_room()
    if token and (NEEDED[door] == "people" or not _reaches(token, door)):
        raise NotAllowed("This token does not reach that.")
    require(user, NEEDED[door])
    if door in WHOLE and scope_of(user) is not None:
        raise NotAllowed("This is the whole company's; ask someone who is not limited to one organisation.")


def _reaches(token: str, door: str) -> bool:
    if token == "read":
        return door.startswith("GET ") or door in READS
    return token == "all" or door == "POST /sightings"
