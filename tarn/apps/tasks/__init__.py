"""Tasks: restarting, waking, uninstalling, running reviewed scripts, and seeing that it worked."""
