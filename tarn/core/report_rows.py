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
        "starts": ("Begins", "day"),
        "ends": ("Ends", "day"),
        "maintained_until": ("Maintenance until", "day"),
        "tags": ("Tags", "text"),
    },
    "idle": {
        "name": ("Device", "text"),
        "person": ("Held by", "text"),
        "department": ("Department", "text"),
        "product": ("Product", "text"),
        "release": ("Release", "text"),
        "licence": ("Licence", "text"),
        "why": ("Why", "text"),
        "units": ("Units", "number"),
        "worth": ("Worth", "number"),
        "currency": ("Currency", "text"),
    },
    "licence_warning": {
        "sort": ("Sort", "text"),
        "name": ("Of", "text"),
        "text": ("What is wrong", "text"),
    },
    "notice": {
        "name": ("What ends", "text"),
        "stream": ("Kind", "text"),
        "provider": ("Provider", "text"),
        "ends": ("Ends", "day"),
        "before": ("Days before", "number"),
        "due": ("Told from", "day"),
        "notice_by": ("Notice by", "day"),
        "then": ("Otherwise", "text"),
    },
    "hand_over": {
        "name": ("Device", "text"),
        "number": ("Asset number", "text"),
        "kind": ("Kind", "text"),
        "serial": ("Serial number", "text"),
        "receiver": ("In the hands of", "text"),
        "lent": ("Lent", "yes/no"),
        "given_at": ("Given", "moment"),
        "given_by": ("By", "text"),
        "due": ("Due back", "day"),
        "overdue": ("Days overdue", "number"),
        "acknowledged_at": ("Acknowledged", "moment"),
        "acknowledged_by": ("Acknowledged by", "text"),
        "left": ("Holder has left", "yes/no"),
    },
    "worth": {
        "name": ("Device", "text"),
        "number": ("Asset number", "text"),
        "kind": ("Kind", "text"),
        "department": ("Department", "text"),
        "place": ("Place", "text"),
        "cost_centre": ("Cost centre", "text"),
        "supplier": ("Supplier", "text"),
        "bought": ("Bought", "moment"),
        "cost": ("Cost", "number"),
        "book": ("Book value", "number"),
        "depreciation": ("Written down this month", "number"),
        "contracts": ("Contracts a month", "number"),
        "licences": ("Licences a month", "number"),
        "energy": ("Energy a month", "number"),
        "month": ("All in a month", "number"),
        "currency": ("Currency", "text"),
        "by": ("Written down by", "text"),
    },
    "refresh": {
        "name": ("Device", "text"),
        "number": ("Asset number", "text"),
        "kind": ("Kind", "text"),
        "department": ("Department", "text"),
        "place": ("Place", "text"),
        "due": ("Due", "text"),
        "quarter": ("Planned for", "text"),
        "price": ("Price", "number"),
        "currency": ("Currency", "text"),
        "why": ("Why then", "text"),
    },
    "change": {**_CHANGE, "thing": ("Product", "text")},
    "hardware_change": {**_CHANGE, "thing": ("Part", "text")},
    "activity": {n: _CHANGE[n] for n in ("at", "verb", "thing")},
}
"""Rows that are reckoned rather than listed: their columns with label and type. Changes have their asset's too."""

KNOWN_BY: dict[str, tuple[str, ...]] = {
    "product": ("product",),
    "person": ("name",),
    "position": ("key",),
    "shortage": ("key",),
    "licence": ("licence",),
    "idle": ("id", "product"),
    "licence_warning": ("sort", "balance", "licence", "name", "text"),
    "notice": ("path", "ends", "before"),
    "hand_over": ("id", "given_at"),
    "worth": ("id",),
    "refresh": ("id",),
    "change": ("id", "at", "verb", "thing", "before", "after"),
    "hardware_change": ("id", "at", "verb", "thing", "before", "after"),
    "activity": ("id", "at", "verb", "thing"),
}
"""What a row is of, so that it is known again though what is told of it changes: a notice is of an end so many days
before it, whatever its contract is called."""

UNFILTERED = ("position", "shortage", "licence", "idle", "licence_warning", "notice", "hand_over")
"""Rows that no filter of devices narrows: a condition on the row does."""

COMPANY_WIDE = ("licence", "licence_warning")
"""Of those, what is the whole company's whichever branch is looked at; the others follow the branch."""

OVER_DAYS = ("change", "hardware_change", "activity")
"""Rows that are found over some days."""

ROWS = ("asset", *GROUPS, *OTHER_ROWS)
"""What a row of a report may be."""
