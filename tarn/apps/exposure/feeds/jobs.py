"""Readings of feeds as jobs of the queue."""

from huey.contrib.djhuey import db_task

from tarn.apps.exposure.feeds.reading import carry_out


@db_task()
def run_feed(run_id: int) -> None:
    """Carry out a reading."""
    carry_out(run_id)
