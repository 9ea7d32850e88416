"""Other systems that know devices: each yields what it knows as findings, a device at a time."""
