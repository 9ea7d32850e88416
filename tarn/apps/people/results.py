"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class PersonOut(TypedDict):
    id: int
    username: str
    full_name: str
    email: str
    role: str
    limits: list[int]
    active: bool
    elsewhere: bool
    factors: list[str]
    sessions: int
    tokens: int
    last_sign_in: int | None


class SessionOut(TypedDict):
    id: int
    address: str
    agent: str
    began_at: int
    seen_at: int


class TokenFacts(TypedDict):
    id: int
    name: str
    scope: str
    made_at: int
    expires_at: int | None
    used_at: int | None


class TokenOut(TokenFacts):
    """A token as it is given out, the only time its text is."""

    token: str


class FailureOut(TypedDict):
    at: int
    name: str
    address: str


class AccountOut(PersonOut):
    held_sessions: list[SessionOut]
    held_tokens: list[TokenFacts]
    failures: list[FailureOut]


class FirstOut(TypedDict):
    needed: bool
    provider: str
    directory: bool


class Me(TypedDict):
    username: str
    full_name: str
    role: str
    may: list[str]
    limits: list[str]
    zone: str
    language: str | None
    warning: Words
    factor_wanted: bool


class OrganisationOut(Schema):
    id: int
    name: str


class HolderOut(TypedDict):
    name: str
    email: str
    department: str
    title: str
    source: str
    joined_at: int
    left_at: int | None


class Entry(TypedDict):
    id: int
    at: int
    who: str
    verb: Words
    thing: str
    detail: dict[str, Any]
    can_undo: bool
    undone: bool
