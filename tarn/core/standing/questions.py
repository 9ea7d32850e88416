"""Questions that ship, to begin the rules of a service with: each a filter to be made one's own, and why it fits."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class ShippedQuestion:
    """A question: what it asks in words, the filter that asks it, and what is said of a device it finds."""

    name: str
    filter: str
    why: str


_Q = ShippedQuestion
QUESTIONS: tuple[ShippedQuestion, ...] = (
    _Q("What listens on a port", "ports[port = 443]", "it listens on 443"),
    _Q("What a program listens with", 'ports[port = 443 and process = "httpd"]', "its program answers there"),
    _Q("Servers a product is installed on", 'kind = server and software[product ~ "ticket"]', "it has the product"),
    _Q("Where an application of the company's runs", 'applications[name = "Rota feed"]', "it runs there"),
    _Q("What answers the computers of a department on a port",
       'ports[port = 1433] and called by [department = "Accounts"]', "the computers of Accounts call it on 1433"),
    _Q("The computers of people of a department", 'department = "Accounts" and kind in (workstation, laptop)',
       "somebody of Accounts works with it"),
    _Q("The database behind servers", "ports[port = 5432] and called by [kind = server]", "the servers call it"),
    _Q("What has files of another", 'needed by [name = "mail"] and count shares >= 1', "its files are in use there"),
    _Q("All that another service stands on", 'needed by [serves[name = "Ticketing"]]', "that service stands on it"),
    _Q("What a certificate is presented by", 'certificates[subject = "shop.example"]', "it presents the certificate"),
    _Q("What a name leads to", 'dns_names[name = "shop.example"]', "the name leads to it"),
    _Q("Guests of a host", 'guest of [name = "host-1"]', "it runs on that host"),
    _Q("Machines of a kind at a place", 'kind = kiosk and place = "Terminal"', "it stands there"),
)  # fmt: skip
"""In the order of how often they are wanted."""
