"""Tables of the estate. Times are whole seconds since 1970 in UTC; an open end is NULL.

What follows from sightings has one writer, the door, and a check that rebuilds and compares it
(`tarn rebuild --check`), so its references carry no constraint that every row would pay for.
"""

from tarn.apps.estate.models.branches import Branch
from tarn.apps.estate.models.evidence import Identifier, SectionBody, SectionState, Sighting, Source, SourceSeen
from tarn.apps.estate.models.items import ITEM_MODELS, span_model
from tarn.apps.estate.models.own import OwnField, OwnKind
from tarn.apps.estate.models.papers import Paper
from tarn.apps.estate.models.register import Asset, AssetSpan, FieldSpan, Term
from tarn.apps.estate.models.selection import KeptSet, KeptView, Phrase, SetSpan
from tarn.apps.estate.models.software import InstallSpan, Listing, NamingRule, Product, Release

__all__ = [
    "ITEM_MODELS",
    "Asset",
    "AssetSpan",
    "Branch",
    "FieldSpan",
    "Identifier",
    "InstallSpan",
    "KeptSet",
    "KeptView",
    "Listing",
    "NamingRule",
    "OwnField",
    "OwnKind",
    "Paper",
    "Phrase",
    "Product",
    "Release",
    "SectionBody",
    "SectionState",
    "SetSpan",
    "Sighting",
    "Source",
    "SourceSeen",
    "Term",
    "span_model",
]
