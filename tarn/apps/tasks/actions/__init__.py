"""What people do about tasks: ask for them, approve, stop; write scripts and review them."""
