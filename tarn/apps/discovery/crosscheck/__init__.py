"""What each source sees, and why one does not see a device."""
