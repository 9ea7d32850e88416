"""The span tables as the door writes them: names, keys and columns, read off the models once."""

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

from tarn.apps.estate.models import ITEM_MODELS
from tarn.core.ranges import address_key
from tarn.core.sections import FACTS, KEYS, NOT_FIELDS, columns
from tarn.core.versions import version_key


@dataclass(frozen=True)
class SpanTable:
    """One span table: `key` and `values` columns beside asset, source and times."""

    section: str
    name: str
    key: tuple[str, ...]
    values: tuple[str, ...]

    @cached_property
    def insert(self) -> str:
        """The statement that inserts a span: asset, source, from, to, initial, key, values, address key."""
        derived = ("address_key",) if "address" in self.key + self.values else ()
        names = ("asset_id", "source_id", "valid_from", "valid_to", "initial", *self.key, *self.values, *derived)
        return _insert(self.name, names)

    @property
    def select(self) -> str:
        """The statement that reads the open spans of assets of one section, up to its list of pairs."""
        names = ", ".join(f'"{c}"' for c in ("id", "asset_id", "source_id", "valid_from", *self.key, *self.values))
        return f"SELECT {names} FROM {self.name} WHERE valid_to IS NULL AND asset_id IN "

    def row(self, key: tuple[Any, ...], values: tuple[Any, ...]) -> tuple[Any, ...]:
        """Return the key and value columns of a span, with the sort key of its address if it has one."""
        if "address" in self.key:
            return (*key, *values, address_key(key[self.key.index("address")]))
        return (*key, *values)


def _insert(table: str, names: tuple[str, ...]) -> str:
    quoted = ", ".join(f'"{n}"' for n in names)
    return f"INSERT INTO {table} ({quoted}) VALUES ({', '.join('?' * len(names))})"


INSTALLS = SpanTable("packages", "estate_installspan", ("release_id",), ("listing_id",))
CLAIMS = SpanTable("", "estate_fieldspan", ("section", "field"), ("value",))

SPAN_TABLES: dict[str, SpanTable] = {
    "packages": INSTALLS,
    **{s: SpanTable(s, m._meta.db_table, KEYS[s], columns(s)) for s, m in ITEM_MODELS.items()},
    **dict.fromkeys((*FACTS, "recognition"), CLAIMS),
}
"""The table of each section. Facts of every section share one table, a row a field."""

TERMS = (
    "standing",
    "kind",
    "state",
    "manufacturer",
    "model",
    "platform",
    "os_name",
    "arch",
    "place",
    "person",
    "department",
    "organisation",
)
"""Fields of the asset's span held as words of a vocabulary."""

PLAIN = (
    "name",
    "serial",
    "uuid",
    "domain",
    "os_version",
    "os_kernel",
    "processor",
    "cores",
    "memory",
    "address",
    "mac",
    "description",
    "last_user",
    "aside_reason",
    "note",
)
"""Fields of the asset's span held as they are."""

DERIVED = ("name_fold", "os_version_key", "address_key")

WIDE = (*(f"{t}_id" for t in TERMS), *PLAIN, *DERIVED)
WIDE_INSERT = _insert("estate_assetspan", ("asset_id", "valid_from", "valid_to", *WIDE))
WIDE_SELECT = (
    "SELECT id, asset_id, valid_from, " + ", ".join(WIDE) + " FROM estate_assetspan "
    "WHERE valid_to IS NULL AND asset_id IN "
)


@lru_cache(maxsize=200_000)
def safe_address_key(text: str) -> str | None:
    """Return an address's sort key, or None where the text is no address (a claim may be wrong)."""
    try:
        return address_key(text)
    except ValueError:
        return None


def derived(plain: dict[str, Any], folded: str) -> tuple[Any, ...]:
    """Return the derived columns of an asset's span."""
    version, address = plain.get("os_version"), plain.get("address")
    return (folded, version_key(version) if version else None, safe_address_key(address) if address else None)


FACT_FIELDS = {s: tuple(f for f in model.model_fields if f not in NOT_FIELDS) for s, model in FACTS.items()} | {
    "recognition": ("kind",)
}
