"""Other systems that tell of devices by themselves."""
