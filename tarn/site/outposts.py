"""The command `tarn outpost`: no database, no web server, only the engine and the link."""

import asyncio
import hashlib
import logging
import signal
from importlib.metadata import version
from pathlib import Path

from tarn.collect.outpost.link import Link
from tarn.collect.outpost.serve import Dismissed, Outpost
from tarn.collect.routes import route_named
from tarn.site.home import home


class CannotJoin(RuntimeError):
    """An outpost that cannot begin or may not go on; the message says why."""


def serve_outpost(url: str, token: str, keep: Path | None, authority: Path | None, route: str) -> None:
    """Serve until the process is told to end. Raises CannotJoin."""
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(levelname)s %(name)s: %(message)s")
    for quiet in ("asyncssh", "httpx"):
        logging.getLogger(quiet).setLevel(logging.ERROR)
    # Several outposts can live on one machine: each keeps its own.
    folder = keep or home() / "outpost" / hashlib.sha256(token.encode()).hexdigest()[:12]
    try:
        link = Link(url, token, authority)
        way = route_named(route)
    except (ValueError, OSError) as error:
        raise CannotJoin(str(error)) from None
    asyncio.run(_serve(Outpost(link, way, folder, version("tarn")), link))


async def _serve(outpost: Outpost, link: Link) -> None:
    task = asyncio.current_task()
    assert task is not None
    loop = asyncio.get_running_loop()
    for sign in (signal.SIGINT, signal.SIGTERM):
        loop.add_signal_handler(sign, task.cancel)
    try:
        await outpost.serve()
    except* Dismissed as several:
        raise CannotJoin(str(several.exceptions[0])) from None
    except* asyncio.CancelledError:
        pass
    finally:
        await link.close()
