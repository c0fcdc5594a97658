"""Treatments: time and picture that move with the music, kept as what was meant and worked out on the grid of the day."""
