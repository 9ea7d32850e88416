"""What can be done with contracts."""
