"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema


class LedgerIn(Schema):
    currency: str
    year_begins: int
    idle_after: int
    version: int
