"""What is told of standing and stopping."""
