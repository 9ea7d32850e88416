"""Files that are taken in."""
