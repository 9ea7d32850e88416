"""What assets are worth, what they cost a month, and when they are to be replaced."""
