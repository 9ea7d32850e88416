"""Fields and kinds of the company's own."""
