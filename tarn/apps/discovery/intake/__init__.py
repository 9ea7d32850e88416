"""What waits to be adopted, and the rules that decide of it."""
