"""The sighting document: the one form in which evidence reaches Tarn.

A sighting is a dated document about one device from one source, made of readings.
Its JSON Schema is published in docs/sighting.schema.json.
"""

import hashlib
import json
from datetime import datetime
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, StringConstraints, ValidationError, create_model

from tarn.core.item import Count, Part, Text
from tarn.core.sections import COLLECTOR_RANKS, FACTS, ITEMS, RULING, SameAs
from tarn.core.truth import RANKS

SCHEMA = "tarn.sighting/1"


class SightingError(ValueError):
    """A document that is no sighting; `places` names each fault and where it lies."""

    def __init__(self, places: list[tuple[str, str]]) -> None:
        self.places = places
        shown = "; ".join(f"{where}: {what}" for where, what in places[:3])
        more = f" (and {len(places) - 3} more)" if len(places) > 3 else ""
        super().__init__(shown + more)


if TYPE_CHECKING:
    SourceKindName = str
else:
    SourceKindName = Literal[tuple(RANKS)]


class SourceName(Part):
    """What the evidence comes from: a kind of source and its name."""

    kind: SourceKindName
    name: Annotated[str, StringConstraints(min_length=1, max_length=200)]


class ReadingBase(Part):
    """What one collector read in one call. `complete` is false where it was cut short; `note` says why. `unseen` names
    attributes that the account may not see of everything: where one is empty, that says nothing. Of facts they are
    those read in a lesser way: they yield to what is held."""

    collector: Annotated[str, StringConstraints(min_length=1, max_length=40)]
    complete: bool = True
    note: Text = ""
    took_ms: Count | None = None
    unseen: tuple[Text, ...] = ()


def _reading(section: str, content: Any) -> Any:
    single = section in FACTS or section == RULING
    shape: dict[str, Any] = {"facts": (content, ...)} if single else {"items": (list[content], ...)}
    label: Any = Literal[section]
    name = f"{section.title().replace('_', '')}Reading"
    return create_model(name, __base__=ReadingBase, section=(label, ...), **shape)


READINGS = {s: _reading(s, m) for s, m in {**FACTS, **ITEMS, RULING: SameAs}.items()}

if TYPE_CHECKING:
    Reading = Any
else:
    Reading = Annotated[Union[tuple(READINGS.values())], Field(discriminator="section")]


class Sighting(BaseModel):
    """One dated document of evidence about one device from one source; never changed once stored."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    schema_: Literal["tarn.sighting/1"] = Field("tarn.sighting/1", alias="schema")
    id: Annotated[str, StringConstraints(min_length=8, max_length=80)]
    source: SourceName
    at: AwareDatetime
    address: Text | None = None
    clock_skew: float | None = None
    readings: list[Reading]

    @property
    def second(self) -> int:
        """The time of the sighting in whole seconds since 1970."""
        return int(self.at.timestamp())


def read_sighting(document: str | bytes | dict[str, Any]) -> Sighting:
    """Check a document. Raises SightingError, which names every fault and its place."""
    try:
        if isinstance(document, dict):
            return Sighting.model_validate(document)
        return Sighting.model_validate_json(document)
    except ValidationError as error:
        raise SightingError([(_place(e["loc"]), e["msg"]) for e in error.errors()]) from None


def _place(loc: tuple[str | int, ...]) -> str:
    out = ""
    for part in loc:
        out += f"[{part}]" if isinstance(part, int) else f".{part}" if out else part
    return out or "document"


def make_id(*parts: object) -> str:
    """Return a document id that is the same for the same parts, so that nothing is taken in twice."""
    return hashlib.blake2b(json.dumps(parts, default=str).encode(), digest_size=16).hexdigest()


def compose(
    source: tuple[str, str],
    at: datetime,
    readings: list[Any],
    *,
    address: str | None = None,
    id: str | None = None,
    clock_skew: float | None = None,
) -> Sighting:
    """Make a sighting of readings already checked; its id is worked out from its content unless given."""
    made = id or make_id(source, at.isoformat(), address, [r.model_dump_json() for r in readings])
    return Sighting(
        schema="tarn.sighting/1",
        id=made,
        source=SourceName(kind=source[0], name=source[1]),
        at=at,
        address=address,
        clock_skew=clock_skew,
        readings=readings,
    )


def make_reading(section: str, content: Any, collector: str, **rest: Any) -> Any:
    """Make one reading of a section: `content` is its facts or its list of items."""
    single = section in FACTS or section == RULING
    shape = {"facts": content} if single else {"items": content}
    return READINGS[section](section=section, collector=collector, **shape, **rest)


def rank(collector: str) -> int:
    """Return how full a collector's readings are; the lower is fuller."""
    return COLLECTOR_RANKS.get(collector.split(".")[0], 3)


def effective(sighting: Sighting) -> dict[str, Any]:
    """Return the one reading a section to go by: the complete before the cut-short, then the fuller collector.

    Facts of several collectors are joined, the fuller collector's word first.
    """
    chosen: dict[str, Any] = {}
    for reading in sorted(sighting.readings, key=lambda r: (not r.complete, rank(r.collector))):
        before = chosen.get(reading.section)
        if before is None:
            chosen[reading.section] = reading
        elif reading.section in FACTS:
            joined = {**_given(reading.facts), **_given(before.facts)}
            if reading.section == "identity":
                for many in ("macs", "keys"):
                    both = dict.fromkeys([*getattr(before.facts, many), *getattr(reading.facts, many)])
                    joined[many] = tuple(both)
            chosen[reading.section] = before.model_copy(update={"facts": FACTS[reading.section](**joined)})
    return chosen


def _given(facts: Part) -> dict[str, Any]:
    return {k: v for k, v in facts.model_dump().items() if v is not None}
