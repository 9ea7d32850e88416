"""What a machine that sends evidence may say: what it met, and nothing that is for people or for Tarn itself to say."""

from tarn.core.sections import RULING
from tarn.core.sightings import Sighting, SightingError

MOST_AHEAD = 300
"""Seconds a sighting may be dated after the clock of whoever takes it in: one of next year would outrank the truth."""
EARLIEST = 315_532_800
"""The earliest second a sighting may be of: 1980-01-01. An earlier date is a clock that was never set."""

_NOT_THEIRS = {
    "decision": "what is decided of a device is a person's word",
    RULING: "which device a sighting is of is a person's ruling",
}


def misdated(second: int, now: int) -> str:
    """Return why a sighting of that second cannot be taken in now, or nothing."""
    if second > now + MOST_AHEAD:
        return f"it is dated {(second - now) // 60:,} minutes ahead of the clock here: set the sender's clock"
    return "it is dated before 1980: set the sender's clock" if second < EARLIEST else ""


def oversteps(sighting: Sighting, placed: tuple[str | None, str | None] | None = None) -> list[tuple[str, str]]:
    """Return what a sender says that is not its to say, each with its place in the document.

    `placed`: the place and the organisation it may name, for one that looks at networks; None for one that may not
    place anything. An asset number is Tarn's to give, whoever sends.
    """
    faults = []
    for n, reading in enumerate(sighting.readings):
        where = f"readings[{n}]"
        if reading.section in _NOT_THEIRS:
            faults.append((where, _NOT_THEIRS[reading.section]))
        elif reading.section == "placement" and placed is None:
            faults.append((where, "where a device stands and whose it is is not the sender's to say"))
        elif reading.section == "placement" and placed is not None:
            said = (reading.facts.place, reading.facts.organisation)
            faults += [
                (f"{where}.facts.{name}", f"“{word}” is not what it looks at")
                for name, word, may in zip(("place", "organisation"), said, placed, strict=True)
                if word and word != may
            ]
        elif reading.section == "identity" and reading.facts.tarn:
            faults.append((f"{where}.facts.tarn", "an asset number is Tarn's to give"))
    return faults


def check_sent(sighting: Sighting, now: int) -> None:
    """Raise SightingError, with the place, for what is not the sender's to say, or misdated; it may place nothing."""
    if faults := oversteps(sighting):
        raise SightingError(faults)
    if why := misdated(sighting.second, now):
        raise SightingError([("at", why)])


def set_back(newest: int | None, now: int) -> str:
    """Return why nothing is written while the clock here is behind what was last written, or nothing.

    What is dated before what is there already would be told in its place, and not be seen: better not written at all.
    """
    if newest is None or now >= newest - MOST_AHEAD:
        return ""
    hours = (newest - now) / 3600
    return (
        f"The clock of this machine is {hours:,.1f} hours behind the last thing that was written here, so what is "
        "written now would not be seen. Set the clock right; nothing was written."
    )
