"""Reporters over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.discovery.models import Enrolment
from tarn.apps.discovery.reporters import change as actions
from tarn.apps.discovery.reporters.results import EnrolOut, ReportedOut, ScriptsOut
from tarn.apps.discovery.schemas import bearer, unpacked
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.reporter.reports import read_report

router = Router(tags=["reporters"])


class EnrolIn(Schema):
    name: str
    organisation: int | None = None


@router.get("/reporters/enrolments", response=list[EnrolOut])
def enrolments(request: HttpRequest) -> list[EnrolOut]:
    """Return enrolments, each with how many computers report by it."""
    require(request.user, "credentials")
    out: list[EnrolOut] = []
    for enrolment in visible(Enrolment).prefetch_related("reporter_set").order_by("-id"):
        seen = [r.last_seen for r in enrolment.reporter_set.all()]
        out.append(
            {
                "id": enrolment.pk,
                "name": enrolment.name,
                "made_at": enrolment.made_at,
                "withdrawn": enrolment.withdrawn_at is not None,
                "reporters": len(seen),
                "last_seen": max(seen, default=None),
            }
        )
    return out


@router.post("/reporters/enrolments", response=ScriptsOut)
def enrol(request: HttpRequest, data: EnrolIn) -> ScriptsOut:
    """Make an enrolment; this answer is the only time its scripts are given."""
    url = f"{request.scheme}://{request.get_host()}"
    made, scripts = actions.enrol(request.user, data.name, url, data.organisation)
    return {"id": made.pk, "name": made.name, "posix": scripts["posix"], "powershell": scripts["powershell"]}


@router.delete("/reporters/enrolments/{number}", response={204: None})
def withdraw(request: HttpRequest, number: int) -> Status[None]:
    """Withdraw an enrolment; its reporters are refused from now on."""
    try:
        actions.withdraw_enrolment(request.user, number)
    except Enrolment.DoesNotExist:
        raise HttpError(404, f"There is no enrolment {number} in force.") from None
    return Status(204, None)


@router.post("/reports", auth=None, response=ReportedOut)
def report(request: HttpRequest) -> ReportedOut:
    """Take in what a reporter sends: JSON, gzipped or not, with its enrolment token as the bearer."""
    return actions.take_report(bearer(request), read_report(unpacked(request)))
