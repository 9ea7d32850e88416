"""Who holds and uses devices."""
