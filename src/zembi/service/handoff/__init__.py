"""The film and the files for other programs."""
