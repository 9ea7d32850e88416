"""Questions that are kept: sets, phrases, and who is in them."""
