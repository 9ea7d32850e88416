"""Tests that the tables and what is written of them agree."""

import pytest
from django.core.management import call_command


@pytest.mark.django_db
def test_every_change_of_a_table_has_its_migration(capsys: pytest.CaptureFixture[str]) -> None:
    call_command("makemigrations", "--check", "--dry-run")
    assert "No changes detected" in capsys.readouterr().out
