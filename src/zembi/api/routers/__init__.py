"""One router for each step of the work."""
