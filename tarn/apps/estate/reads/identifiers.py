"""Identifiers held of assets, as other rooms ask for them."""

from tarn.apps.estate.reads.database import raw_connection


def presented_keys(address: str) -> list[str]:
    """Return the host keys and certificates presented before by the asset last met at an address."""
    rows = raw_connection().execute(
        "SELECT i.key FROM estate_assetspan s JOIN estate_identifier i ON i.asset_id = s.asset_id "
        "WHERE s.valid_to IS NULL AND s.address = ? AND i.key LIKE 'key:SHA256:%'",
        (address,),
    )
    return [key.removeprefix("key:") for (key,) in rows]


def numbers_of(assets: list[int]) -> dict[int, str]:
    """Return the asset numbers of these assets; those that do not exist are left out."""
    marks = ",".join(str(int(a)) for a in assets)
    return dict(raw_connection().execute(f"SELECT id, number FROM estate_asset WHERE id IN ({marks})").fetchall())
