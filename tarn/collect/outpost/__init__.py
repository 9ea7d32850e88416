"""An outpost: the sweep's engine in a network that Tarn cannot reach, and what passes between the two."""
