"""What readers of shell output share."""

MARK = "--tarn--"
"""Printed between two answers of one line."""


class Unread(Exception):
    """A section that could not be read; the message says why."""
