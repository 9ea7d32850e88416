"""Notes and files that hang on what is held."""
