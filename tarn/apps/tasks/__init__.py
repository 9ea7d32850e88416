"""Tasks: restarting, waking, uninstalling, updating, running reviewed scripts, and seeing that it worked."""
