"""Devices that report of themselves."""
