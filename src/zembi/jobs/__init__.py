"""Long work: a queue in the database, run by processes, with progress, cancel and resume."""
