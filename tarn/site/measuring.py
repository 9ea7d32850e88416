"""What is measured while Tarn runs, as Prometheus reads it (text exposition format 0.0.4): by all processes of it.

Each process keeps its figures in a file of its own below the data directory, so that whichever web process is asked
tells of all of them, the worker among them.
"""

import os
import shutil
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import structlog

from tarn.site.home import home

_FOLDER = home() / "metrics"
_FOLDER.mkdir(exist_ok=True, mode=0o700)
os.environ["PROMETHEUS_MULTIPROC_DIR"] = str(_FOLDER)

from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest  # noqa: E402  it reads the folder
from prometheus_client.core import GaugeMetricFamily  # noqa: E402
from prometheus_client.multiprocess import MultiProcessCollector  # noqa: E402

ANSWERS = Histogram(
    "tarn_answer_seconds",
    "Answers of the API by operation and status, in seconds",
    ("door", "status"),
    buckets=(0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30),
)
JOBS = Histogram(
    "tarn_job_seconds", "Background jobs by name, in seconds", ("job",), buckets=(0.1, 1, 10, 60, 600, 3600)
)
JOBS_FAILED = Counter("tarn_jobs_failed", "Background jobs that ended with an exception", ("job",))


def begin_anew() -> None:
    """Drop what processes of an earlier run measured; asked before any is started."""
    shutil.rmtree(_FOLDER, ignore_errors=True)
    _FOLDER.mkdir(exist_ok=True, mode=0o700)


@dataclass(frozen=True, slots=True)
class _Standing:
    """How things stand at the moment they are asked for."""

    figures: Iterable[tuple[str, str, float]]

    def collect(self) -> Iterator[Any]:
        for name, says, value in self.figures:
            yield GaugeMetricFamily(f"tarn_{name}", says, value=value)


def exposition(figures: Iterable[tuple[str, str, float]]) -> bytes:
    """Return all that is measured, and the figures (name, what it is, value) beside it, as Prometheus reads it."""
    registry = CollectorRegistry()
    MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    registry.register(_Standing(figures))
    return generate_latest(registry)


def watch_jobs(huey: Any) -> None:
    """Measure each job of a queue, and have each line of the log it causes name it."""
    began: dict[str, float] = {}

    def before(task: Any) -> None:
        began[task.id] = time.perf_counter()
        structlog.contextvars.bind_contextvars(job=f"{type(task).__name__}-{task.id[:8]}")

    def after(task: Any, value: Any, fault: BaseException | None) -> None:
        name = type(task).__name__
        JOBS.labels(name).observe(time.perf_counter() - began.pop(task.id, time.perf_counter()))
        if fault is not None:
            JOBS_FAILED.labels(name).inc()
        structlog.contextvars.unbind_contextvars("job")

    huey.pre_execute("measured")(before)
    huey.post_execute("measured")(after)


def folder() -> Path:
    """Where processes keep what they measure."""
    return _FOLDER
