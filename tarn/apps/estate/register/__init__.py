"""Devices: pages of them, one of them, what changed on them, and what is decided of them."""
