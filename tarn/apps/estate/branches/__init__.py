"""What lies under what: places, departments, organisations."""
