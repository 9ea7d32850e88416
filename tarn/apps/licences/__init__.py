"""Licences: what was bought, the keys, and how it stands against what is used."""
