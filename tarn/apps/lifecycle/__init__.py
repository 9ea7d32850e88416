"""What ends when, what it costs, and what is decided of it."""
