"""Book values, costs a month, and plans of refresh, reckoned from evidence and rules."""
