"""Lists of vulnerabilities known to be used by attackers: a JSON catalogue with a `dateAdded` each."""

from typing import Any

from pydantic import Field

from tarn.core.exposure.formats.common import Format, Id, Moment, Shape, shaped
from tarn.core.exposure.told import Document, Used


class _One(Shape):
    id: Id = Field(alias="cveID")
    since: Moment = Field(alias="dateAdded")
    action: str = Field(default="", alias="requiredAction")
    ransom: str = Field(default="", alias="knownRansomwareCampaignUse")


class _Catalogue(Shape):
    title: str = "Used vulnerabilities"
    released: Moment | None = Field(default=None, alias="dateReleased")
    listed: tuple[_One, ...] = Field(alias="vulnerabilities")


def read(data: Any) -> Document:
    """Return a list as read. Raises FeedError."""
    catalogue = shaped(_Catalogue, data)
    used = tuple(Used(o.id, o.since, o.action, o.ransom.lower() == "known") for o in catalogue.listed)
    return Document("used list", catalogue.title, catalogue.title, dated=catalogue.released, used=used)


FORMAT = Format("used list", lambda data: isinstance(data, dict) and "catalogVersion" in data, read)
