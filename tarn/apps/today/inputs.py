"""What people say to Today."""

from typing import Literal

from ninja import Field, Schema

from tarn.apps.people.answers import Day


class AsideIn(Schema):
    """Which line to put aside, and how; `until`: from which day on it is shown again."""

    key: str = Field(max_length=60)
    how: Literal["until", "done", "never"]
    until: Day | None = None
