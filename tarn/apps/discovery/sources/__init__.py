"""Other systems that are asked, and their syncs."""
