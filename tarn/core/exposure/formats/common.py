"""What the formats' readers share: shapes that leave the unknown aside, times, scores, errors with their place."""

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import Annotated, Any, TypeVar

from cvss import CVSS2, CVSS3, CVSS4
from cvss.exceptions import CVSSError
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from tarn.core.exposure.told import Document, FeedError, Score

LONGEST_ID = 200
_ID = re.compile(r"[^\s\x00-\x1f\x7f]+")


class Shape(BaseModel):
    """A part of a document as its standard has it; what we do not read is left aside."""

    model_config = ConfigDict(extra="ignore", frozen=True, populate_by_name=True)


@dataclass(frozen=True)
class Format:
    """A format: its name, whether a parsed document looks like one of it, and what reads it.

    `read` raises FeedError where a document does not keep to its standard. `listed`: under which key of a document
    its parts lie where one file carries many (as a page of NVD does), each read by itself.
    """

    name: str
    fits: Callable[[Any], bool]
    read: Callable[[Any], Document]
    listed: str = ""


Read = TypeVar("Read", bound=Shape)


def shaped(shape: type[Read], data: Any) -> Read:
    """Return a document's shape. Raises FeedError with the first fault's place and how many more there are."""
    try:
        return shape.model_validate(data)
    except ValidationError as wrong:
        faults = wrong.errors(include_url=False, include_input=False)
        more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
        raise FeedError(f"{faults[0]['msg']}{more}", pointer(faults[0]["loc"])) from None


def pointer(parts: Iterable[Any]) -> str:
    """Return where something lies in a document (RFC 6901)."""
    return "".join("/" + str(p).replace("~", "~0").replace("/", "~1") for p in parts) or "/"


def _identifier(value: Any) -> Any:
    if isinstance(value, str):
        value = value.strip()
        if len(value) > LONGEST_ID or not _ID.fullmatch(value):
            raise ValueError(f"“{value[:60]}” is no identifier: some letters without blanks, {LONGEST_ID} at most")
    return value


Id = Annotated[str, BeforeValidator(_identifier)]
"""The name of an advisory or a vulnerability."""


def moment(text: str) -> int:
    """Return a time as seconds since 1970 (RFC 3339; one without a zone is UTC, a date its beginning).

    Raises ValueError.
    """
    try:
        at = datetime.fromisoformat(text.strip())
    except ValueError:
        raise ValueError(f"“{text[:40]}” is no time, such as 2026-11-03T08:00:00Z") from None
    return int((at if at.tzinfo else at.replace(tzinfo=UTC)).timestamp())


def _moment(value: Any) -> Any:
    return moment(value) if isinstance(value, str) else value


Moment = Annotated[int, BeforeValidator(_moment)]
Text = Annotated[str, Field(default="")]


@lru_cache(maxsize=50_000)
def _base(vector: str) -> tuple[str, float] | str:
    """Return a vector's version and base score, or what is wrong with it."""
    try:
        if vector.startswith("CVSS:4"):
            return "4.0", float(CVSS4(vector).base_score)
        if vector.startswith("CVSS:3"):
            return vector[5:8], float(CVSS3(vector).base_score)
        return "2.0", float(CVSS2(vector.strip("()")).base_score)
    except (CVSSError, ValueError, KeyError, TypeError) as error:
        return str(error)[:160] or type(error).__name__


def scored(vector: str, by: str, place: str, warnings: list[str]) -> Score | None:
    """Return a score by the library's reading of its vector; one with unknown parts is left aside and said."""
    told = _base(vector.strip())
    if isinstance(told, str):
        warnings.append(f"{place}: the vector “{vector[:100]}” is left aside: {told}")
        return None
    return Score(told[0], vector.strip(), told[1], by)


def english(descriptions: Sequence[Any]) -> str:
    """Return the English text of several with a language each, else the first."""
    told = [d.value for d in descriptions if d.lang.lower().startswith("en")] or [d.value for d in descriptions]
    return told[0].strip() if told else ""


class Said(Shape):
    """A text in a language (RFC 5646)."""

    lang: str = "en"
    value: str = ""


class Link(Shape):
    """A place to read on."""

    url: str = ""
