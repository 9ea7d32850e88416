"""Feeds: how documents come in, what is kept of them, and what was refused."""
