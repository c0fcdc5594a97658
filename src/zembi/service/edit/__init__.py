"""The edit: operations as journaled changes."""
