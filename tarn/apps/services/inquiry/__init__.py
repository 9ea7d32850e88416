"""The inquiry: a few devices side by side under one clock, and what about them is out of the ordinary."""
