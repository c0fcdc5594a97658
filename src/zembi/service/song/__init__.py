"""The song: grid, sections, marks, lyrics, cutdown, and choosing it."""
