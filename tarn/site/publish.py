"""Documents generated from the code: the API's schema, the sighting's, the filter reference."""

import json

from tarn.core.fields import ASSET_FIELDS, GROUPS, TYPES
from tarn.core.sightings import Sighting


def openapi() -> str:
    """Return the OpenAPI document."""
    from tarn.site.api import api

    return json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False, default=str) + "\n"


def sighting() -> str:
    """Return the JSON Schema of a sighting."""
    return json.dumps(Sighting.model_json_schema(), indent=1, ensure_ascii=False) + "\n"


def filters() -> str:
    """Return the reference of fields, in Markdown."""
    out = [
        "# Fields a filter may ask",
        "",
        "Generated from the field registry by `make docs`; the language itself is in",
        "[filters.md](filters.md).",
        "",
    ]
    out += ["## Types", "", "| type | what a value looks like |", "|---|---|"]
    out += [f"| {name} | {says} |" for name, says in TYPES.items()]
    out += ["", "## Of an asset", "", "| field | type | meaning |", "|---|---|---|"]
    for f in ASSET_FIELDS:
        choices = f" ({', '.join(f.choices)})" if f.choices else ""
        out.append(f"| `{f.name}` | {f.type} | {f.meaning}{choices} |")
    for group, known in GROUPS.items():
        out += ["", f"## In `{group}[…]`", "", "| field | type | meaning |", "|---|---|---|"]
        out += [f"| `{f.name}` | {f.type} | {f.meaning} |" for f in known.values()]
    return "\n".join(out) + "\n"


PUBLISHED = {"openapi": openapi, "sighting": sighting, "filters": filters}
