"""Services: what stands on what, and what stops if something stops."""
