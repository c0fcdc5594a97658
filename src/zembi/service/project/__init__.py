"""A project: its folder and database, transactions, and one look at all of it."""
