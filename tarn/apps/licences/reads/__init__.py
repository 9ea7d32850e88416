"""What is owned, what is used, and how the two stand against each other on any day."""
