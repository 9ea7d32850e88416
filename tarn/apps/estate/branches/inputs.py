"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema


class PlacedIn(Schema):
    field: Literal["place", "department", "person"]
    name: str
    under: str = ""
