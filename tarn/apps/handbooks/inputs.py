"""What people say of handbooks."""

from typing import Any, Literal

from ninja import Field, Schema

Format = Literal["pdf", "docx", "html", "md"]


class HandbookNew(Schema):
    """A handbook to begin: from one that ships, from another one here, or empty."""

    name: str = Field(max_length=200)
    template: str = Field(default="", max_length=40)
    copy_of: int | None = None
    organisation: int | None = None


class HandbookIn(Schema):
    """A handbook as it is kept, from the version it was read at."""

    name: str = Field(max_length=200)
    text: str = Field(default="", max_length=500)
    document: dict[str, Any]
    place: str = Field(default="", max_length=300)
    rule: str = Field(default="", max_length=200)
    to: list[str] = Field(default_factory=list, max_length=50)
    formats: list[Format] = Field(default_factory=list)
    approved: bool = False
    version: int


class FillIn(Schema):
    """A live block to be filled as it would be now."""

    kind: str = Field(max_length=40)
    settings: dict[str, Any] = Field(default_factory=dict)
    place: str = Field(default="", max_length=300)
    handbook: int | None = None


class DecideIn(Schema):
    """Whether an issue is approved, and why."""

    approve: bool
    why: str = Field(default="", max_length=500)
