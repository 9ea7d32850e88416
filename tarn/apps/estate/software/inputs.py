"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema


class CorrectionIn(Schema):
    field: Literal["name", "product", "publisher"] = "product"
    match: str
    product: str = ""
    publisher: str = ""
    role: str = ""
    note: str = ""
