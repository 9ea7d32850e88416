"""Exposure: feeds of advisories, which of them touch what is here, and what follows from that."""
