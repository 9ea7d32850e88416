"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.estate.register.results import WitnessOut
from tarn.apps.people.speaking import Words


class BlindSpot(WitnessOut):
    reason: Words
    remedy: Words
    where: str


class UnseenOut(TypedDict):
    asset: int
    name: str
    kind: str | None
    place: str | None
    known_to: list[WitnessOut]
    unseen_by: list[BlindSpot]
