"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class CredentialOut(TypedDict):
    id: int
    name: str
    protocol: str
    port: int
    timeout: float
    user: str
    auth: str
    privacy: str
    preference: int
    plain: bool
    verify: bool
    places: list[str]
    reach: list[str]
    outposts: list[int]
    acts: bool
    known_to_all: bool
    refusals: int
    organisation: int | None
    version: int
    used_by: list[str]


class StepOut(TypedDict):
    step: str
    title: Words
    verdict: str
    says: Words
    advice: str
    took_ms: int
    code: str
    key: str


class AcceptedKeyOut(TypedDict):
    address: str
    fingerprint: str


class TrialOut(TypedDict):
    id: int
    credential: int
    name: str
    protocol: str
    address: str
    route: str
    outpost: str
    state: str
    made_at: int
    steps: list[StepOut]
    read_with: int
    refused: int
    refusals: int
    used_by: list[str]
    places: list[str]


class KnownPasswordTries(TypedDict):
    """On how many devices a password that everybody knows is tried now."""

    devices: int
