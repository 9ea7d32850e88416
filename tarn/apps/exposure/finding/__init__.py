"""What is here, how it stands to what is known, and which device is open to what."""
