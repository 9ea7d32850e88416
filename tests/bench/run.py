"""`make bench`: every figure as a ratio against a floor of the same run."""

import argparse
import os
import shutil
import signal
import sys
import tempfile
from collections.abc import Callable, Iterator
from typing import Any


def main() -> int:
    """Measure and print; return 1 where a figure misses its goal."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--full", action="store_true")
    parser.add_argument("--format", default="table", choices=("table", "json"))
    parser.add_argument(
        "--only",
        default="",
        help="states, network, judgement, files, owed, ingest, estate, holdings, exposure, standing or today",
    )
    options = parser.parse_args()
    devices = 100_000 if options.full else 10_000
    home = tempfile.mkdtemp(prefix="tarn-bench-")
    os.environ["TARN_HOME"] = home
    os.environ["DJANGO_SETTINGS_MODULE"] = "tarn.site.settings"
    os.environ.setdefault("TARN_LAB_OFFSET", "11000")
    # Ended by a signal it ends as by an exception: what it started, a lab among it, is ended with it.
    signal.signal(signal.SIGTERM, lambda number, frame: sys.exit(128 + number))
    try:
        missed = 0
        for figure in _figures(devices, options.only):
            missed += not figure.holds
            if options.format == "json":
                print(figure.line(), flush=True)
            else:
                mark = "holds " if figure.holds else "MISSES"
                print(
                    f"{mark} {figure.name:<18} {figure.value:>9.3f} {figure.unit:<26} {figure.goal:<9} {figure.note}",
                    flush=True,
                )
        return 1 if missed else 0
    finally:
        shutil.rmtree(home, ignore_errors=True)


def _say(text: str) -> None:
    print(f"  … {text}", file=sys.stderr, flush=True)


def _figures(devices: int, only: str) -> Iterator[Any]:
    import django

    django.setup()
    from tarn.site.ready import ready

    ready()
    from tests.bench import (
        asking,
        estate,
        exposure,
        holdings,
        ingest,
        judgement,
        network,
        owed,
        page,
        reach,
        standing,
        states,
        today,
    )

    def several(measure: Callable[[], Any]) -> Iterator[Any]:
        found = measure()
        yield from found if isinstance(found, list) else [found]

    if only == "states":
        yield from several(lambda: states.measure(devices, _say))
        return
    if only in ("", "snmp", "sweep", "network"):
        yield from several(network.measure)
        if only:
            return
    if only in ("", "judgement"):
        yield from several(judgement.identity_score)
        yield from several(judgement.crosscheck)
        if only:
            return
    if only in ("", "files"):
        yield from several(reach.long_file)
        if only:
            return
    if only in ("", "standing"):
        yield from several(lambda: standing.core(devices))
        yield from several(standing.programs)
    if only in ("", "owed"):
        for measure in (owed.depreciation, owed.payments, owed.assignment, owed.household):
            yield from several(measure)
        if only:
            return
    if only not in ("holdings", "exposure", "standing", "today"):
        yield from several(ingest.first_ingest)
        yield from several(ingest.again)
    if only == "ingest":
        return
    _say(f"building an estate of {devices:,} devices")
    ingest.build(devices, _say)
    if only == "holdings":
        yield from several(lambda: holdings.measure(devices))
        return
    if only in ("", "standing"):
        yield from several(standing.kept)
        if only:
            return
    if only in ("", "today"):
        yield from several(today.measure)
        if only:
            return
    if only in ("", "exposure"):
        yield from several(exposure.exposure)
        if only:
            return
    if only != "estate":
        yield from several(lambda: ingest.identity(devices))
    for measure in (
        estate.overview,
        estate.changed,
        estate.lacking,
        estate.names,
        estate.filled,
        estate.kept,
        estate.files,
    ):
        yield from several(measure)
    if only == "estate":
        return
    yield from several(lambda: holdings.measure(devices))
    yield from several(asking.register)
    yield from several(asking.bands)
    yield from several(asking.language)
    yield from several(page.weight)
    yield from several(page.processes)


if __name__ == "__main__":
    sys.exit(main())
