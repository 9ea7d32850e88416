"""Credentials: sealed, tried, and where they may go."""
