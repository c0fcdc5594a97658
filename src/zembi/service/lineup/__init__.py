"""Takes on the song: passes, the bench, angles and feeds, and the open files of it."""
