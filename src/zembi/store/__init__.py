"""What is kept: tables, migrations, reading and writing rows, and the undo journal."""
