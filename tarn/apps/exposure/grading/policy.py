"""How findings are graded and by when grades are to be ended, as the company has it: as it stood at any moment."""

from dataclasses import dataclass
from datetime import date
from typing import Any

from tarn.apps.exposure.models import GradingPolicy
from tarn.core.exposure.grade import GRADES, SHIPPED, Tree, read_tree
from tarn.core.exposure.promises import Promises


@dataclass(frozen=True)
class Policy:
    """The tree as data and as read, and the promises; `made_by` nobody: as it ships."""

    told: dict[str, Any] | str
    tree: Tree
    promises: Promises
    made_by: str = ""
    made_at: int | None = None


SHIPPED_POLICY = Policy(SHIPPED, read_tree(SHIPPED), Promises())


def policy(at: int | None = None) -> Policy:
    """Return the policy that stood at a moment."""
    made = GradingPolicy.objects.order_by("-made_at", "-pk")
    held = (made if at is None else made.filter(made_at__lte=at)).first()
    return SHIPPED_POLICY if held is None else as_policy(held)


def as_policy(held: GradingPolicy) -> Policy:
    """Return a stored policy as the core has it."""
    days = {g: held.days.get(g) for g in GRADES}
    holidays = tuple(date.fromisoformat(d) for d in held.holidays)
    return Policy(held.tree, read_tree(held.tree), Promises(days, held.working, holidays), held.made_by, held.made_at)
