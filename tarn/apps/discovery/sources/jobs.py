"""Syncs as jobs of the queue."""

from huey.contrib.djhuey import db_task

from tarn.apps.discovery.intake.rules import apply_rules
from tarn.apps.discovery.sources.syncing import carry_out_sync


@db_task()
def run_sync(sync_id: int) -> None:
    """Carry out a sync."""
    carry_out_sync(sync_id)
    apply_rules()
