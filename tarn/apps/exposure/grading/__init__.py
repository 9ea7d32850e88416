"""How bad it is here, by when it is to be ended, and what is left open for a while."""
