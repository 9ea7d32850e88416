"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema

from tarn.apps.people.answers import Day


class LicenceIn(Schema):
    name: str
    metric: str
    products: list[str]
    publisher: str = ""
    release: str = ""
    downgrade: bool = False
    second_device: bool = False
    guests: Literal["own", "host"] = "own"
    per_host: int = 1
    per_processor: int = 0
    pack: int = 1
    formula: str = ""
    departments: list[str] = []
    without_limit: bool = False
    starts: Day | None = None
    ends: Day | None = None
    maintained_until: Day | None = None
    keys_wanted: bool = False
    transferable: bool = True
    edition: str = ""
    shared: bool = False
    cost: str = ""
    cost_currency: str = ""
    cost_every: str = ""
    note: str = ""
    tags: list[str] = []
    extra: dict[str, str] = {}
    holds_from: Day | None = None
    organisation: int | None = None
    version: int = 0


class PurchaseIn(Schema):
    day: Day
    quantity: int
    price: str
    currency: str = ""
    order: str = ""
    supplier: str = ""


class SaidIn(Schema):
    product: str
    assets: list[int]
    says: Literal["", "licence", "exempt", "disputed"]
    licence: int | None = None
    why: str = ""
    until: Day | None = None


class KeysIn(Schema):
    keys: str
    activations: int | None = None


class NeedIn(Schema):
    product: str
    needed: bool = True


class RecordsIn(Schema):
    file: str
