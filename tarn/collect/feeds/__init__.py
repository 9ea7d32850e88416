"""Feeds: where documents of advisories come from, and how only what is new of them is fetched."""
