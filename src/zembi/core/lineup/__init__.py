"""Takes on the song: passes, angles, feeds, and what they cover."""
