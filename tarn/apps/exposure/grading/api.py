"""Grades, promises and ends of support over HTTP: thin; parse, call, shape."""

from typing import Annotated, Literal

from django.http import HttpRequest
from ninja import Query, Router

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import iso, read_dial
from tarn.apps.exposure.finding import support
from tarn.apps.exposure.grading import kept, policies
from tarn.apps.exposure.grading.policy import SHIPPED_POLICY, policy
from tarn.apps.exposure.grading.results import EndedFinding, KeptPromises, PolicyOut, PolicyRehearsed
from tarn.apps.exposure.inputs import PolicyIn
from tarn.apps.exposure.models import GradingPolicy
from tarn.apps.exposure.results import SupportOut
from tarn.core.exposure.grade import GRADES, POINTS, Grade

router = Router(tags=["exposure"])

Days = Annotated[int, Query(ge=1, le=800)]


@router.get("/exposure/support", response=list[SupportOut])
def support_here(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[SupportOut]:
    """Return what is here and has an end of support, the earliest first."""
    return support.listed(question(filter, read_dial(as_of)))


@router.get("/exposure/promises", response=KeptPromises)
def promises(request: HttpRequest, filter: str = "", as_of: str | None = None, days: Days = 90) -> KeptPromises:
    """Return how promises fared in the last so many days, by grade."""
    return kept.kept(question(filter, read_dial(as_of)), days)


@router.get("/exposure/promises/ended", response=list[EndedFinding])
def ended(
    request: HttpRequest,
    grade: Grade,
    fared: Literal["kept", "late"],
    filter: str = "",
    as_of: str | None = None,
    days: Days = 90,
) -> list[EndedFinding]:
    """Return the findings of a grade that ended in time, or late, and how."""
    return kept.ended(question(filter, read_dial(as_of)), days, grade, fared)


@router.get("/exposure/policy", response=PolicyOut)
def grading(request: HttpRequest, as_of: str | None = None) -> PolicyOut:
    """Return how findings are graded and by when each grade is to be ended."""
    held = policy(read_dial(as_of))
    newest = GradingPolicy.objects.order_by("-pk").values_list("pk", flat=True).first()
    return {
        "version": newest or 0,
        "tree": held.told,
        "days": {g: held.promises.days[g] for g in GRADES},
        "working": held.promises.working,
        "holidays": [d.isoformat() for d in held.promises.holidays],
        "questions": [{"name": p.name, "asks": p.asks, "answers": list(p.answers)} for p in POINTS.values()],
        "grades": list(GRADES),
        "made_by": held.made_by,
        "made_at": iso(held.made_at),
        "shipped": SHIPPED_POLICY.told,
    }


@router.post("/exposure/policy/rehearsal", response=PolicyRehearsed)
def rehearse(request: HttpRequest, data: PolicyIn, filter: str = "") -> PolicyRehearsed:
    """Return what would be graded otherwise of what is open; changes nothing."""
    return policies.rehearse(question(filter), data)


@router.put("/exposure/policy", response=PolicyOut)
def change(request: HttpRequest, data: PolicyIn) -> PolicyOut:
    """Have findings graded and promised otherwise from now on."""
    policies.change_policy(request.user, data)
    return grading(request)
