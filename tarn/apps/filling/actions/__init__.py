"""Making fill rules, putting them in force, and carrying them out."""
