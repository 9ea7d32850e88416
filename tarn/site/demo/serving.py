"""The demo company's services: what people call them, who owns them, and by which rules devices are of them."""

from typing import Any

from tarn.apps.labels.inputs import WordsIn
from tarn.apps.labels.printing import change_words
from tarn.apps.services.inputs import ServiceIn
from tarn.apps.services.kept.catching_up import catch_up
from tarn.apps.services.kept.change import keep

SERVICES: tuple[dict[str, Any], ...] = (
    {
        "name": "Ticketing",
        "purpose": "Selling and checking tickets at counters, kiosks and on the web",
        "owner": "Ines Kallas",
        "deputies": ["Sten Ravell"],
        "promise": 60,
        "hours": "every day, 05:00 to 23:00",
        "places": ["Saltholm", "Port Averne"],
        "importance": "high",
        "entries": [{"host": "10.60.4.20", "port": 80}, {"host": "salt-tix-02.skerrivane.example", "port": 443}],
        "parts": [
            {
                "name": "Ticket servers",
                "needs": 1,
                "rules": [
                    {"filter": "kind = server and software[product ~ tixline]", "why": "the ticket server is installed"}
                ],
            },
            {
                "name": "Database",
                "needs": 1,
                "rules": [
                    {
                        "filter": "ports[port = 5432] and called by [kind = server and software[product ~ tixline]]",
                        "why": "the ticket servers call it on 5432",
                    }
                ],
            },
        ],
    },
    {
        "name": "Berth planning",
        "purpose": "Which ship lies where, and when",
        "owner": "Sten Ravell",
        "promise": 240,
        "hours": "every day",
        "places": ["Saltholm"],
        "entries": [{"host": "10.60.4.23", "port": 80}],
        "parts": [
            {
                "name": "Planner",
                "needs": 1,
                "rules": [{"filter": "ports[port = 80 and process = berthwright]", "why": "it answers on 80"}],
            }
        ],
    },
    {
        "name": "Crew roster",
        "purpose": "Who sails when, and who is paid for it",
        "owner": "Ines Kallas",
        "promise": 480,
        "hours": "Monday to Friday, 07:00 to 19:00",
        "places": ["Saltholm"],
        "entries": [{"host": "salt-crew-01.skerrivane.example", "port": 443}],
        "parts": [
            {
                "name": "Roster",
                "needs": 1,
                "rules": [{"filter": "name = salt-crew-01", "why": "people open this one"}],
            },
            {
                "name": "Database",
                "needs": 1,
                "rules": [
                    {"filter": "ports[port = 5432] and called by [name = salt-crew-01]", "why": "the roster calls it"}
                ],
            },
        ],
    },
    {
        "name": "Mail",
        "purpose": "Mail of everybody ashore and aboard",
        "owner": "Ines Kallas",
        "promise": 480,
        "hours": "every day",
        "entries": [{"host": "10.60.4.26", "port": 993}],
        "parts": [
            {
                "name": "Mail",
                "needs": 1,
                "rules": [{"filter": "software[product ~ merlin]", "why": "the mail server is installed"}],
            }
        ],
    },
)


WORDS = {
    "company": "Skerrivane Ferries",
    "phone": "+00 555 0134",
    "words": "Please bring it to any ferry or terminal of ours, or call.",
    "version": 0,
}
"""What labels say."""


def serve(user: Any) -> None:
    """Keep the company's services; what else many call is left for Tarn to propose. Say what labels say."""
    for said in SERVICES:
        keep(user, ServiceIn.model_validate(said))
    catch_up()
    change_words(user, WordsIn.model_validate(WORDS))
