"""What is told here: the reads return it, the API hands it on as it is."""

from decimal import Decimal

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.people.answers import Day


class RateOut(Schema):
    day: Day
    currency: str
    rate: Decimal


class RatesTaken(TypedDict):
    taken: int
