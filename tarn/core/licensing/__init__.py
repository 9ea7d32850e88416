"""Licences: what is owned, what is used, which right covers which use, and what follows."""
