"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema

from tarn.apps.people.answers import Day


class ContractIn(Schema):
    name: str
    provider: str
    kind: str
    number: str = ""
    starts: Day | None = None
    ends: Day | None = None
    renews: int = 0
    notice: int = 0
    notices: list[int] = []
    cost: str = ""
    currency: str = ""
    every: str = ""
    first_payment: Day | None = None
    covers: str = ""
    licences: list[str] = []
    people: list[str] = []
    note: str = ""
    organisation: int | None = None
    version: int = 0
    holds_from: Day | None = None


class OrderLineIn(Schema):
    kind: str
    quantity: int
    price: str = ""
    currency: str = ""
    manufacturer: str = ""
    model: str = ""
    warranty: int = 0
    cost_centre: str = ""


class PurchaseOrderIn(Schema):
    number: str
    supplier: str
    lines: list[OrderLineIn]
    day: Day | None = None
    expected: Day | None = None
    note: str = ""
    organisation: int | None = None


class AcquisitionIn(Schema):
    bought: Day | None = None
    price: str = ""
    currency: str = ""
    supplier: str = ""
    order: str = ""
    cost_centre: str = ""
    warranty_from: Day | None = None
    warranty_end: Day | None = None


class StepSaid(Schema):
    """What is said with a step; `day`: a day gone by on which it was taken."""

    person: str = ""
    department: str = ""
    place: str = ""
    due: Day | None = None
    condition: str = ""
    method: str = ""
    erasure: str = ""
    why: str = ""
    proceeds: str = ""
    costs: str = ""
    day: Day | None = None
