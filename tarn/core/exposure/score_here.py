"""A CVSS score where it stands: with what is known of its use, and with what the device says of its environment."""

from dataclasses import dataclass

from cvss import CVSS2, CVSS3, CVSS4
from cvss.exceptions import CVSSError

from tarn.core.exposure.grade import LIKELY


@dataclass(frozen=True, slots=True)
class ScoreHere:
    """The score with the threat, with threat and environment, and the whole vector; as CVSS reckons them."""

    threat: float
    environment: float
    vector: str


def score_here(
    version: str, vector: str, used: bool, chance: float | None, outside: bool, important: bool
) -> ScoreHere | None:
    """Return the score of a vector on a device; None where the vector cannot be reckoned with.

    Use by attackers is the threat (CVSS 4.0, 2.6: E; 3.1, 3: E; 2.0, 2.2: E). A device that cannot be reached from
    outside is attacked from an adjacent network at the farthest (MAV:A); one much hangs on has high requirements.
    """
    try:
        if version.startswith("4"):
            return _four(vector, used, chance, outside, important)
        if version.startswith("3"):
            return _three(vector, used, chance, outside, important)
        return _two(vector, used, chance, important)
    except (CVSSError, ValueError):
        return None


def _bare(vector: str, drop: tuple[str, ...]) -> str:
    return "/".join(m for m in vector.split("/") if m.partition(":")[0] not in drop)


_REQUIREMENTS = ("CR", "IR", "AR")


def _four(vector: str, used: bool, chance: float | None, outside: bool, important: bool) -> ScoreHere:
    base = _bare(vector, ("E", "MAV", *_REQUIREMENTS))
    threat = base + f"/E:{'A' if used else 'P' if chance is not None and chance >= LIKELY else 'U'}"
    near = "" if outside or "/AV:N" not in base else "/MAV:A"
    whole = threat + "".join(f"/{r}:{'H' if important else 'M'}" for r in _REQUIREMENTS) + near
    return ScoreHere(float(CVSS4(threat).base_score), float(CVSS4(whole).base_score), whole)


def _three(vector: str, used: bool, chance: float | None, outside: bool, important: bool) -> ScoreHere:
    base = _bare(vector, ("E", "MAV", *_REQUIREMENTS))
    threat = base + f"/E:{'H' if used else 'F' if chance is not None and chance >= LIKELY else 'U'}"
    near = "" if outside or "/AV:N" not in base else "/MAV:A"
    whole = threat + "".join(f"/{r}:{'H' if important else 'M'}" for r in _REQUIREMENTS) + near
    told = CVSS3(whole)
    return ScoreHere(float(CVSS3(threat).temporal_score), float(told.environmental_score), whole)


def _two(vector: str, used: bool, chance: float | None, important: bool) -> ScoreHere:
    base = _bare(vector, ("E", *_REQUIREMENTS))
    threat = base + f"/E:{'H' if used else 'F' if chance is not None and chance >= LIKELY else 'U'}"
    whole = threat + "".join(f"/{r}:{'H' if important else 'M'}" for r in _REQUIREMENTS)
    told = CVSS2(whole)
    return ScoreHere(float(CVSS2(threat).temporal_score), float(told.environmental_score), whole)
