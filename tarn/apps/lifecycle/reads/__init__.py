"""Contracts, what ends when, and what is to be paid."""
