"""Sweeps and their runs."""
