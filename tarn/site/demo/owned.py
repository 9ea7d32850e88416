"""What the demo company owns of rights to use software, and what it has agreed with others."""

import re
from datetime import date, timedelta
from typing import Any

RATES = "date,currency,rate\n2022-01-01,NOK,10.05\n2024-01-02,NOK,11.40\n2025-01-02,NOK,11.75\n2026-01-02,NOK,11.60\n"

_Line = tuple[int, int, str, str, str, str]
"""Days ago, units, price of one, currency, order, supplier."""

_QUAY, _INLET = "Quayside Software Trading", "Inlet Licensing"

LICENCES: tuple[tuple[dict[str, Any], tuple[_Line, ...]], ...] = (
    (
        {
            "name": "Quill Office, by person",
            "publisher": "Northquill",
            "metric": "named person",
            "products": ["Quill Office"],
            "release": "16",
            "downgrade": True,
        },
        ((1500, 12, "115.00", "EUR", "PO-1804", _QUAY), (640, 10, "120.00", "EUR", "PO-2231", _QUAY)),
    ),
    (
        {
            "name": "Quill Works",
            "publisher": "Northquill",
            "metric": "device",
            "products": ["Quill Office", "merlin-mail", "Tern Notes"],
        },
        ((900, 60, "210.00", "EUR", "PO-2007", _QUAY),),
    ),
    (
        {
            "name": "Pellucid Reader, yearly",
            "publisher": "Pellucid",
            "metric": "device",
            "products": ["Pellucid Reader"],
            "cost": "5400.00",
            "cost_every": "year",
        },
        ((330, 120, "45.00", "EUR", "PO-2410", _INLET),),
    ),
    (
        {
            "name": "Corvid Protect",
            "publisher": "Corvid",
            "metric": "device",
            "products": ["Corvid Protect"],
            "cost": "86400",
            "cost_currency": "NOK",
            "cost_every": "year",
        },
        ((700, 180, "480", "NOK", "PO-2156", _INLET), (200, 20, "495", "NOK", "PO-2502", _INLET)),
    ),
    (
        {
            "name": "Tern Notes for the ticket office",
            "publisher": "Ternwork",
            "metric": "device",
            "products": ["Tern Notes"],
            "departments": ["Ticketing"],
            "second_device": True,
        },
        ((420, 12, "38.00", "EUR", "PO-2390", _QUAY),),
    ),
    (
        {
            "name": "Grebe database",
            "publisher": "Grebe",
            "metric": "core",
            "products": ["grebe-database"],
            "release": "14",
            "per_processor": 8,
            "pack": 2,
            "guests": "host",
        },
        ((1200, 20, "775.00", "EUR", "PO-1920", _INLET),),
    ),
    (
        {
            "name": "Berthwright Planner",
            "publisher": "Callow Marine",
            "metric": "activation",
            "products": ["Berthwright Planner"],
            "keys_wanted": True,
        },
        ((1100, 16, "640.00", "EUR", "PO-1955", "Callow Marine"),),
    ),
    (
        {
            "name": "Crewroster",
            "publisher": "Callow Marine",
            "metric": "virtual machine",
            "products": ["crewroster"],
            "guests": "host",
            "per_host": 2,
        },
        ((800, 9, "300.00", "EUR", "PO-2088", "Callow Marine"),),
    ),
    (
        {
            "name": "Storekeeper, whole company",
            "publisher": "Callow Marine",
            "metric": "site",
            "products": ["storekeeper"],
            "without_limit": True,
        },
        (),
    ),
    (
        {
            "name": "Galleykeeper Till",
            "publisher": "Galleykeeper",
            "metric": "device",
            "products": ["Galleykeeper Till"],
            "release": "5.1",
        },
        ((1000, 30, "95.00", "EUR", "PO-1998", "Galleykeeper"),),
    ),
    (
        {"name": "Heron Monitor", "publisher": "Heron", "metric": "capacity unit", "products": ["heron-monitor"],
         "formula": "memory / 16"},
        ((500, 40, "22.00", "EUR", "PO-2301", _QUAY),),
    ),
)  # fmt: skip

CONTRACTS: tuple[dict[str, Any], ...] = (
    {"name": "Printer lease", "provider": "Quayside Leasing", "kind": "lease", "number": "QL-4471", "began": 700,
     "ends": 71, "renews": 12, "notice": 60, "cost": "1180.00", "every": "month", "covers": "kind = printer"},
    {"name": "Link to Grey Ness", "provider": "Strandline Circuits", "kind": "service", "number": "SC-20-118",
     "began": 1050, "ends": 36, "renews": 12, "notice": 30, "cost": "2340.00", "every": "quarter",
     "covers": 'kind = router and place = "Grey Ness"'},
    {"name": "Switch support", "provider": "Selkie Networks", "kind": "support", "number": "SN-7702", "began": 330,
     "ends": 214, "notice": 0, "cost": "9600.00", "every": "year", "covers": "kind = switch"},
    {"name": "Berthwright support", "provider": "Callow Marine", "kind": "maintenance", "number": "CM-118",
     "began": 500, "ends": 158, "renews": 12, "notice": 90, "cost": "64000", "currency": "NOK", "every": "year",
     "covers": "software[product = \"Berthwright Planner\"]"},
    {"name": "Power supplies, service", "provider": "Gannet Power", "kind": "maintenance", "number": "GP-0093",
     "began": 800, "ends": -20, "cost": "1450.00", "every": "year", "covers": "kind = \"power supply\""},
    {"name": "Cloud account", "provider": "Cirrus Quay", "kind": "subscription", "number": "CQ-3301", "began": 410,
     "ends": None, "cost": "310.00", "every": "month", "covers": ""},
    {"name": "Camera upkeep", "provider": "Brightwire", "kind": "maintenance", "number": "BW-558", "began": 230,
     "ends": 12, "renews": 6, "notice": 14, "cost": "690.00", "every": "half year",
     "covers": "kind in (camera, recorder)"},
)  # fmt: skip
"""`began` so many days ago, `ends` in so many."""

ORDERS: tuple[tuple[str, str, str, int, str, int], ...] = (
    ("PO-2120", "Quayside Hardware", "laptop", 1060, "940.00", 36),
    ("PO-2204", "Quayside Hardware", "kiosk", 700, "1480.00", 36),
    ("PO-2262", "Inlet Systems", "server", 640, "5200.00", 24),
    ("PO-2377", "Inlet Systems", "printer", 430, "610.00", 24),
    ("PO-2071", "Quayside Hardware", "workstation", 1340, "760.00", 36),
    ("PO-2298", "Quayside Hardware", "till", 560, "620.00", 24),
)
"""Received in full: number, supplier, kind, ordered so many days ago, price of one, months of warranty."""

_TERMS = {"Pellucid Reader, yearly": (330, 45), "Corvid Protect": (700, 320)}
"""Begun so many days ago, ending in so many."""
_MAINTAINED = {"Galleykeeper Till": 200, "Grebe database": -60}
"""Maintenance ends in so many days; before today where less than nothing."""


def own(user: Any, today: date) -> None:
    """Enter licences with what was bought of them, keys, contracts, and what is said of single devices."""
    from tarn.apps.estate.software.installed import keys_found, machines
    from tarn.apps.licences.actions.keys import add_keys
    from tarn.apps.licences.actions.licences import buy, make_licence
    from tarn.apps.licences.actions.pins import need, say
    from tarn.apps.licences.inputs import LicenceIn, PurchaseIn, SaidIn
    from tarn.apps.lifecycle.actions.contracts import make_contract
    from tarn.apps.lifecycle.inputs import ContractIn
    from tarn.apps.money.actions.ledger import take_in_rates

    take_in_rates(user, RATES)
    made = {}
    for told, lines in LICENCES:
        begun, ends = _TERMS.get(told["name"], (None, None))
        kept = _MAINTAINED.get(told["name"])
        dates = {
            "starts": today - timedelta(days=begun) if begun else None,
            "ends": today + timedelta(days=ends) if ends else None,
            "maintained_until": today + timedelta(days=kept) if kept else None,
        }
        licence = made[told["name"]] = make_licence(user, LicenceIn.model_validate({**told, **dates}))
        for ago, quantity, price, currency, order, supplier in lines:
            line = {"day": today - timedelta(days=ago), "quantity": quantity, "price": price, "currency": currency}
            buy(user, licence.pk, PurchaseIn.model_validate({**line, "order": order, "supplier": supplier}))
    planner = sorted({key for _, product, key in keys_found(None) if product.startswith("Berthwright")})
    if planner:
        add_keys(user, made["Berthwright Planner"].pk, "\n".join(planner[:2]), 1)
    need(user, "ostler-client", True)
    by_name = {machine.name: asset for asset, machine in machines(None).items()}
    for told in CONTRACTS:
        began, ends = told["began"], told["ends"]
        dates = {
            "starts": today - timedelta(days=began),
            "ends": None if ends is None else today + timedelta(days=ends),
        }
        make_contract(user, ContractIn.model_validate({**told, **dates, "notices": [90, 45, 14]}))
    _order(user, today)
    until = today + timedelta(days=38)
    exempt = {"product": "Quill Office", "assets": [by_name["salt-win-02"]], "says": "exempt", "why": "test bench"}
    say(user, SaidIn.model_validate({**exempt, "until": until}), today)


def _order(user: Any, today: date) -> None:
    """Enter orders: some received long ago, whose pieces the sweeps have found; one under way, one late."""
    from tarn.apps.estate.asking.ask import question
    from tarn.apps.estate.register.rows import rows_of
    from tarn.apps.lifecycle.actions.orders import make_order, receive
    from tarn.apps.lifecycle.inputs import PurchaseOrderIn

    for number, supplier, kind, ago, price, warranty in ORDERS:
        asked = question(f"kind = {kind} and serial != none")
        pieces = [r["serial"] for r in rows_of("asset", ["serial", "kind"], asked, "", ["serial"]) if r["serial"]]
        # What a board shows in place of a serial number, and what two show, was on no delivery note.
        pieces = [s for s in pieces if re.fullmatch(r"[A-Z0-9]+-[0-9]{3,}", s) and pieces.count(s) == 1][:40]
        day = today - timedelta(days=ago)
        line = {"kind": kind, "quantity": len(pieces), "price": price, "warranty": warranty, "cost_centre": "IT-400"}
        made = make_order(
            user, PurchaseOrderIn.model_validate({"number": number, "supplier": supplier, "day": day, "lines": [line]})
        )
        receive(user, made.orderline_set.get().pk, "\n".join(pieces), day + timedelta(days=12), known=True)
    laptops = {"kind": "laptop", "manufacturer": "Halberd", "model": "L16", "price": "985.00", "warranty": 36}
    scanners = {"kind": "scanner", "manufacturer": "Quarto Imaging", "model": "Q2", "price": "310.00", "warranty": 12}
    for number, ago, due, lines in (
        ("PO-2588", 16, 9, [{**laptops, "quantity": 12}, {**scanners, "quantity": 6}]),
        ("PO-2569", 47, -5, [{**laptops, "quantity": 4}]),
    ):
        days = {"day": today - timedelta(days=ago), "expected": today + timedelta(days=due)}
        make_order(
            user,
            PurchaseOrderIn.model_validate({"number": number, "supplier": "Quayside Hardware", "lines": lines, **days}),
        )
