"""The reporter: the script a computer runs to describe itself, and the reading of what it sends."""
