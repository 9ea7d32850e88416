"""The engine elsewhere: what it is given to do, and what it hands in."""
