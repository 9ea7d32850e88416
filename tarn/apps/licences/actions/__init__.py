"""What can be done with licences, one file a thing."""
