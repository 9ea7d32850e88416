"""Looks elsewhere: other machines look at a run's addresses, handed to them and back through Redis."""
