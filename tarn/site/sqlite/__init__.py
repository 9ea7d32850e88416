"""Django's SQLite, with turns among writers."""
