"""Findings of our own: rules of the company, and which device fitted each from when to when."""
