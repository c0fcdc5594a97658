"""The store: tables, migrations, reading and writing rows, and the undo journal."""
