"""Fuzzing the whole API by its own description: `make fuzz`."""
