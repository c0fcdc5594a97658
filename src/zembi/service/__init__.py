"""The use cases: they join core, media and store, and are the only place that opens a transaction."""
