"""Commands that start Tarn: the web server, the worker, both."""

from typing import Annotated

import typer

from tarn.site.ready import ready

CONNECTIONS = 400
"""Connections that are served at once; those beyond are told to come again (503)."""


def serve(
    port: Annotated[int, typer.Option(envvar="TARN_PORT")] = 8000,
    host: Annotated[str, typer.Option(envvar="TARN_HOST")] = "127.0.0.1",
    reload: Annotated[bool, typer.Option("--reload", help="start anew when a source file changes")] = False,
    processes: Annotated[int, typer.Option(envvar="TARN_WEB", min=1, max=64, help="web processes")] = 1,
) -> None:
    """Serve the application."""
    ready()
    import uvicorn

    from tarn.apps.people.actions import first
    from tarn.site.bounds import HEAD_SIZE, HeadInTime
    from tarn.site.running import at_work

    at_work()
    if first.needed():
        typer.echo(f"No account yet: make the first one on the page, with the code {first.code()}", err=True)
    uvicorn.run(
        "tarn.site.asgi:application",
        host=host,
        port=port,
        log_level="warning",
        lifespan="off",
        proxy_headers=False,  # whom a proxy speaks for is settled by TARN_PROXIES (people.throttle)
        server_header=False,
        http=HeadInTime,
        limit_concurrency=CONNECTIONS,
        timeout_keep_alive=10,
        h11_max_incomplete_event_size=HEAD_SIZE,
        reload=reload,
        workers=processes if processes > 1 else None,
        reload_dirs=["tarn"] if reload else None,
        timeout_graceful_shutdown=2,
    )


def run(
    port: Annotated[int, typer.Option(envvar="TARN_PORT")] = 8000,
    host: Annotated[str, typer.Option(envvar="TARN_HOST")] = "127.0.0.1",
    processes: Annotated[int, typer.Option(envvar="TARN_WEB", min=1, max=64, help="web processes")] = 1,
    workers: Annotated[int, typer.Option(help="background jobs at once")] = 2,
) -> None:
    """Run web server and worker, and start again what ends by itself."""
    ready()
    from tarn.site.measuring import begin_anew
    from tarn.site.run import Keeper, commands

    begin_anew()
    raise typer.Exit(Keeper(commands(port, host, processes, workers)).run())


def worker(
    workers: Annotated[int, typer.Option(help="jobs at once")] = 2,
    looks: Annotated[
        bool, typer.Option("--looks", help="only look at devices for sweeps, by Redis (TARN_REDIS, TARN_LOOKS_KEY)")
    ] = False,
    name: Annotated[
        str, typer.Option(help="with --looks: what stands beside what it found; else the host's name")
    ] = "",
) -> None:
    """Carry out background jobs."""
    if looks:
        look_for_others(name)
        return
    ready()
    from huey.contrib.djhuey import HUEY

    from tarn.apps.discovery import clock  # noqa: F401  (what it asks for each minute)
    from tarn.apps.discovery.credentials import jobs as trials  # noqa: F401  (likewise)
    from tarn.apps.discovery.recovering import recover
    from tarn.apps.estate.custom.fields import refresh
    from tarn.apps.exposure import jobs as exposure_jobs  # noqa: F401  likewise
    from tarn.apps.filling import jobs as filling  # noqa: F401  (likewise)
    from tarn.apps.handbooks import jobs as handbook_jobs  # noqa: F401  likewise
    from tarn.apps.people.turns import work_in_background
    from tarn.apps.reports import jobs as watches  # noqa: F401  (likewise)
    from tarn.apps.software import jobs as states  # noqa: F401  likewise
    from tarn.apps.tasks import jobs as tasks  # noqa: F401  (likewise)
    from tarn.apps.upkeep.beat import begin_beating
    from tarn.site import jobs as upkeep  # noqa: F401  likewise
    from tarn.site.measuring import watch_jobs
    from tarn.site.running import at_work

    at_work()
    begin_beating()
    watch_jobs(HUEY)
    work_in_background()
    HUEY.pre_execute()(lambda task: refresh())
    recover()
    # A job somebody waits for is taken up within half a second.
    pace = {"initial_delay": 0.1, "max_delay": 0.5, "backoff": 1.2}
    HUEY.create_consumer(workers=workers, worker_type="thread", check_worker_health=False, **pace).run()


def look_for_others(name: str) -> None:
    """Look at devices for sweeps of a Tarn elsewhere; neither its database nor its files are needed."""
    import asyncio
    import logging
    import os
    import socket

    from tarn.collect.looks.looker import Looker
    from tarn.collect.looks.speech import Seal, Unsealed, reached
    from tarn.site.asking import fail

    url, key = os.environ.get("TARN_REDIS", ""), os.environ.get("TARN_LOOKS_KEY", "")
    if not url or not key:
        fail("Looking for others takes TARN_REDIS, where Redis is, and TARN_LOOKS_KEY, the key both sides are told.", 1)
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(levelname)s %(name)s: %(message)s")
    logging.getLogger("asyncssh").setLevel(logging.ERROR)
    try:
        redis = reached(url)
        looker = Looker(redis, Seal(key), name or socket.gethostname())
        asyncio.run(looker.serve())
    except* Unsealed as fault:
        fail(f"This machine may not look: {fault.exceptions[0]}.", 1)
    except* KeyboardInterrupt:
        pass


def looks_key() -> None:
    """Print a new key for looks elsewhere: TARN_LOOKS_KEY of the worker and of those that look for it."""
    from cryptography.fernet import Fernet

    typer.echo(Fernet.generate_key().decode())
