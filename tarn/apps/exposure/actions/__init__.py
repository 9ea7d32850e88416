"""What people decide of exposure: one file a verb."""
