"""What takes long of an import, as jobs of the queue."""

from huey.contrib.djhuey import db_task

from tarn.apps.discovery.imports.taking_back import take_back


@db_task()
def take_import_back(import_id: int, username: str) -> None:
    """Take the rows of an import back."""
    take_back(import_id, username)
