"""What a row of a report may be, beside a device and the items of its lists."""

from tarn.core.fields import GROUPS

_CHANGE = {
    "at": ("When", "moment"),
    "verb": ("Change", "text"),
    "thing": ("What", "text"),
    "before": ("Before", "text"),
    "after": ("After", "text"),
}
_POSITION = {
    "name": ("Product", "text"),
    "metric": ("Counted by", "text"),
    "unit": ("Unit", "text"),
    "entitled": ("Entitled", "number"),
    "needed": ("Needed", "number"),
    "assigned": ("Assigned", "number"),
    "short": ("Short", "number"),
    "spare": ("Spare", "number"),
    "installations": ("Installations", "number"),
    "cure": ("Cost to cure", "number"),
    "spare_value": ("Value of spare", "number"),
    "currency": ("Currency", "text"),
}
OTHER_ROWS: dict[str, dict[str, tuple[str, str]]] = {
    "product": {
        "name": ("Product", "text"),
        "publisher": ("Publisher", "text"),
        "devices": ("Devices", "number"),
        "before": ("Devices four weeks ago", "number"),
        "releases": ("Releases", "number"),
        "newest": ("Newest release", "text"),
        "first_seen": ("First seen", "moment"),
        "verdict": ("Ruling", "text"),
    },
    "person": {
        "name": ("Name", "text"),
        "department": ("Department", "text"),
        "title": ("Title", "text"),
        "email": ("Mail", "text"),
        "account": ("Account", "text"),
        "holds": ("Devices held", "number"),
        "signed_in": ("Devices last signed in to", "number"),
        "joined_at": ("Known since", "moment"),
        "left_at": ("Left", "moment"),
    },
    "position": _POSITION,
    "shortage": _POSITION,
    "licence": {
        "name": ("Licence", "text"),
        "publisher": ("Publisher", "text"),
        "products": ("Covers", "text"),
        "metric": ("Counted by", "text"),
        "quantity": ("Owned", "number"),
        "used": ("Drawn on", "number"),
        "price": ("Price of one", "number"),
        "currency": ("Currency", "text"),
        "starts": ("Begins", "text"),
        "ends": ("Ends", "text"),
        "maintained_until": ("Maintenance until", "text"),
    },
    "notice": {
        "name": ("What ends", "text"),
        "stream": ("Kind", "text"),
        "provider": ("Provider", "text"),
        "ends": ("Ends", "text"),
        "before": ("Days before", "number"),
        "due": ("Told from", "text"),
        "notice_by": ("Notice by", "text"),
        "then": ("Otherwise", "text"),
    },
    "change": {**_CHANGE, "thing": ("Product", "text")},
    "hardware_change": {**_CHANGE, "thing": ("Part", "text")},
    "activity": {n: _CHANGE[n] for n in ("at", "verb", "thing")},
}
"""Rows that are reckoned rather than listed: their columns with label and type. Changes have their asset's too."""

OVER_DAYS = ("change", "hardware_change", "activity")
"""Rows that are found over some days."""

ROWS = ("asset", *GROUPS, *OTHER_ROWS)
"""What a row of a report may be."""
