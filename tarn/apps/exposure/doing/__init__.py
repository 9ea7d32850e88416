"""What ends it: proposed changes, in which order, by whom."""
