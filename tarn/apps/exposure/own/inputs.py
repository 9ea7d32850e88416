"""What people say when they make or change a rule of our own; the API reads it, actions take it."""

from ninja import Schema

from tarn.core.exposure.grade import Grade
from tarn.core.exposure.own_rules import Verb


class OwnRuleIn(Schema):
    """`days`: a promise of its own, in days; null for its grade's. `what`: what the change is done to, in words."""

    name: str
    filter: str
    grade: Grade
    days: int | None = None
    verb: Verb = "set right"
    what: str = ""
    todo: str = ""
    in_force: bool = True
    version: int = 0


class OwnRuleTried(Schema):
    """A filter to be tried as a rule, keeping nothing."""

    filter: str
